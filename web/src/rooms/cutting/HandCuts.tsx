// For who cuts with a knife and a straight edge: templates at 1:1, and the straight cuts in their order.
import { useState } from "react";
import { api } from "../../app/api";
import { told } from "../../ui/format";
import { Button, Heading, LinkButton, Refusal, Row, Table } from "../../ui/parts";

export function HandCuts({ code }: { code: string }) {
  const [open, setOpen] = useState(false);
  const [done, setDone] = useState<number[]>([]);
  const ruled = api.useQuery("get", "/api/nests/{code}/ruled", { params: { path: { code } } }, { enabled: open });
  return (
    <section aria-label="By hand with a straight edge" style={{ marginTop: 14 }}>
      <Heading>With a straight edge</Heading>
      <Row style={{ margin: "6px 0" }}>
        <Button $quiet aria-expanded={open} onPress={() => setOpen(!open)}>
          {open ? "Hide the order" : "Order of cuts"}
        </Button>
        <LinkButton href={`/api/nests/${code}/template.pdf`}>Template 1:1, one page</LinkButton>
        <LinkButton href={`/api/nests/${code}/tiles.pdf`}>Template 1:1 on A4</LinkButton>
      </Row>
      <Refusal error={ruled.error} />
      {open && ruled.data && (
        <>
          <p style={{ margin: "6px 0" }}>
            Straight cuts, the longest first; then what is bent, round the template. Ticks are for you and are not kept.
          </p>
          <Table>
            <thead>
              <tr>
                <th>Cut</th>
                <th className="n">Length</th>
                <th>From</th>
                <th>To</th>
                <th>Of plies</th>
              </tr>
            </thead>
            <tbody>
              {ruled.data.map((r, k) => (
                <tr key={k}>
                  <td>
                    <label style={{ display: "flex", gap: 8, alignItems: "center", minHeight: 44 }}>
                      <input
                        type="checkbox"
                        checked={done.includes(k)}
                        onChange={() => setDone((b) => (b.includes(k) ? b.filter((i) => i !== k) : [...b, k]))}
                        style={{ width: 22, height: 22, accentColor: "var(--blue)" }}
                      />
                      {k + 1}
                    </label>
                  </td>
                  <td className="n">{told.size(r.length, 0)}</td>
                  {[r.ends[0], r.ends[1]].map((e, n) => (
                    <td key={n}>
                      {told.run(e![0]!, 3)}, {told.size(e![1]!, 0)}
                    </td>
                  ))}
                  <td>{r.plies.join(", ")}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        </>
      )}
    </section>
  );
}
