// The versions of a recipe beside one another, and what is cured by it.
import { useState } from "react";
import { Link } from "react-router";
import { api } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { Mark, Refusal, Row, SelectField } from "../../ui/parts";
import { SegmentRead } from "../../ui/SegmentRead";

/** The versions of a recipe, what an older one says otherwise, and what is cured by it. */
export function Versions({ r }: { r: Schemas["RecipeView"] }) {
  const [other, setOther] = useState(0);
  const of = api.useQuery("get", "/api/recipes/{id}", { params: { path: { id: other } } }, { enabled: other > 0 });
  const before = other > 0 ? of.data : undefined;
  const steps = Math.max(r.plan.recipe.segments.length, before?.plan.recipe.segments.length ?? 0);
  return (
    <>
      {(r.versions?.length ?? 0) > 1 && (
        <section aria-label="Versions">
          <Row $gap={10} style={{ alignItems: "end" }}>
            <SelectField label="Beside version" value={other} onChange={(e) => setOther(+e.target.value)}>
              <option value={0}>none</option>
              {r.versions
                ?.filter((v) => v.id !== r.id)
                .map((v) => (
                  <option key={v.id} value={v.id}>
                    {v.version}, {v.state}
                  </option>
                ))}
            </SelectField>
            {before && <Link to={`/cure/recipes/${before.id}`}>Open version {before.version}</Link>}
          </Row>
          <Refusal error={of.error} />
          {before && (
            <ol style={{ margin: 0, paddingLeft: 22 }}>
              {Array.from({ length: steps }, (_, k) => {
                const was = before.plan.recipe.segments[k];
                const is = r.plan.recipe.segments[k];
                const same = JSON.stringify(was) === JSON.stringify(is);
                return (
                  <li key={k}>
                    {same && is ? (
                      <>
                        <SegmentRead s={is} /> <small>in both</small>
                      </>
                    ) : (
                      <>
                        <Mark tone="attend">changed</Mark>
                        <br />
                        was: {was ? <SegmentRead s={was} /> : "not there"}
                        <br />
                        is: {is ? <SegmentRead s={is} /> : "not there"}
                      </>
                    )}
                  </li>
                );
              })}
            </ol>
          )}
          {before && (
            <small>
              {JSON.stringify(before.plan.limits) === JSON.stringify(r.plan.limits)
                ? "The limits are the same. "
                : "The limits differ. "}
              {JSON.stringify(before.plan.sections) === JSON.stringify(r.plan.sections)
                ? "The stack is the same."
                : "The stack differs."}
            </small>
          )}
        </section>
      )}
      {(r.usedBy?.length ?? 0) > 0 && (
        <p>
          Cured by it:{" "}
          {r.usedBy?.map((u, k) => (
            <span key={u.code + u.letter}>
              {k > 0 && ", "}
              <Link to={`/parts/${u.code}`}>
                {u.number} {u.letter}
              </Link>{" "}
              ({u.state}, version {u.version})
            </span>
          ))}
        </p>
      )}
    </>
  );
}
