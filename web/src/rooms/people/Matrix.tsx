// Who may do what: the matrix itself, as the server enforces it.
import { api } from "../../app/api";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Big, Heading, Loading, Mark, Page, Table } from "../../ui/parts";
import { ShopTabs } from "./tabs";

const roles = ["technician", "planner", "quality", "administrator", "viewer"];

export function MatrixPage() {
  useTitle("Who may do what");
  const matrix = api.useQuery("get", "/api/matrix");
  const { person } = useSession();
  if (!matrix.data) return <Loading error={matrix.error} />;
  return (
    <>
      <ShopTabs />
      <Page>
        <Heading>Enforced by the server. Everybody who is signed in may read.</Heading>
        <Big>Who may do what</Big>
        <Table style={{ marginTop: 12 }}>
          <thead>
            <tr>
              <th>At</th>
              <th>Act</th>
              {roles.map((r) => (
                <th key={r} style={r === person.role ? { color: "var(--ink)" } : undefined}>
                  {r}
                  {r === person.role && ", you"}
                </th>
              ))}
              <th>Qualified in</th>
              <th>Signature</th>
            </tr>
          </thead>
          <tbody>
            {matrix.data.map((p) => (
              <tr key={p.act}>
                <td>
                  <small>{p.room}</small>
                </td>
                <td>
                  <b>{p.act}</b>
                </td>
                {roles.map((r) => (
                  <td key={r}>
                    {p.roles.includes(r) ? <Mark tone="met">may</Mark> : <span aria-label="may not">–</span>}
                  </td>
                ))}
                <td>{p.qualification}</td>
                <td>
                  <small>{[p.pin && "PIN asked again", p.second].filter(Boolean).join("; ")}</small>
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Page>
    </>
  );
}
