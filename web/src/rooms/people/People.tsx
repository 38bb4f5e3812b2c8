// People: who works here, with which role and which qualifications in date.
import { useState } from "react";
import { useQueryClient } from "@tanstack/react-query";
import { api, client, useChange } from "../../app/api";
import { explain, type Schemas } from "../../contract/types";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { date, moment } from "../../ui/format";
import {
  Big,
  Button,
  Heading,
  Loading,
  Mark,
  Page,
  Refusal,
  Row,
  Select,
  SelectField,
  Stack,
  Table,
  TextField,
} from "../../ui/parts";
import { Sign } from "../../ui/Sign";
import { ShopTabs } from "./tabs";

type Person = Schemas["PersonFile"];
type Role = Schemas["NewPerson"]["role"];

const roles: Role[] = ["technician", "planner", "quality", "administrator", "viewer"];
const kinds = ["laminating", "bagging", "oven", "bonding", "inspection"] as const;

export function People() {
  useTitle("People");
  const people = api.useQuery("get", "/api/people/files");
  const { may, person } = useSession();
  const [chosen, setChosen] = useState<number | null>(null);
  const [adding, setAdding] = useState(false);
  if (!people.data) return <Loading error={people.error} />;
  const keep = may("manage people");
  const tablets = may("register tablets");
  const qualify = may("give and withdraw qualifications");
  return (
    <>
      <ShopTabs />
      <Page>
        <Row $between>
          <div>
            <Heading>{people.data.filter((p) => !p.leftAt).length} work here</Heading>
            <Big>People</Big>
          </div>
          {keep && (
            <Button $quiet onPress={() => setAdding(!adding)}>
              Add a person
            </Button>
          )}
        </Row>
        {adding && <Add done={() => setAdding(false)} />}
        <Table style={{ marginTop: 12 }}>
          <PeopleHead />
          <tbody>
            {people.data.map((p) => (
              <tr key={p.id} className={p.id === chosen ? "on" : undefined}>
                <td>
                  <b style={{ fontSize: 18 }}>{p.name}</b>
                  {p.leftAt && (
                    <>
                      <br />
                      <small>left {date(p.leftAt)}</small>
                    </>
                  )}
                </td>
                <td>{p.role}</td>
                {kinds.map((k) => (
                  <td key={k}>
                    <Held p={p} kind={k} />
                  </td>
                ))}
                <td>{p.hasBadge ? "yes" : "none"}</td>
                <td>{p.lastSeen ? moment(p.lastSeen) : ""}</td>
                <td>
                  {(keep || (qualify && p.id !== person.id)) && (
                    <Button
                      $quiet
                      onPress={() => setChosen(p.id === chosen ? null : p.id)}
                      aria-label={`Change ${p.name}`}
                    >
                      Change
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
        {people.data
          .filter((p) => p.id === chosen)
          .map((p) => (
            <One key={p.id} p={p} keep={keep} qualify={qualify && p.id !== person.id} done={() => setChosen(null)} />
          ))}
        {tablets && <Tablets />}
      </Page>
    </>
  );
}

const tones = {
  "in date": "met",
  "ends soon": "attend",
  "not yet": "plain",
  ended: "stop",
  withdrawn: "stop",
} as const;

function Held({ p, kind }: { p: Person; kind: string }) {
  const q = p.qualifications.find((x) => x.kind === kind && x.state !== "withdrawn");
  if (!q) return <span aria-label="none">–</span>;
  return (
    <span title={q.evidence}>
      <Mark tone={tones[q.state]}>{q.state}</Mark>
      <br />
      <small>{date(q.validUntil)}</small>
    </span>
  );
}

function Add({ done }: { done: () => void }) {
  const add = useChange("/api/people", done);
  const [form, setForm] = useState<Schemas["NewPerson"]>({
    name: "",
    role: "technician",
    pin: "",
    password: "",
    sign: "",
  });
  const needs = form.role === "planner" || form.role === "administrator";
  const send = (sign: string) =>
    add.mutate({
      body: { name: form.name, role: form.role, pin: form.pin, sign, ...(needs ? { password: form.password } : {}) },
    });
  return (
    <div style={{ borderTop: "2px solid var(--ink)", padding: "10px 0", marginTop: 10 }}>
      <Row $gap={12} style={{ alignItems: "flex-end" }}>
        <TextField label="Name" value={form.name} onChange={(name) => setForm({ ...form, name })} autoFocus />
        <SelectField
          label="Role"
          value={form.role}
          onChange={(e) => setForm({ ...form, role: e.target.value as Role })}
        >
          {roles.map((r) => (
            <option key={r}>{r}</option>
          ))}
        </SelectField>
        <TextField
          label="Their PIN, 6 to 12 digits"
          type="password"
          pin
          value={form.pin}
          onChange={(pin) => setForm({ ...form, pin })}
        />
        {needs && (
          <TextField
            label="Their password, at least 12 characters"
            type="password"
            value={form.password ?? ""}
            onChange={(password) => setForm({ ...form, password })}
          />
        )}
        <Sign
          action="Add the person"
          why={form.name.trim() === "" ? "Enter the name." : form.pin === "" ? "Enter their PIN." : ""}
          busy={add.isPending}
          sign={send}
        />
        <Button $quiet onPress={done}>
          Cancel
        </Button>
      </Row>
      <Refusal error={add.error} />
    </div>
  );
}

/** Devices of the shop: those that are told the names of who may sign in. */
function Tablets() {
  const tablets = api.useQuery("get", "/api/tablets");
  const register = useChange("/api/tablets");
  const end = useChange("/api/tablets/{id}/end");
  const [name, setName] = useState("");
  return (
    <section aria-label="Tablets of the shop" style={{ marginTop: 24, maxWidth: 760 }}>
      <Heading>Tablets of the shop: their sign-in page shows the people’s names</Heading>
      <Table>
        <tbody>
          {tablets.data?.length === 0 && (
            <tr>
              <td>None yet. Other devices ask for a name to be typed, or a badge.</td>
            </tr>
          )}
          {tablets.data?.map((t) => (
            <tr key={t.id}>
              <td>
                <b>{t.name}</b>
              </td>
              <td>
                <small>
                  registered by {t.registeredBy}, {moment(t.registeredAt)}
                </small>
              </td>
              <td>
                <Button $quiet $small onPress={() => end.mutate({ id: t.id })} aria-label={`Unregister ${t.name}`}>
                  Unregister
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
      <Row $gap={12} style={{ alignItems: "flex-end", marginTop: 8 }}>
        <TextField label="Register this device as" value={name} onChange={setName} />
        <Sign
          label="Your PIN, to register it"
          action="Register it"
          why={name.trim() === "" ? "Name the tablet first." : ""}
          busy={register.isPending}
          sign={(pin) => register.mutate({ body: { name, pin } })}
        />
      </Row>
      <Refusal error={register.error ?? end.error} />
    </section>
  );
}

function One({ p, keep, qualify, done }: { p: Person; keep: boolean; qualify: boolean; done: () => void }) {
  const change = useChange("/api/people/{id}", done);
  const give = useChange("/api/people/{id}/qualify");
  const withdraw = useChange("/api/qualifications/{id}/withdraw");
  const out = useChange("/api/people/{id}/sign-out");
  const [role, setRole] = useState<Role>(p.role as Role);
  const [pin, setPin] = useState("");
  const [password, setPassword] = useState("");
  const [left, setLeft] = useState(p.leftAt !== undefined);
  const [reason, setReason] = useState("");
  const [kind, setKind] = useState<(typeof kinds)[number]>("laminating");
  const [until, setUntil] = useState("");
  const [evidence, setEvidence] = useState("");
  const [badge, setBadge] = useState<unknown>(null);
  const cache = useQueryClient();
  const [mine, setMine] = useState("");
  const issue = async () => {
    const answer = await client.POST("/api/people/{id}/badge", {
      params: { path: { id: p.id } },
      body: { pin: mine },
      parseAs: "blob",
    });
    setMine("");
    if (answer.error) return setBadge(answer.error);
    const url = URL.createObjectURL(answer.data);
    const link = document.createElement("a");
    link.href = url;
    link.download = `badge-${p.name}.pdf`;
    link.click();
    setBadge(null);
    await cache.invalidateQueries();
  };
  const changed = role !== p.role || pin !== "" || password !== "" || left !== (p.leftAt !== undefined);
  return (
    <div style={{ borderTop: "2px solid var(--ink)", padding: "10px 0", marginTop: 10 }}>
      <Row $between>
        <Big style={{ fontSize: 24 }}>{p.name}</Big>
        <Button $quiet onPress={done}>
          Close
        </Button>
      </Row>
      <div style={{ display: "grid", gridTemplateColumns: "repeat(auto-fit, minmax(420px, 1fr))", gap: "12px 40px" }}>
        {keep && (
          <Stack $gap={10}>
            <Heading>Role and secret; every change ends their sessions</Heading>
            <Row $gap={10} style={{ alignItems: "flex-end" }}>
              <SelectField label="Role" value={role} onChange={(e) => setRole(e.target.value as Role)}>
                {roles.map((r) => (
                  <option key={r}>{r}</option>
                ))}
              </SelectField>
              <TextField label="New PIN" type="password" pin value={pin} onChange={setPin} />
              <TextField label="New password" type="password" value={password} onChange={setPassword} />
            </Row>
            <label>
              <input type="checkbox" checked={left} onChange={(e) => setLeft(e.target.checked)} /> has left the shop
            </label>
            <TextField label="Reason" value={reason} onChange={setReason} />
            <Refusal error={change.error ?? out.error ?? badge} />
            <div style={{ width: 150 }}>
              <TextField label="Your PIN again" type="password" pin value={mine} onChange={setMine} />
            </div>
            <Row $gap={8}>
              <Button
                why={!changed ? "Nothing is changed." : mine === "" ? "Type your PIN." : ""}
                isDisabled={change.isPending}
                onPress={() => {
                  change.mutate({
                    id: p.id,
                    body: {
                      pin: mine,
                      ...(role !== p.role ? { role } : {}),
                      ...(pin ? { newPin: pin } : {}),
                      ...(password ? { password } : {}),
                      ...(left !== (p.leftAt !== undefined) ? { left } : {}),
                      ...(reason ? { reason } : {}),
                    },
                  });
                  setMine("");
                }}
              >
                Sign the change
              </Button>
              <Button
                $quiet
                why={mine === "" ? "Type your PIN." : ""}
                onPress={() => void issue().catch((e: unknown) => setBadge(e))}
              >
                {p.hasBadge ? "Issue a new badge, PDF" : "Issue a badge, PDF"}
              </Button>
              <Button
                $quiet
                why={mine === "" ? "Type your PIN." : ""}
                onPress={() => (out.mutate({ id: p.id, body: { pin: mine } }), setMine(""))}
              >
                Sign them out everywhere
              </Button>
            </Row>
            {badge !== null && <small>{explain(badge).message}</small>}
          </Stack>
        )}
        {qualify && (
          <Stack $gap={10}>
            <Heading>Qualifications</Heading>
            <Row $gap={10} style={{ alignItems: "flex-end" }}>
              <Select aria-label="Qualification" value={kind} onChange={(e) => setKind(e.target.value as typeof kind)}>
                {kinds.map((k) => (
                  <option key={k}>{k}</option>
                ))}
              </Select>
              <TextField label="Valid until" type="date" value={until} onChange={setUntil} />
              <div style={{ flex: 1, minWidth: 150 }}>
                <TextField label="Evidence" value={evidence} onChange={setEvidence} />
              </div>
              <Button
                why={
                  until === ""
                    ? "Enter the date until which it is valid."
                    : evidence.trim() === ""
                      ? "Enter the evidence."
                      : ""
                }
                isDisabled={give.isPending}
                onPress={() =>
                  give.mutate({
                    id: p.id,
                    body: {
                      kind,
                      evidence,
                      validFrom: new Date().toISOString(),
                      validUntil: new Date(until).toISOString(),
                    },
                  })
                }
              >
                Add the qualification
              </Button>
            </Row>
            <Refusal error={give.error ?? withdraw.error} />
            <Table>
              <tbody>
                {p.qualifications.map((q) => (
                  <tr key={q.id}>
                    <td>
                      {q.kind} <small>{q.evidence}</small>
                    </td>
                    <td>
                      <Mark tone={tones[q.state]}>{q.state}</Mark>{" "}
                      <small>
                        until {date(q.validUntil)}, by {q.givenBy || "the system"}
                      </small>
                    </td>
                    <td>
                      {q.state !== "withdrawn" && q.state !== "ended" && (
                        <Button
                          $quiet
                          why={evidence.trim() === "" ? "Write the reason above." : ""}
                          onPress={() => withdraw.mutate({ id: q.id, body: { reason: evidence } })}
                          aria-label={`Withdraw ${q.kind}`}
                        >
                          Withdraw
                        </Button>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </Stack>
        )}
      </div>
    </div>
  );
}

/** The head of the list of people. */
function PeopleHead() {
  return (
    <thead>
      <tr>
        <th>Name</th>
        <th>Role</th>
        {kinds.map((k) => (
          <th key={k} style={{ textTransform: "capitalize" }}>
            {k}
          </th>
        ))}
        <th>Badge</th>
        <th>Last here</th>
        <th />
      </tr>
    </thead>
  );
}
