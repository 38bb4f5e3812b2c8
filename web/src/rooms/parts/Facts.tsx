// Facts of one thing, each with its name: what the drawing beside shows, in figures.
import { Table } from "../../ui/parts";

export function Facts({ facts }: { facts: [string, string][] }) {
  return (
    <Table>
      <tbody>
        {facts.map(([label, says]) => (
          <tr key={label}>
            <th scope="row" style={{ borderBottom: "1px solid var(--g4)" }}>
              {label}
            </th>
            <td className="n">{says}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
