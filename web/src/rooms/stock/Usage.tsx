// What became of the material: what expires soon, what its life was spent on,
// what was thrown away and why.
import { useState } from "react";
import { Link } from "react-router";
import { api } from "../../app/api";
import { useTitle } from "../../app/shell";
import { date, spell, told } from "../../ui/format";
import { Big, Heading, Loading, Mark, Page, Row, Table, TextField } from "../../ui/parts";
import { FreezerTabs } from "./tabs";
import type { Schemas } from "../../contract/types";

const day = (t: number) => new Date(t).toISOString().slice(0, 10);

export function UsagePage() {
  useTitle("Usage");
  const [from, setFrom] = useState(() => day(Date.now() - 90 * 86400e3));
  const [to, setTo] = useState(() => day(Date.now()));
  const query = { from: `${from}T00:00:00Z`, to: `${to}T23:59:59Z` };
  const usage = api.useQuery("get", "/api/usage", { params: { query } }, { placeholderData: (before) => before });
  const u = usage.data;
  if (!u) return <Loading error={usage.error} />;
  const file = (table: string) => `/api/usage/${table}?from=${query.from}&to=${query.to}`;
  const most = Math.max(...u.scrap.map((s) => s.area), 1e-9);
  return (
    <>
      <FreezerTabs />
      <Page>
        <Row $between style={{ alignItems: "flex-end" }}>
          <div>
            <Heading>Material</Heading>
            <Big>Usage</Big>
          </div>
          <Row $gap={12} style={{ alignItems: "flex-end" }}>
            <TextField label="From" type="date" value={from} onChange={(v) => v && setFrom(v)} />
            <TextField label="To" type="date" value={to} onChange={(v) => v && setTo(v)} />
            <a href={file("all")}>All as XLSX</a>
          </Row>
        </Row>
        <div
          style={{
            display: "grid",
            gridTemplateColumns: "repeat(auto-fit, minmax(430px, 1fr))",
            gap: "20px 44px",
            marginTop: 16,
          }}
        >
          <section>
            <Row $between>
              <Heading>Expires soon</Heading>
              <a href={file("expiring")}>CSV</a>
            </Row>
            {u.expiring.length === 0 && (
              <p>Nothing on hand ends its shelf life within 60 days or has less than a fifth of its out-life left.</p>
            )}
            <Table>
              <tbody>
                {u.expiring.map((e) => (
                  <tr key={e.code}>
                    <td>
                      <Link to={`/freezer/${e.code}`}>
                        <b>{e.code}</b>
                      </Link>
                      <br />
                      <small>
                        {e.material}, lot {e.lot}
                      </small>
                    </td>
                    <td className="n">{told.area(e.area, 1)}</td>
                    <td>
                      <Mark tone={e.expired ? "stop" : "attend"}>{e.message}</Mark>
                      <br />
                      <small>
                        {e.shelfEnd && `shelf life until ${date(e.shelfEnd)}`}
                        {e.life > 0 && `, ${spell(Math.max(0, e.left))} of ${spell(e.life)} out-life left`}
                      </small>
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </section>
          <ByReason file={file} u={u} most={most} />
        </div>
      </Page>
    </>
  );
}

/** Area used and thrown away, by reason. */
function ByReason({ file, u, most }: { file: (table: string) => string; u: Schemas["Usage"]; most: number }) {
  return (
    <section>
      <Row $between>
        <Heading>Area used and thrown away, by reason</Heading>
        <a href={file("scrap")}>CSV</a>
      </Row>
      {u.scrap.length === 0 && <p>Nothing was cut or thrown away in this time.</p>}
      <Table>
        <tbody>
          {u.scrap.map((s) => (
            <tr key={s.material + s.reason}>
              <td>
                {s.material}
                <br />
                <small>
                  {s.reason === "used" ? "cut for parts" : s.reason}, {s.times} {s.times === 1 ? "time" : "times"}
                </small>
              </td>
              <td style={{ width: "45%" }}>
                <div
                  role="img"
                  aria-label={`${told.area(s.area)}`}
                  style={{
                    width: `${(100 * s.area) / most}%`,
                    height: 14,
                    background:
                      s.reason === "used"
                        ? "var(--ink)"
                        : "repeating-linear-gradient(115deg, var(--brick) 0 2px, transparent 2px 6px)",
                    border: `1.5px solid var(${s.reason === "used" ? "--ink" : "--brick"})`,
                  }}
                />
              </td>
              <td className="n">{told.area(s.area)}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      <Row $between style={{ marginTop: 22 }}>
        <Heading>Out-time of a roll, by cause, on average</Heading>
        <a href={file("life")}>CSV</a>
      </Row>
      <Table>
        <thead>
          <tr>
            <th>Material</th>
            <th className="n">Rolls</th>
            <th className="n">On the bench</th>
            <th className="n">Warm freezer</th>
            <th className="n">Before</th>
          </tr>
        </thead>
        <tbody>
          {u.life.map((l) => (
            <tr key={l.material}>
              <td>{l.material}</td>
              <td className="n">{l.rolls}</td>
              <td className="n">{spell(l.bench)}</td>
              <td className="n">{spell(l.warm)}</td>
              <td className="n">{spell(l.before)}</td>
            </tr>
          ))}
        </tbody>
      </Table>
    </section>
  );
}
