// A delivery: one lot of a material with its rolls, papers and temperature.
import { useState, type FormEvent } from "react";
import { useNavigate } from "react-router";
import { api, base64, client, useChange } from "../../app/api";
import { explain } from "../../contract/types";
import { useKept } from "../../app/kept";
import { Offer } from "../../app/Offer";
import { useTitle } from "../../app/shell";
import { told } from "../../ui/format";
import {
  Big,
  Button,
  Caution,
  Heading,
  Loading,
  Mark,
  NumberField,
  Refusal,
  Row,
  SelectField,
  Stack,
  TextField,
} from "../../ui/parts";
import { RestoredEntries } from "../../ui/RestoredEntries";
import { Seam } from "../../ui/Seam";
import { FreezerTabs } from "./tabs";
import type { Schemas } from "../../contract/types";

type NewRoll = { length: number; place: string; spent: number; width: number };
const none: NewRoll = { length: NaN, place: "", spent: NaN, width: 0 };

export function Receive() {
  useTitle("Receive a delivery");
  const materials = api.useQuery("get", "/api/materials");
  const freezers = api.useQuery("get", "/api/freezers");
  const navigate = useNavigate();
  const typed = useKept("receive", {
    material: 0,
    lot: "",
    made: "",
    shelf: "",
    cold: NaN,
    freezer: -1,
    rolls: [none],
    certificate: null as { id: number; name: string } | null,
    transport: null as { id: number; name: string } | null,
  });
  const receive = useChange("/api/batches", (b) => {
    typed.done();
    void navigate(`/freezer/batches/${b.code}`);
  });
  const { material, lot, made, shelf, cold, freezer, rolls, certificate, transport } = typed.value;
  const put = (part: Partial<typeof typed.value>) => typed.set((t) => ({ ...t, ...part }));
  if (!materials.data || !freezers.data) return <Loading error={materials.error ?? freezers.error} />;
  const chosen = materials.data.find((m) => m.id === material) ?? materials.data[0];
  const into = freezer >= 0 ? freezer : (freezers.data[0]?.id ?? 0);
  const places = freezers.data.find((f) => f.id === into)?.places ?? [];
  const why = !chosen
    ? "Choose the material."
    : lot.trim() === ""
      ? "Enter the lot number."
      : !rolls.every((r) => r.length > 0)
        ? "Enter the length of each roll."
        : "";
  const day = (d: string) => new Date(d).toISOString();
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (why || receive.isPending || !chosen) return;
    receive.mutate({
      body: {
        materialId: chosen.id,
        lot,
        ...(made ? { madeOn: day(made) } : {}),
        ...(shelf ? { shelfEnd: day(shelf) } : {}),
        ...(Number.isNaN(cold) ? {} : { arrivalTemp: cold }),
        ...(into ? { freezerId: into } : {}),
        ...(certificate ? { certificateId: certificate.id } : {}),
        ...(transport ? { transportId: transport.id } : {}),
        rolls: rolls.map((r) => ({
          length: r.length,
          ...(r.width ? { width: r.width } : {}),
          ...(r.place ? { place: r.place } : {}),
          ...(r.spent > 0 ? { spent: r.spent * 3600 } : {}),
        })),
      },
    });
  };
  const set = (i: number, change: Partial<NewRoll>) =>
    put({ rolls: rolls.map((r, k) => (k === i ? { ...r, ...change } : r)) });
  const sheet = chosen?.sheet;
  const widths = [...new Set([...(chosen?.width ? [chosen.width] : []), ...(sheet?.widths ?? [])])].sort(
    (a, b) => a - b,
  );
  return (
    <>
      <FreezerTabs />
      <Seam
        left="minmax(0, 0.6fr)"
        names={["What the data sheet asks", "Delivery"]}
        planned={<SheetAsks chosen={chosen} sheet={sheet} />}
        built={
          <Offer act="receive material">
            <form onSubmit={submit}>
              <Stack $gap={12}>
                <Heading>Delivery</Heading>
                <Big>Receive a delivery</Big>
                <RestoredEntries since={typed.since} forget={typed.done} />
                <Row $gap={12} style={{ alignItems: "flex-end" }}>
                  <SelectField
                    label="Material"
                    value={chosen?.id}
                    onChange={(e) => put({ material: Number(e.target.value) })}
                  >
                    {materials.data.map((m) => (
                      <option key={m.id} value={m.id}>
                        {m.name}
                      </option>
                    ))}
                  </SelectField>
                  <div style={{ width: 200 }}>
                    <TextField label="Lot, as on the label" value={lot} onChange={(lot) => put({ lot })} isRequired />
                  </div>
                  <div style={{ width: 150 }}>
                    <NumberField
                      kelvin
                      label="Warmest on arrival, °C"
                      value={cold}
                      onChange={(cold) => put({ cold })}
                    />
                  </div>
                </Row>
                <Row $gap={12} style={{ alignItems: "flex-end" }}>
                  <TextField label="Made on" type="date" value={made} onChange={(made) => put({ made })} />
                  <TextField
                    label="Shelf life until, by the label"
                    type="date"
                    value={shelf}
                    onChange={(shelf) => put({ shelf })}
                  />
                  <SelectField label="Into" value={into} onChange={(e) => put({ freezer: Number(e.target.value) })}>
                    {freezers.data.map((f) => (
                      <option key={f.id} value={f.id}>
                        {f.name}
                      </option>
                    ))}
                    <option value={0}>no freezer</option>
                  </SelectField>
                </Row>
                <Row $gap={24}>
                  <Paper label="Certificate" kept={certificate} keep={(certificate) => put({ certificate })} />
                  <Paper label="Transport log" kept={transport} keep={(transport) => put({ transport })} />
                </Row>
                {rolls.map((r, i) => (
                  <Row key={i} $gap={12} style={{ alignItems: "flex-end" }}>
                    <b style={{ width: 60, paddingBottom: 8 }}>Roll {i + 1}</b>
                    <div style={{ width: 120 }}>
                      <NumberField
                        label={`Length, ${chosen?.unit ?? "m"}`}
                        value={r.length}
                        onChange={(length) => set(i, { length })}
                        min={0.01}
                      />
                    </div>
                    {widths.length > 0 && (
                      <SelectField
                        label="Width, mm"
                        value={r.width || chosen?.width}
                        onChange={(e) => set(i, { width: Number(e.target.value) })}
                      >
                        {widths.map((w) => (
                          <option key={w} value={w}>
                            {told.size(w, 0)}
                          </option>
                        ))}
                      </SelectField>
                    )}
                    <SelectField label="Place" value={r.place} onChange={(e) => set(i, { place: e.target.value })}>
                      <option value=""> </option>
                      {places.map((p) => (
                        <option key={p}>{p}</option>
                      ))}
                    </SelectField>
                    <div style={{ width: 170 }}>
                      <NumberField
                        label="Out-time already spent, h"
                        value={r.spent}
                        onChange={(spent) => set(i, { spent })}
                        min={0}
                      />
                    </div>
                    {rolls.length > 1 && (
                      <Button $quiet onPress={() => put({ rolls: rolls.filter((_, k) => k !== i) })}>
                        Leave
                      </Button>
                    )}
                  </Row>
                ))}
                <Refusal error={receive.error} />
                <Row>
                  <Button type="submit" $bench why={why} isDisabled={receive.isPending}>
                    Receive {rolls.length} {rolls.length === 1 ? "roll" : "rolls"}
                  </Button>
                  <Button
                    $quiet
                    onPress={() => put({ rolls: [...rolls, { ...none, place: rolls.at(-1)?.place ?? "" }] })}
                  >
                    Add a roll
                  </Button>
                </Row>
              </Stack>
            </form>
          </Offer>
        }
      />
    </>
  );
}

/** A paper that is kept: chosen, sent, checked, and named once it is here. */
export function Paper({
  label,
  kept,
  keep,
}: {
  label: string;
  kept: { id: number; name: string } | null;
  keep: (f: { id: number; name: string } | null) => void;
}) {
  const [message, setMessage] = useState("");
  const choose = async (file: File | undefined) => {
    if (!file) return;
    setMessage("sending …");
    const { data, error } = await client.POST("/api/files", { body: { name: file.name, content: await base64(file) } });
    setMessage(error ? explain(error).message : "");
    keep(data ?? null);
  };
  return (
    <label>
      <span style={{ fontSize: 14, fontWeight: 600, color: "var(--g1)" }}>
        {label} (PDF, picture, text or sheet, at most 10 MB)
      </span>
      <br />
      <input
        type="file"
        onChange={(e) => {
          void choose(e.target.files?.[0]);
          e.target.value = ""; // or the same file, put right, could not be chosen again
        }}
        style={{ minHeight: 40, font: "inherit" }}
      />
      <br />
      {kept && <Mark tone="met">kept: {kept.name}</Mark>}
      {message && <Mark tone={message === "sending …" ? "plain" : "stop"}>{message}</Mark>}
    </label>
  );
}

/** What the data sheet asks of a delivery. */
function SheetAsks({
  chosen,
  sheet,
}: {
  chosen: undefined | Schemas["MaterialView"];
  sheet: undefined | Schemas["MaterialSheet"];
}) {
  return (
    <Stack $gap={12}>
      <Heading>What the data sheet asks</Heading>
      <Big>{chosen ? chosen.name : "No material is entered yet"}</Big>
      {chosen && (
        <>
          <p>
            {chosen.kind}, {told.size(chosen.width, 0)} wide
            {chosen.resin && `, resin ${chosen.resin}`}.
          </p>
          {sheet?.storageMax ? (
            <p>
              Storage at <b>{told.degrees(sheet.storageMax)}</b> or colder. Warmer on arrival goes into quarantine.
            </p>
          ) : null}
          {sheet?.shelfLife ? (
            <p>
              Shelf life <b>{Math.round(sheet.shelfLife / 86400)} days</b> from the day it was made.
            </p>
          ) : null}
          {chosen.outLife ? (
            <p>
              Out-life <b>{Math.round(chosen.outLife / 3600)} h</b>
              {chosen.tackLife ? `, tack life ${Math.round(chosen.tackLife / 3600)} h` : ""}.
            </p>
          ) : null}
          <p>
            {sheet?.acceptance?.length
              ? `Before it is cut it is tested for ${sheet.acceptance.map((a) => a.what).join(", ")}.`
              : "No acceptance test is asked; a quality person accepts it by its certificate."}
          </p>
          {sheet?.caution && <Caution>{sheet.caution}</Caution>}
        </>
      )}
    </Stack>
  );
}
