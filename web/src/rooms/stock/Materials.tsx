// Materials: what the data sheets say, in versions; and the resin systems.
import { useState, type ReactNode } from "react";
import { useParams, useNavigate, Link } from "react-router";
import { api } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { date, percent, told } from "../../ui/format";
import { Big, Button, Caution, Empty, Heading, Loading, Mark, Row, Rule, Stack, Table } from "../../ui/parts";
import { Seam } from "../../ui/Seam";
import { EditResin, Resins } from "./Resins";
import { FreezerTabs } from "./tabs";
import { MaterialForm } from "./MaterialForm";

type Material = Schemas["MaterialView"];

export function Materials() {
  useTitle("Materials");
  const { id } = useParams();
  const navigate = useNavigate();
  const { may } = useSession();
  const materials = api.useQuery("get", "/api/materials");
  const resins = api.useQuery("get", "/api/resins");
  const [editing, setEditing] = useState<"new" | "old" | null>(null);
  const [resin, setResin] = useState<Schemas["ResinView"] | "new" | null>(null);
  if (!materials.data || !resins.data) return <Loading error={materials.error ?? resins.error} />;
  const chosen = materials.data.find((m) => String(m.family) === id) ?? materials.data[0];
  const keep = may("manage materials and resins");
  return (
    <>
      <FreezerTabs />
      <Seam
        left="minmax(0, 0.5fr)"
        names={["Materials", "Its data sheet"]}
        planned={
          <Stack $gap={10}>
            <MaterialsHead keep={keep} setResin={setResin} setEditing={setEditing} />
            {materials.data.length === 0 && (
              <Empty>No material yet. Enter the resins below first, then what is made with them.</Empty>
            )}
            <Table>
              <tbody>
                {materials.data.map((m) => (
                  <tr key={m.id} className={m === chosen && editing !== "new" && !resin ? "on" : undefined}>
                    <td>
                      <Link
                        to={`/freezer/materials/${m.family}`}
                        onClick={() => {
                          setEditing(null);
                          setResin(null);
                        }}
                      >
                        <b style={{ fontSize: 18 }}>{m.name}</b>
                      </Link>
                      <br />
                      <small>
                        {m.kind}
                        {m.version > 1 && `, version ${m.version}`}
                      </small>
                    </td>
                    <td className="n">{m.width > 0 && `${told.size(m.width, 0)}`}</td>
                    <td className="n">{m.onHand} on hand</td>
                  </tr>
                ))}
              </tbody>
            </Table>
            <Rule />
            <Resins resins={resins.data} edit={keep ? setResin : undefined} />
          </Stack>
        }
        built={
          resin ? (
            <EditResin
              key={resin === "new" ? 0 : resin.id}
              r={resin === "new" ? null : resin}
              done={() => setResin(null)}
            />
          ) : editing ? (
            <MaterialForm
              key={editing === "new" ? "new" : chosen?.id}
              m={editing === "old" ? chosen : undefined}
              resins={resins.data}
              done={(family) => {
                setEditing(null);
                if (family) void navigate(`/freezer/materials/${family}`);
              }}
            />
          ) : chosen ? (
            <Look m={chosen} keep={keep} edit={() => setEditing("old")} />
          ) : null
        }
      />
    </>
  );
}

function Look({ m, keep, edit }: { m: Material; keep: boolean; edit: () => void }) {
  const versions = api.useQuery("get", "/api/materials/{id}/versions", { params: { path: { id: m.family } } });
  const s = m.sheet;
  const row = (label: string, value: ReactNode, show: unknown) =>
    show ? (
      <tr>
        <td>{label}</td>
        <td>{value}</td>
      </tr>
    ) : null;
  const h = (sec?: number) => sec && `${Math.round(sec / 3600)} h`;
  return (
    <Stack $gap={10}>
      <MaterialHead m={m} keep={keep} edit={edit} />
      <div
        style={{
          display: "grid",
          gridTemplateColumns: "repeat(auto-fit, minmax(260px, 1fr))",
          gap: "0 28px",
          alignItems: "start",
        }}
      >
        <Table>
          <tbody>
            {row("Resin", m.resin, m.resin)}
            {row("Width", `${told.size(m.width, 0)}`, m.width)}
            {row("Sold in widths of", s.widths?.map((w) => told.size(w, 0)).join(", "), s.widths?.length)}
            {row("Cured thickness", `${told.size(m.thickness ?? 0, 3)}`, m.thickness)}
            {row("Bulk factor before cure", s.bulkFactor, s.bulkFactor)}
            {row("Thickness tolerance", `± ${percent(s.thicknessTolerance ?? 0, 1)} %`, s.thicknessTolerance)}
            {row("Locks at a shear of", `${s.lockDeg}°`, s.lockDeg)}
            {row("Spliced with an overlap of", told.size(s.spliceOverlap ?? 0), s.spliceOverlap)}
            {row("Steered round at least", told.size(s.steerRadius ?? 0, 0), s.steerRadius)}
            {row(
              "Sleeve as made",
              `${told.size(s.sleeveDiameter ?? 0)}, yarns at ±${s.sleeveAngleDeg}°`,
              s.sleeveDiameter,
            )}
            {row("Areal mass", `${((m.arealMass ?? 0) * 1e3).toFixed(0)} g/m²`, m.arealMass)}
            {row("of it fibre", `${((s.fibreMass ?? 0) * 1e3).toFixed(0)} g/m²`, s.fibreMass)}
            {row("Resin share", `${((s.resinShare ?? 0) * 100).toFixed(0)} %`, s.resinShare)}
            {row(
              "Weave",
              `${s.weave}${s.warpEqualsWeft ? ", warp equals weft" : ""}${m.asymmetricWeave ? ", faces differ" : ""}`,
              s.weave,
            )}
            {row(
              "Backing",
              [s.filmUp && `up: ${s.filmUp}`, s.filmDown && `down: ${s.filmDown}`].filter(Boolean).join(", "),
              s.filmUp || s.filmDown,
            )}
            {row(
              "In a nest",
              m.halfTurn ? "may be turned by 180°" : "never turned",
              m.kind === "unidirectional" || m.kind === "woven",
            )}
            {row("Density", `${s.density} kg/m³`, s.density)}
            {row("Pressure limit in cure", told.pressure(s.compressionLimit ?? 0), s.compressionLimit)}
            {row("Mix ratio", s.mixRatio, s.mixRatio)}
            {row("Pot life", `${Math.round((s.potLife ?? 0) / 60)} min`, s.potLife)}
          </tbody>
        </Table>
        <Table>
          <tbody>
            {row("Out-life", h(m.outLife), m.outLife)}
            {row("Tack life", h(m.tackLife), m.tackLife)}
            {row("Storage", `${told.degrees(s.storageMax ?? 0)} or colder`, s.storageMax)}
            {row("Shelf life", `${Math.round((s.shelfLife ?? 0) / 86400)} days`, s.shelfLife)}
            {row("E1, E2", `${((m.e1 ?? 0) / 1e9).toFixed(1)}, ${((m.e2 ?? 0) / 1e9).toFixed(1)} GPa`, m.e1)}
            {row("G12, ν12", `${((m.g12 ?? 0) / 1e9).toFixed(2)} GPa, ${m.nu12}`, m.g12)}
            {row(
              "Expansion",
              `${((m.alpha1 ?? 0) * 1e6).toFixed(1)}, ${((m.alpha2 ?? 0) * 1e6).toFixed(1)} µm/(m K)`,
              m.e1,
            )}
            {s.acceptance?.map((a) => (
              <tr key={a.what}>
                <td>Accepted by {a.what}</td>
                <td>
                  {a.least} to {a.most} {a.unit}
                </td>
              </tr>
            ))}
            {row(
              "Data sheet",
              m.dataSheet && <a href={`/api/files/${m.dataSheet.id}`}>{m.dataSheet.name}</a>,
              m.dataSheet,
            )}
          </tbody>
        </Table>
      </div>
      {s.caution && <Caution>{s.caution}</Caution>}
      {m.inUse && <p>In use: a change makes a new version, and what was built keeps this one.</p>}
      {(versions.data?.length ?? 0) > 1 && (
        <Table>
          <thead>
            <tr>
              <th>Version</th>
              <th>Out-life</th>
              <th>Thickness</th>
              <th>Until</th>
              <th className="n">Rolls on hand</th>
            </tr>
          </thead>
          <tbody>
            {versions.data?.map((v) => (
              <tr key={v.id}>
                <td>
                  {v.version} <small>{v.name}</small>
                </td>
                <td>{h(v.outLife)}</td>
                <td>{told.size(v.thickness ?? 0, 3)}</td>
                <td>{v.supersededAt ? date(v.supersededAt) : <Mark tone="met">present</Mark>}</td>
                <td className="n">{v.onHand}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
    </Stack>
  );
}

/** What page it is, and a new material. */
function MaterialsHead({
  keep,
  setResin,
  setEditing,
}: {
  keep: boolean;
  setResin: (
    value:
      | null
      | Schemas["ResinView"]
      | "new"
      | ((prevState: null | Schemas["ResinView"] | "new") => null | Schemas["ResinView"] | "new"),
  ) => void;
  setEditing: (value: null | "old" | "new" | ((prevState: null | "old" | "new") => null | "old" | "new")) => void;
}) {
  return (
    <Row $between>
      <div>
        <Heading>By name</Heading>
        <Big>Materials</Big>
      </div>
      {keep && (
        <Button
          $quiet
          onPress={() => {
            setResin(null);
            setEditing("new");
          }}
        >
          A new material
        </Button>
      )}
    </Row>
  );
}

/** What material it is. */
function MaterialHead({ m, keep, edit }: { m: Schemas["MaterialView"]; keep: boolean; edit: () => void }) {
  return (
    <Row $between>
      <div>
        <Heading>
          {m.kind}, version {m.version}
        </Heading>
        <Big>{m.name}</Big>
      </div>
      {keep && (
        <Button $quiet onPress={edit}>
          Edit
        </Button>
      )}
    </Row>
  );
}
