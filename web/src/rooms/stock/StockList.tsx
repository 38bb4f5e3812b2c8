// A stock list from CSV or XLSX: first row by row what would happen, then, if
// nothing is wrong, the press that makes it happen.
import { useState } from "react";
import { Link } from "react-router";
import { base64, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { Offer } from "../../app/Offer";
import { useTitle } from "../../app/shell";
import { Big, Button, Heading, Mark, Refusal, Row, Stack, Table } from "../../ui/parts";
import { Seam } from "../../ui/Seam";
import { said } from "../../ui/units";
import { FreezerTabs } from "./tabs";

const most = 400;

export function StockList() {
  useTitle("Stock list");
  const [file, setFile] = useState<{ name: string; content: string } | null>(null);
  const [plan, setPlan] = useState<Schemas["StockImport"] | null>(null);
  const send = useChange("/api/stock-list", setPlan);
  const choose = async (chosen: File | undefined) => {
    if (!chosen) return;
    const next = { name: chosen.name, content: await base64(chosen) };
    setFile(next);
    setPlan(null);
    send.mutate({ body: next });
  };
  const faults = plan?.lines.filter((l) => l.fault) ?? [];
  const lines = [...faults, ...(plan?.lines.filter((l) => !l.fault) ?? [])];
  return (
    <>
      <FreezerTabs />
      <Seam
        left="minmax(0, 0.6fr)"
        names={["The list", "Preview"]}
        planned={
          <Stack $gap={12}>
            <Heading>The list</Heading>
            <Big>Import a stock list</Big>
            <p>
              A CSV or XLSX file with a header row and one row a roll. Columns, in any order: <b>material</b>,{" "}
              <b>lot</b>, <b>length</b> (m, or kg); if you have them: width (mm), freezer, place, made, shelf end
              (2026-11-25), out time (h), accepted (yes or no).
            </p>
            <p>
              Choosing a file changes nothing: it shows row by row what would happen. One wrong row keeps all of it out.
            </p>
            <Offer act="receive material">
              <StockFileField choose={choose} />
            </Offer>
            <Refusal error={send.error} />
            {plan && file && !plan.stored && (
              <>
                <p style={{ fontSize: 20 }}>
                  {file.name}: <b>{plan.rolls}</b> rolls in <b>{plan.batches}</b> new batches
                  {plan.faults > 0 && (
                    <>
                      ; <Mark tone="stop">{plan.faults} rows are wrong</Mark>
                    </>
                  )}
                </p>
                <Row>
                  <Button
                    $bench
                    why={plan.faults > 0 ? "Correct the wrong rows first." : plan.rolls === 0 ? "It has no rolls." : ""}
                    isDisabled={send.isPending}
                    onPress={() => send.mutate({ body: { ...file, store: true } })}
                  >
                    Bring {plan.rolls} rolls in
                  </Button>
                </Row>
              </>
            )}
            {plan?.stored && (
              <p style={{ fontSize: 20 }}>
                <Mark tone="met">{plan.rolls} rolls are in.</Mark> <Link to="/freezer/batches">Their batches</Link> wait
                for acceptance.
              </p>
            )}
          </Stack>
        }
        built={<StockPreview plan={plan} lines={lines} />}
      />
    </>
  );
}

/** What would happen, row by row. */
function StockPreview({ plan, lines }: { plan: null | Schemas["StockImport"]; lines: Schemas["StockLine"][] }) {
  return (
    <Stack $gap={10}>
      <Heading>{plan?.stored ? "Done" : "Preview"}</Heading>
      <Big>{plan ? `${plan.lines.length} rows` : "Nothing chosen yet"}</Big>
      {plan && (
        <Table>
          <thead>
            <tr>
              <th className="n">Row</th>
              <th>What</th>
            </tr>
          </thead>
          <tbody>
            {lines.slice(0, most).map((l) => (
              <tr key={`${l.line} ${l.message}`}>
                <td className="n">{l.line || ""}</td>
                <td>
                  {l.fault ? <Mark tone="stop">{said(l.message)}</Mark> : said(l.message)}{" "}
                  {l.roll && <Link to={`/freezer/${l.roll}`}>{l.roll}</Link>}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      {lines.length > most && <p>and {lines.length - most} more rows without a fault</p>}
    </Stack>
  );
}

/** The file of the list. */
function StockFileField({ choose }: { choose: (chosen: undefined | File) => Promise<void> }) {
  return (
    <input
      type="file"
      aria-label="Stock list"
      accept=".csv,.xlsx,.txt"
      onChange={(e) => {
        void choose(e.target.files?.[0]);
        e.target.value = ""; // or the same list, put right, could not be chosen again
      }}
      style={{ font: "inherit", minHeight: 44 }}
    />
  );
}
