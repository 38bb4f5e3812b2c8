// Facts of one thing, each with its name: what the drawing beside shows, in figures.
import { Table } from "../../ui/parts";

export function Facts({ facts }: { facts: [string, string][] }) {
  return (
    <Table>
      <tbody>
        {facts.map(([name, value]) => (
          <tr key={name}>
            <th scope="row" style={{ borderBottom: "1px solid var(--g4)" }}>
              {name}
            </th>
            <td className="n">{value}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
