// A build in the order of its route: as planned on the left, the operation that is worked
// on and what it records on the right.
import { Link, useParams, useSearchParams } from "react-router";
import { api } from "../../app/api";
import { useTitle } from "../../app/shell";
import { moment, spell, told } from "../../ui/format";
import { Big, Button, Caution, Heading, Loading, Mark, Stack, Table } from "../../ui/parts";
import { inOwn } from "../../ui/units";
import { placeOf } from "../../ui/RouteSteps";
import { Seam } from "../../ui/Seam";
import type { Schemas } from "../../contract/types";
import { OperationStatus } from "./OperationStatus";
import { Rework } from "./Rework";
import { StepForm } from "./StepForm";

export function WorkPage() {
  const { code = "" } = useParams();
  const [query, setQuery] = useSearchParams();
  const work = api.useQuery("get", "/api/finish/{code}", { params: { path: { code } } }, { refetchInterval: 15_000 });
  const v = work.data;
  useTitle(v ? `Finish ${v.build.number} ${v.build.serial}` : "Finish");
  if (!v) return <Loading error={work.error} />;
  const b = v.build;
  const asked = v.operations.find((o) => o.operation === query.get("operation"));
  const next = v.operations.find((o) => ["in work", "held", "ready"].includes(o.state));
  const one = asked ?? next ?? v.operations[0];
  return (
    <Seam
      planned={
        <>
          <Heading>
            {b.number} · serial {b.serial} · revision {b.letter} · as planned
          </Heading>
          <Big>{b.name}</Big>
          {v.onePass && (
            <p style={{ marginTop: 12 }}>
              <Mark tone="plain">Its revision has no route: nothing is signed here.</Mark>{" "}
              <Link to={`/thread/${code}`}>Its thread</Link>
            </p>
          )}
          <Table style={{ marginTop: 12 }}>
            <tbody>
              {v.operations.map((o) => (
                <tr key={o.operation} className={o === one ? "on" : undefined}>
                  <td className="n">{o.number}</td>
                  <td>
                    <Button
                      $quiet
                      $small
                      aria-pressed={o === one}
                      onPress={() => setQuery({ operation: o.operation }, { replace: true })}
                    >
                      {o.label}
                    </Button>
                  </td>
                  <td>
                    <OperationStatus o={o} />
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        </>
      }
      built={one && <OneOperation one={one} v={v} b={b} code={code} />}
    />
  );
}

/** What an operation recorded, in the order of its fields; then labels and adherends. */
function Recorded({ o }: { o: Schemas["WorkStep"] }) {
  const planned = o.planned.fields ?? [];
  const besides = Object.keys(o.fields ?? {})
    .filter((key) => !planned.some((f) => f.key === key) && !key.startsWith("sent: "))
    .sort();
  const rows = [
    ...planned.map((f) => ({ key: f.key, name: f.name, unit: f.unit })),
    ...besides.map((key) => ({ key, name: key, unit: undefined })),
  ].filter((r) => o.fields?.[r.key]);
  if (rows.length === 0) return null;
  return (
    <Table>
      <tbody>
        {rows.map((r) => {
          const v = o.fields![r.key]!;
          return (
            <tr key={r.key}>
              <td>{r.name}</td>
              <td>
                {v.number !== undefined && (r.unit ? inOwn(v.number, r.unit) : String(v.number))}
                {v.fileId ? <a href={`/api/files/${v.fileId}`}>{v.text ?? "the file"}</a> : v.text}
                {v.at && ` ${moment(v.at)}`}
              </td>
            </tr>
          );
        })}
      </tbody>
    </Table>
  );
}

/** What an operation asks of whoever does it. */
function Asks({ o }: { o: Schemas["Operation"] }) {
  const facts = [
    [o.place, o.tool].filter(Boolean).join(", "),
    spell((o.setUp ?? 0) + (o.attended ?? 0) + (o.unattended ?? 0)),
    o.qualification && `needs qualification: ${o.qualification}`,
    o.second && "a second person signs",
    o.below && `not before the part is below ${told.degrees(o.below, 0)}`,
    o.adherends && `with ${o.adherends.join(", ")}`,
  ].filter(Boolean);
  return (
    <Stack $gap={6}>
      <p style={{ fontSize: 18 }}>{facts.join(" · ")}</p>
      {o.hold && <Mark tone="attend">Work stops until: {o.hold}</Mark>}
      {o.note && <p>{o.note}</p>}
      {o.caution && <Caution>{o.caution}</Caution>}
    </Stack>
  );
}

/** The operation that is looked at, with what is recorded of it. */
function OneOperation({
  one,
  v,
  b,
  code,
}: {
  one: Schemas["WorkStep"];
  v: Schemas["WorkView"];
  b: Schemas["BuildLine"];
  code: string;
}) {
  return (
    <Stack $gap={14}>
      <div>
        <Heading>
          Operation {one.number} of {v.operations.length}
        </Heading>
        <Big>{one.label}</Big>
      </div>
      <Asks o={one.planned} />
      {one.resin !== undefined && one.cavity !== undefined && (
        <p style={{ fontSize: 20 }}>
          The cavity holds <b>{(one.cavity * 1e6).toFixed(0)} cm³</b>, of which <b>{told.mass(one.resin)}</b> are resin
          as planned.
        </p>
      )}
      <p>
        <OperationStatus o={one} />
      </p>
      {one.fields?.["sent: to"] && (
        <p style={{ fontSize: 20 }}>
          {one.state === "done" ? "It was at" : "Out at"} <b>{one.fields["sent: to"].text}</b>
          {one.fields["sent: due back"]?.at && `, due back ${moment(one.fields["sent: due back"].at)}`}
        </p>
      )}
      {one.state === "done" && <Recorded o={one} />}
      {!one.single && (
        <p style={{ fontSize: 20 }}>
          It is done in its own room: <Link to={placeOf(b.code, one)}>{one.room}</Link>
          {one.run && (
            <>
              , run <Link to={`/cure/${one.run}`}>{one.run}</Link>
            </>
          )}
          .
        </p>
      )}
      {one.lays && (
        <p style={{ fontSize: 20 }}>
          Plies that close the joint are laid at{" "}
          <Link to={`/layup/${b.code}?operation=${encodeURIComponent(one.operation)}`}>the bench</Link> first.
        </p>
      )}
      <StepForm
        key={one.operation + one.state}
        code={code}
        o={one}
        over={b.room === "finished" || b.room === "ended"}
      />
      {b.room !== "finished" && b.room !== "ended" && <Rework code={code} operations={v.operations} />}
    </Stack>
  );
}
