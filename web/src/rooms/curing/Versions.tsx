// The versions of a recipe beside one another, and what is cured by it.
import { useState } from "react";
import { Link } from "react-router";
import { api } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { Mark, Refusal, Row, SelectField } from "../../ui/parts";
import { SegmentRead } from "../../ui/SegmentRead";
import { said } from "../../ui/units";

/** The versions of a recipe, what an older one says otherwise, and what is cured by it. */
export function Versions({ r }: { r: Schemas["RecipeView"] }) {
  const [other, setOther] = useState(0);
  const since = api.useQuery(
    "get",
    "/api/recipes/{id}/since/{other}",
    { params: { path: { id: r.id, other } } },
    { enabled: other > 0 },
  );
  const beside = other > 0 ? since.data : undefined;
  return (
    <>
      {(r.versions?.length ?? 0) > 1 && (
        <section aria-label="Versions">
          <Row $gap={10} style={{ alignItems: "end" }}>
            <SelectField label="Compare with version" value={other} onChange={(e) => setOther(+e.target.value)}>
              <option value={0}>none</option>
              {r.versions
                ?.filter((v) => v.id !== r.id)
                .map((v) => (
                  <option key={v.id} value={v.id}>
                    {v.version}, {v.state}
                  </option>
                ))}
            </SelectField>
            {beside && <Link to={`/cure/recipes/${other}`}>Open version {beside.version}</Link>}
          </Row>
          <Refusal error={since.error} />
          {beside && <SegmentChanges beside={beside} />}
          {beside &&
            (beside.changes.length > 0 ? (
              <ul style={{ margin: "6px 0", paddingLeft: 22 }}>
                {beside.changes.map((x) => (
                  <li key={x}>{said(x)}</li>
                ))}
              </ul>
            ) : (
              <small>Limits and stack are the same.</small>
            ))}
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

/** What the segments say otherwise. */
function SegmentChanges({ beside }: { beside: Schemas["RecipeBeside"] }) {
  return (
    <ol style={{ margin: 0, paddingLeft: 22 }}>
      {beside.segments.map(({ was, is, fields }, k) => (
        <li key={k}>
          {was && is && fields.length === 0 ? (
            <>
              <SegmentRead s={is} /> <small>in both</small>
            </>
          ) : (
            <>
              <Mark tone="attend">{!was ? "new" : !is ? "gone" : "changed"}</Mark>
              {was && (
                <>
                  <br />
                  was: <SegmentRead s={was} />
                </>
              )}
              {is && (
                <>
                  <br />
                  is: <SegmentRead s={is} />
                </>
              )}
            </>
          )}
        </li>
      ))}
    </ol>
  );
}
