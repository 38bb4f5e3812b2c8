// The parts, and importing one from a ply table and a drawing.
import { useState, type FormEvent } from "react";
import { FileTrigger } from "react-aria-components";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, base64, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useKeys } from "../../app/keys";
import { Offer } from "../../app/Offer";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import {
  Big,
  Button,
  Empty,
  Heading,
  Loading,
  Mark,
  Refusal,
  Row,
  Select,
  SelectField,
  Stack,
  Table,
  TextField,
} from "../../ui/parts";
import { useMayNotSign } from "./signing";
import { Seam } from "../../ui/Seam";
import { PartTabs } from "./Tabs";

const Name = styled(Link)`
  font-size: 20px;
  font-weight: 700;
  color: var(--ink);
`;

export function Parts() {
  useTitle("Parts");
  const parts = api.useQuery("get", "/api/parts");
  const navigate = useNavigate();
  useKeys({
    Enter: {
      label: "open the first part",
      run: () => parts.data?.[0] && void navigate(`/parts/${parts.data[0].code}`),
      off: !parts.data?.length,
    },
  });
  const { may } = useSession();
  const mayNotSign = useMayNotSign();
  const [showsArchived, setShowsArchived] = useState(false);
  if (!parts.data) return <Loading error={parts.error} />;
  const shown = parts.data.filter((p) => (p.archived !== undefined) === showsArchived);
  const archived = parts.data.filter((p) => p.archived !== undefined).length;
  // What waits for a signature that this person may give.
  const mine = parts.data.filter(
    (p) =>
      p.archived === undefined &&
      mayNotSign(p) === "" &&
      ((p.waits === "check" && may("check a revision")) || (p.waits === "release" && may("release a revision"))),
  );
  return (
    <>
      <PartTabs />
      <Seam
        left="minmax(0, 1.25fr)"
        names={["Parts", "Import"]}
        planned={
          <>
            <Heading>Masters</Heading>
            <Big>Parts</Big>
            {mine.length > 0 && <ToSign mine={mine} />}
            {shown.length === 0 ? (
              <Empty>
                {showsArchived
                  ? "No part is archived."
                  : "No part yet. Import the first one from its ply table and drawing, on the right."}
              </Empty>
            ) : (
              <PartTable shown={shown} />
            )}
            {(archived > 0 || showsArchived) && (
              <p style={{ marginTop: 10 }}>
                <Button $quiet $small onPress={() => setShowsArchived(!showsArchived)}>
                  {showsArchived ? "Back to the parts" : `${archived} archived`}
                </Button>
              </p>
            )}
          </>
        }
        built={
          <Stack $gap={26}>
            <Offer act="edit the master">
              <Begin />
              <Import />
              <MasterFile />
            </Offer>
          </Stack>
        }
      />
    </>
  );
}

/** A part begun from nothing. */
function Begin() {
  const navigate = useNavigate();
  const resins = api.useQuery("get", "/api/resins");
  const begin = useChange("/api/parts/new", (r) => void navigate(`/parts/${r.part.code}`));
  const [number, setNumber] = useState("");
  const [name, setName] = useState("");
  const [resin, setResin] = useState(0);
  const chosen = resin || resins.data?.[0]?.id || 0;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    begin.mutate({ body: { number, name, resinId: chosen } });
  };
  return (
    <form onSubmit={submit}>
      <Stack $gap={10}>
        <Big>Begin a part</Big>
        <Row $gap={10} style={{ alignItems: "flex-end" }}>
          <div style={{ width: 130 }}>
            <TextField label="Part number" value={number} onChange={setNumber} />
          </div>
          <div style={{ flex: "1 1 160px" }}>
            <TextField label="Name" value={name} onChange={setName} />
          </div>
          <SelectField label="Resin" value={chosen} onChange={(e) => setResin(Number(e.target.value))}>
            {resins.data?.map((r) => (
              <option key={r.id} value={r.id}>
                {r.name}
              </option>
            ))}
          </SelectField>
          <Button
            type="submit"
            $quiet
            why={
              !number.trim()
                ? "Enter its number."
                : !name.trim()
                  ? "Enter its name."
                  : chosen === 0
                    ? "No resin yet: add one."
                    : ""
            }
            isDisabled={begin.isPending}
          >
            Begin
          </Button>
        </Row>
        <Refusal error={begin.error} />
      </Stack>
    </form>
  );
}

/** A whole master from its JSON file. */
function MasterFile() {
  const navigate = useNavigate();
  const importing = useChange("/api/masters", (r) => void navigate(`/parts/${r.part.code}`));
  const [wrong, setWrong] = useState("");
  const read = async (file: File) => {
    setWrong("");
    try {
      importing.mutate({ body: JSON.parse(await file.text()) as Schemas["MasterFile"] });
    } catch {
      setWrong(`${file.name} is not a master file: it is not JSON`);
    }
  };
  return (
    <Stack $gap={10}>
      <Big>A whole master</Big>
      <p>
        One JSON file with stack, outlines, process and family, as any revision gives it. Its{" "}
        <a href="/api/master.schema.json">schema</a> is published.
      </p>
      <Row>
        <FileTrigger acceptedFileTypes={[".json"]} onSelect={(f) => f?.[0] && void read(f[0])}>
          <Button $quiet>Choose the master file</Button>
        </FileTrigger>
      </Row>
      {wrong && (
        <p role="alert">
          <Mark tone="stop">{wrong}</Mark>
        </p>
      )}
      <Refusal error={importing.error} />
    </Stack>
  );
}

function Import() {
  const navigate = useNavigate();
  const importing = useChange("/api/parts", (r) => void navigate(`/parts/${r.part.code}`));
  const [number, setNumber] = useState("");
  const [name, setName] = useState("");
  const [unit, setUnit] = useState<"" | "mm" | "inch">("");
  const [table, setTable] = useState<File | null>(null);
  const [drawing, setDrawing] = useState<File | null>(null);
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    if (!table || !drawing) return;
    const sheet = /\.xlsx$/i.test(table.name);
    const [plyTable, text] = await Promise.all([sheet ? base64(table) : table.text(), drawing.text()]);
    importing.mutate({
      body: {
        number,
        name,
        drawing: text,
        ...(sheet ? { plyTableXlsx: plyTable } : { plyTable }),
        ...(unit ? { unit } : {}),
      },
    });
  };
  return (
    <form onSubmit={(e) => void submit(e)}>
      <Stack $gap={14}>
        <div>
          <Heading>Import</Heading>
          <Big>A part from its files</Big>
        </div>
        <p>
          A ply table (CSV or XLSX: material, angle, outline; also face, x, y in mm) and a drawing (DXF: LINE,
          LWPOLYLINE, ARC, CIRCLE). Each outline lies on a layer of its own; the table names the layer. Nothing is
          stored from files that have a fault.
        </p>
        <TextField label="Drawing number" value={number} onChange={setNumber} isRequired />
        <TextField label="Name (for a new part)" value={name} onChange={setName} />
        <Row>
          <FileTrigger acceptedFileTypes={[".csv", ".xlsx", "text/csv"]} onSelect={(f) => setTable(f?.[0] ?? null)}>
            <Button $quiet>{table ? `Ply table: ${table.name}` : "Choose the ply table"}</Button>
          </FileTrigger>
          <FileTrigger acceptedFileTypes={[".dxf"]} onSelect={(f) => setDrawing(f?.[0] ?? null)}>
            <Button $quiet>{drawing ? `Drawing: ${drawing.name}` : "Choose the drawing"}</Button>
          </FileTrigger>
        </Row>
        <label>
          If the drawing does not say its unit{" "}
          <Select value={unit} onChange={(e) => setUnit(e.target.value as typeof unit)}>
            <option value="">refuse it</option>
            <option value="mm">take mm</option>
            <option value="inch">take inch</option>
          </Select>
        </label>
        <Refusal error={importing.error} />
        <Row>
          <Button
            type="submit"
            why={
              number === ""
                ? "Enter the drawing number."
                : !table
                  ? "Choose the ply table."
                  : !drawing
                    ? "Choose the drawing."
                    : ""
            }
            isDisabled={importing.isPending}
          >
            Import as a draft
          </Button>
        </Row>
      </Stack>
    </form>
  );
}

/** The parts, a row each. */
function PartTable({ shown }: { shown: Schemas["PartLine"][] }) {
  return (
    <Table style={{ marginTop: 12 }}>
      <thead>
        <tr>
          <th>Part</th>
          <th>Released</th>
          <th>Draft</th>
          <th className="n">Plies</th>
          <th className="n">Builds</th>
        </tr>
      </thead>
      <tbody>
        {shown.map((p) => (
          <tr key={p.code}>
            <td>
              <Name to={`/parts/${p.code}`}>{p.number}</Name>
              <br />
              {p.name} <small>{p.code}</small>
              {p.archived && (
                <>
                  <br />
                  <Mark tone="attend">archived: {p.archived}</Mark>
                </>
              )}
            </td>
            <td>{p.released ?? "none"}</td>
            <td>{p.draft ?? "none"}</td>
            <td className="n">{p.plies}</td>
            <td className="n">{p.builds}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Drafts that wait for the signature of who looks. */
function ToSign({ mine }: { mine: Schemas["PartLine"][] }) {
  return (
    <section
      aria-label="Waits for your signature"
      style={{ borderLeft: "4px solid var(--ochre)", padding: "4px 12px" }}
    >
      <Heading as="h2">Waits for your signature</Heading>
      <ul style={{ margin: 0, paddingLeft: 18 }}>
        {mine.map((p) => (
          <li key={p.code} style={{ minHeight: 28 }}>
            <Link to={`/parts/${p.code}`}>
              <b>
                {p.number} {p.draft}
              </b>
            </Link>{" "}
            to {p.waits}, written by {p.wrote ?? "nobody who is named"}
            {p.checked && `, checked by ${p.checked}`}
          </li>
        ))}
      </ul>
    </section>
  );
}
