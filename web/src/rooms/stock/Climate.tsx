// Freezers and room: limits left, the last day as measured right, alarms that a
// person must see, and failures that aged what lay inside.
import { useState } from "react";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { DayLine } from "../../ui/DayLine";
import { fieldTime, moment, spell, told } from "../../ui/format";
import {
  Big,
  Button,
  Empty,
  Heading,
  Loading,
  Mark,
  NumberField,
  Refusal,
  Row,
  Rule,
  Select,
  Stack,
  Table,
  TextField,
} from "../../ui/parts";
import { Seam } from "../../ui/Seam";
import { FreezerTabs } from "./tabs";

type Freezer = Schemas["FreezerView"];
type Alarm = Schemas["AlarmView"];

export function ClimatePage() {
  useTitle("Freezers and room");
  const climate = api.useQuery("get", "/api/climate", undefined, { refetchInterval: 20_000 });
  const { may } = useSession();
  const [edit, setEdit] = useState<Freezer | "new" | null>(null);
  const [sensor, setSensor] = useState(false);
  const [failing, setFailing] = useState<{ freezer: number; from: string; to: string } | null>(null);
  const c = climate.data;
  if (!c) return <Loading error={climate.error} />;
  const unseen = c.alarms.filter((a) => !a.seenAt);
  const keep = may("manage freezers and sensors");
  return (
    <>
      <FreezerTabs />
      <Seam
        left="minmax(0, 0.7fr)"
        names={["Limits and what was reported", "As measured, the last day"]}
        differences={unseen.map((a) => ({
          label: a.kind === "silent" ? `${a.sensor} silent` : `${a.freezer} too warm`,
          tone: "stop" as const,
        }))}
        planned={
          <Stack $gap={12}>
            <Heading>Limits</Heading>
            <Big>Freezers</Big>
            {c.freezers.length === 0 && (
              <Empty>No freezer yet. An administrator or a quality person enters the first one.</Empty>
            )}
            {c.freezers.length > 0 && <FreezerTable c={c} keep={keep} setEdit={setEdit} />}
            <Row $gap={8}>
              {may("report a freezer failure") && c.freezers.length > 0 && (
                <Button $quiet onPress={() => setFailing({ freezer: c.freezers[0]!.id, from: "", to: "" })}>
                  Report a failure
                </Button>
              )}
              {keep && (
                <>
                  <Button $quiet onPress={() => setEdit("new")}>
                    A new freezer
                  </Button>
                  <Button $quiet onPress={() => setSensor(true)}>
                    A new sensor
                  </Button>
                </>
              )}
            </Row>
            {edit && (
              <EditFreezer
                key={edit === "new" ? 0 : edit.id}
                f={edit === "new" ? null : edit}
                done={() => setEdit(null)}
              />
            )}
            {sensor && <NewSensor freezers={c.freezers} done={() => setSensor(false)} />}
            {failing && (
              <Failure key={failing.from} freezers={c.freezers} begin={failing} done={() => setFailing(null)} />
            )}
            <Rule />
            <Heading>Failures: what lay inside aged as if it had been out</Heading>
            {c.failures.length === 0 && <p>None reported.</p>}
            {c.failures.map((f) => (
              <OneFailure key={f.id} f={f} />
            ))}
          </Stack>
        }
        built={<AlarmsAndFailures c={c} unseen={unseen} setFailing={setFailing} />}
      />
    </>
  );
}

function OneAlarm({ a, failure }: { a: Alarm; failure: () => void }) {
  const see = useChange("/api/alarms/{id}/seen");
  const { may } = useSession();
  const [note, setNote] = useState("");
  return (
    <div style={{ borderLeft: `6px solid var(${a.seenAt ? "--g3" : "--brick"})`, paddingLeft: 12 }}>
      <p style={{ fontSize: 18 }}>
        <Mark tone={a.seenAt ? "plain" : "stop"}>
          {a.kind === "silent" ? `${a.sensor} is silent` : `${a.freezer} above ${told.degrees(a.limitTemp ?? 0)}`}
        </Mark>{" "}
        since {moment(a.raisedAt)}
        {a.endedAt ? `, over at ${moment(a.endedAt)}` : ", still"}
        {a.worst !== undefined && `; warmest ${told.degrees(a.worst, 1)}`}
        {a.kind === "too warm" && `; ${a.rolls} rolls in it now`}
      </p>
      {a.seenAt ? (
        <small>
          {a.seenBy}, {moment(a.seenAt)}: {a.note}
        </small>
      ) : (
        may("acknowledge alarms") && (
          <Row $gap={10} style={{ alignItems: "flex-end", marginTop: 4 }}>
            <div style={{ flex: 1, minWidth: 200 }}>
              <TextField label="Findings and action" value={note} onChange={setNote} />
            </div>
            <Button
              why={note.trim() === "" ? "Enter what you found." : ""}
              isDisabled={see.isPending}
              onPress={() => see.mutate({ id: a.id, body: { note } })}
            >
              Acknowledge
            </Button>
            {a.kind === "too warm" && may("report a freezer failure") && (
              <Button $quiet onPress={failure}>
                It was a failure
              </Button>
            )}
          </Row>
        )
      )}
      <Refusal error={see.error} />
    </div>
  );
}

function OneFailure({ f }: { f: Schemas["FailureView"] }) {
  const change = useChange("/api/failures/{id}");
  const { may, person } = useSession();
  const [reason, setReason] = useState("");
  const [asking, setAsking] = useState(false);
  return (
    <div>
      <p style={f.withdrawn ? { textDecoration: "line-through" } : undefined}>
        <b>{f.freezer}</b> {moment(f.fromAt)} to {f.toAt ? moment(f.toAt) : "now, still"}
        {f.toAt && `, ${spell((new Date(f.toAt).getTime() - new Date(f.fromAt).getTime()) / 1000)}`}: {f.reason}{" "}
        <small>
          {f.person}, {moment(f.enteredAt)}
        </small>
      </p>
      {!f.withdrawn && (
        <Row $gap={8}>
          {!f.toAt && may("report a freezer failure") && (
            <Button onPress={() => change.mutate({ id: f.id, body: {} })}>Cold again</Button>
          )}
          {person.role === "quality" && !asking && (
            <Button $quiet onPress={() => setAsking(true)}>
              False alarm
            </Button>
          )}
          {asking && (
            <>
              <TextField label="Reason: no failure" value={reason} onChange={setReason} />
              <Button
                why={reason.trim() === "" ? "Enter the reason." : ""}
                isDisabled={change.isPending}
                onPress={() => change.mutate({ id: f.id, body: { withdraw: true, reason } })}
              >
                Withdraw it
              </Button>
            </>
          )}
        </Row>
      )}
      <Refusal error={change.error} />
    </div>
  );
}

function Failure({
  freezers,
  begin,
  done,
}: {
  freezers: Freezer[];
  begin: { freezer: number; from: string; to: string };
  done: () => void;
}) {
  const report = useChange("/api/freezers/{id}/failure", done);
  const [freezer, setFreezer] = useState(begin.freezer);
  const [from, setFrom] = useState(fieldTime(begin.from));
  const [to, setTo] = useState(fieldTime(begin.to));
  const [reason, setReason] = useState("");
  return (
    <Stack $gap={8}>
      <Heading>A failure: everything inside ages by it</Heading>
      <Row $gap={10} style={{ alignItems: "flex-end" }}>
        <Select aria-label="Freezer" value={freezer} onChange={(e) => setFreezer(Number(e.target.value))}>
          {freezers.map((f) => (
            <option key={f.id} value={f.id}>
              {f.name}
            </option>
          ))}
        </Select>
        <TextField label="Too warm from" type="datetime-local" value={from} onChange={setFrom} />
        <TextField label="Until; empty: it still is" type="datetime-local" value={to} onChange={setTo} />
      </Row>
      <TextField label="What happened" value={reason} onChange={setReason} />
      <Refusal error={report.error} />
      <Row $gap={8}>
        <Button
          why={from === "" ? "Enter since when." : reason.trim() === "" ? "Enter what happened." : ""}
          isDisabled={report.isPending}
          onPress={() =>
            report.mutate({
              id: freezer,
              body: { from: new Date(from).toISOString(), reason, ...(to ? { to: new Date(to).toISOString() } : {}) },
            })
          }
        >
          Report the failure
        </Button>
        <Button $quiet onPress={done}>
          Cancel
        </Button>
      </Row>
    </Stack>
  );
}

/** −15 °C, warmer than freezers are kept (common practice, no source), K. */
const usualLimit = 258.15;

function EditFreezer({ f, done }: { f: Freezer | null; done: () => void }) {
  const save = useChange("/api/freezers/{id}", done);
  const [name, setName] = useState(f?.name ?? "");
  const [limit, setLimit] = useState(f ? f.limitTemp : usualLimit);
  const [places, setPlaces] = useState(f?.places.join(", ") ?? "");
  return (
    <Stack $gap={8}>
      <Row $gap={10} style={{ alignItems: "flex-end" }}>
        <TextField label="Name" value={name} onChange={setName} />
        <div style={{ width: 120 }}>
          <NumberField kelvin label="At most, °C" value={limit} onChange={setLimit} />
        </div>
      </Row>
      <TextField label="Places, with commas" value={places} onChange={setPlaces} />
      <Refusal error={save.error} />
      <Row $gap={8}>
        <Button
          why={name.trim() === "" ? "Enter its name." : Number.isNaN(limit) ? "Enter its limit." : ""}
          isDisabled={save.isPending}
          onPress={() =>
            save.mutate({
              id: f?.id ?? 0,
              body: {
                name,
                limitTemp: limit,
                places: places
                  .split(",")
                  .map((p) => p.trim())
                  .filter(Boolean),
              },
            })
          }
        >
          Keep the freezer
        </Button>
        <Button $quiet onPress={done}>
          Cancel
        </Button>
      </Row>
    </Stack>
  );
}

function NewSensor({ freezers, done }: { freezers: Freezer[]; done: () => void }) {
  const save = useChange("/api/sensors/{id}", done);
  const [topic, setTopic] = useState("juxta/");
  const [name, setName] = useState("");
  const [freezer, setFreezer] = useState(0);
  return (
    <Stack $gap={8}>
      <Row $gap={10} style={{ alignItems: "flex-end" }}>
        <TextField label="MQTT topic" value={topic} onChange={setTopic} />
        <TextField label="Name" value={name} onChange={setName} />
        <Select aria-label="What it measures" value={freezer} onChange={(e) => setFreezer(Number(e.target.value))}>
          <option value={0}>the room</option>
          {freezers.map((f) => (
            <option key={f.id} value={f.id}>
              {f.name}
            </option>
          ))}
        </Select>
      </Row>
      <Refusal error={save.error} />
      <Row $gap={8}>
        <Button
          why={topic.trim() === "" ? "Enter its topic." : name.trim() === "" ? "Enter its name." : ""}
          isDisabled={save.isPending}
          onPress={() => save.mutate({ id: 0, body: { topic, name, ...(freezer ? { freezerId: freezer } : {}) } })}
        >
          Keep the sensor
        </Button>
        <Button $quiet onPress={done}>
          Cancel
        </Button>
      </Row>
    </Stack>
  );
}

/** The freezers, how warm each is and may be. */
function FreezerTable({
  c,
  keep,
  setEdit,
}: {
  c: Schemas["Climate"];
  keep: boolean;
  setEdit: (
    value:
      | null
      | Schemas["FreezerView"]
      | "new"
      | ((prevState: null | Schemas["FreezerView"] | "new") => null | Schemas["FreezerView"] | "new"),
  ) => void;
}) {
  return (
    <Table>
      <thead>
        <tr>
          <th>Freezer</th>
          <th className="n">At most</th>
          <th className="n">Now</th>
          <th className="n">Rolls</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {c.freezers.map((f) => (
          <tr key={f.id}>
            <td>
              <b>{f.name}</b>
              {f.failing && (
                <>
                  <br />
                  <Mark tone="stop">fails now: everything inside ages</Mark>
                </>
              )}
            </td>
            <td className="n">{told.degrees(f.limitTemp)}</td>
            <td className="n">
              {f.now !== undefined ? (
                <Mark tone={f.now > f.limitTemp ? "stop" : "met"}>{told.degrees(f.now, 1)}</Mark>
              ) : (
                "not measured"
              )}
            </td>
            <td className="n">{f.rolls}</td>
            <td>
              {keep && (
                <Button $quiet onPress={() => setEdit(f)}>
                  Change
                </Button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Alarms, those that nobody has seen first, and failures. */
function AlarmsAndFailures({
  c,
  unseen,
  setFailing,
}: {
  c: Schemas["Climate"];
  unseen: Schemas["AlarmView"][];
  setFailing: (
    value:
      | null
      | { freezer: number; from: string; to: string }
      | ((
          prevState: null | { freezer: number; from: string; to: string },
        ) => null | { freezer: number; from: string; to: string }),
  ) => void;
}) {
  return (
    <Stack $gap={12}>
      {c.alarms.length > 0 && (
        <>
          <Heading>Alarms</Heading>
          {[...unseen, ...c.alarms.filter((a) => a.seenAt).slice(0, 3)].map((a) => (
            <OneAlarm
              key={a.id}
              a={a}
              failure={() => setFailing({ freezer: a.freezerId ?? 0, from: a.raisedAt, to: a.endedAt ?? "" })}
            />
          ))}
          <Rule />
        </>
      )}
      {c.sensors.length === 0 && (
        <Empty>No sensor yet. Loggers publish by MQTT, one topic a sensor; enter the topic and what it measures.</Empty>
      )}
      {c.sensors.map((s) => (
        <DayLine key={s.id} sensor={s} />
      ))}
    </Stack>
  );
}
