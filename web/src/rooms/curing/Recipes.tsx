// The recipes of the shop, one of them, and one that is begun.
import { Link, useParams } from "react-router";
import { api } from "../../app/api";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { moment } from "../../ui/format";
import { Big, Empty, Loading, Mark, Page, Row, Table } from "../../ui/parts";
import { Editor, type Recipe } from "./Editor";
import { CureTabs } from "./Tabs";

export function Recipes() {
  useTitle("Cure recipes");
  const all = api.useQuery("get", "/api/recipes");
  const { may } = useSession();
  if (!all.data) return <Loading error={all.error} />;
  return (
    <>
      <CureTabs />
      <Page>
        <Row $between>
          <Big>Cure recipes</Big>
          {may("edit the master") && <Link to="/cure/recipes/new">Begin a recipe</Link>}
        </Row>
        <Table>
          <thead>
            <tr>
              <th>Recipe</th>
              <th>Resin</th>
              <th>In</th>
              <th>For</th>
              <th>State</th>
            </tr>
          </thead>
          <tbody>
            {all.data.map((r) => (
              <tr key={r.id}>
                <td style={{ minHeight: 44 }}>
                  <Link to={`/cure/recipes/${r.id}`}>
                    <b>{r.name}</b>
                  </Link>
                  <br />
                  <small>version {r.version}</small>
                </td>
                <td>{r.resin}</td>
                <td>{r.equipment}</td>
                <td>{r.plan.sections.map((s) => s.name).join(", ")}</td>
                <td>
                  {r.state === "released" ? <Mark tone="met">released</Mark> : <Mark tone="attend">{r.state}</Mark>}
                  <br />
                  <small>
                    {r.releasedBy ? `${r.releasedBy}, ` : `${r.writtenBy}, `}
                    {moment(r.releasedAt ?? r.writtenAt)}
                  </small>
                  {r.since && (
                    <>
                      <br />
                      <Mark tone="attend">figures are newer than this version</Mark>
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Page>
    </>
  );
}

export function RecipePage() {
  const { id = "" } = useParams();
  const kept = api.useQuery("get", "/api/recipes/{id}", { params: { path: { id: +id } } });
  if (!kept.data) return <Loading error={kept.error} />;
  return (
    <>
      <CureTabs />
      <Editor key={kept.data.id} r={kept.data} />
    </>
  );
}

/** A recipe that is begun from nothing: one dwell on a few plies, to be changed. */
export function NewRecipe() {
  const resins = api.useQuery("get", "/api/resins");
  const equipment = api.useQuery("get", "/api/equipment");
  const layers = api.useQuery("get", "/api/layers");
  if (!resins.data || !equipment.data || !layers.data)
    return <Loading error={resins.error ?? equipment.error ?? layers.error} />;
  const resin = resins.data[0];
  const oven = equipment.data[0];
  if (!resin || !oven)
    return (
      <Page>
        <CureTabs />
        <Empty>A recipe needs a resin and something to cure it in: enter {resin ? "an oven" : "a resin"} first.</Empty>
      </Page>
    );
  const thick: Record<string, number> = { aluminium: 0.01, laminate: 0.002, "breather and bag": 0.004 };
  const stack = Object.keys(thick).flatMap((name) =>
    layers.data.filter((l) => l.name === name).map((l) => ({ ...l, thickness: thick[name]! })),
  );
  const begun: Recipe = {
    id: 0,
    name: "",
    version: 0,
    state: "draft",
    resinId: resin.id,
    resin: resin.name,
    equipment: oven.facts.name,
    writtenAt: new Date().toISOString(),
    plan: {
      recipe: { ...resin.recipe, name: "new" },
      sections: [{ name: "10 plies on their tool", layers: stack }],
      limits: { minCure: 0.9 },
    },
  };
  return (
    <>
      <CureTabs />
      <Editor r={begun} />
    </>
  );
}
