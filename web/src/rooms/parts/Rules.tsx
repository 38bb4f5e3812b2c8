// The shop's rules for laminates: limit, reason and source of each.
import { useState } from "react";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useSay } from "../../ui/say";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Big, Loading, Page, Row, Table, TextField } from "../../ui/parts";
import { ReasonedChange } from "../../ui/ReasonForm";
import { Figure } from "../master/Detail";
import { PartTabs } from "./Tabs";

type Limits = Schemas["RuleSettings"];

/** Which setting belongs to which rule, and in what unit it is shown. */
const settings: Record<string, { key: keyof Limits; label: string; scale?: number }[]> = {
  symmetry: [{ key: "symmetry", label: "required" }],
  balance: [{ key: "balance", label: "required" }],
  share: [{ key: "minShare", label: "at least, %", scale: 100 }],
  run: [{ key: "maxRun", label: "at most in a row", scale: 1 }],
  step: [{ key: "maxStep", label: "at most, °", scale: 1 }],
  outer: [{ key: "outer45", label: "required" }],
  drop: [
    { key: "dropSlope", label: "apart, × thickness", scale: 1 },
    { key: "maxDrop", label: "plies at one line", scale: 1 },
  ],
  ramp: [{ key: "maxRamp", label: "at most, °", scale: 1 }],
  "core bond": [{ key: "coreResin", label: "resin at least, %", scale: 100 }],
  galvanic: [{ key: "galvanic", label: "required" }],
};

export function RulesPage() {
  useTitle("Laminate rules");
  const rules = api.useQuery("get", "/api/rules");
  if (!rules.data) return <Loading error={rules.error} />;
  return (
    <>
      <RulesForm key={rules.data.version} v={rules.data} />
      <SettingsForm />
    </>
  );
}

/** What shops decide differently, and this one has decided. */
function SettingsForm() {
  const kept = api.useQuery("get", "/api/settings");
  return kept.data ? <Settings key={kept.data.version} v={kept.data} /> : <Loading error={kept.error} />;
}

function Settings({ v }: { v: Schemas["ShopSettingsView"] }) {
  const { may } = useSession();
  const say = useSay();
  const save = useChange("/api/settings", () => say("The settings are kept.", true));
  const [settings, setSettings] = useState(v.settings);
  const writes = may("change the shop's rules");
  const tick = (key: "oneReleases" | "namesToAll", label: string) => (
    <label style={{ minHeight: 36, display: "flex", gap: 8, alignItems: "center" }}>
      <input
        type="checkbox"
        checked={settings[key]}
        disabled={!writes}
        onChange={(e) => setSettings({ ...settings, [key]: e.target.checked })}
      />
      {label}
    </label>
  );
  return (
    <section aria-label="Shop settings" style={{ padding: "0 24px 32px", maxWidth: 900 }}>
      <ReasonedChange
        writes={writes}
        label="Reason for the change of settings"
        does="Keep the settings"
        save={{ ...save, run: (reason) => save.mutate({ body: { version: v.version, settings, reason } }) }}
      >
        <h2 style={{ fontSize: 22 }}>Shop settings</h2>
        {tick("oneReleases", "Who checked a revision may release it as well (usually somebody else does)")}
        {tick(
          "namesToAll",
          "The sign-in page tells the people’s names to any tablet that asks (usually to registered ones only)",
        )}
        <TextField
          label="Places of the shop, with commas: benches, ovens, presses, the cutter (empty: any)"
          value={(settings.places ?? []).join(", ")}
          isReadOnly={!writes}
          onChange={(v) =>
            setSettings({ ...settings, places: v.trim() === "" ? [] : v.split(",").map((x) => x.trimStart()) })
          }
        />
      </ReasonedChange>
    </section>
  );
}

function RulesForm({ v }: { v: Schemas["RuleView"] }) {
  const { may } = useSession();
  const say = useSay();
  const save = useChange("/api/rules", () => say("The rules are kept.", true));
  const [limits, setLimits] = useState(v.limits);
  const writes = may("change the shop's rules");
  return (
    <>
      <PartTabs />
      <Page>
        <ReasonedChange
          writes={writes}
          label="Reason for the change"
          does="Keep the rules"
          save={{ ...save, run: (reason) => save.mutate({ body: { version: v.version, limits, reason } }) }}
        >
          <Big>Laminate rules</Big>
          <p>
            A limit of 0, or a rule that is not asked for, is switched off. A quality person may waive a finding for one
            revision, with a reason. The engineer of record decides.
          </p>
          <RuleTable v={v} limits={limits} writes={writes} setLimits={setLimits} />
        </ReasonedChange>
      </Page>
    </>
  );
}

/** The rules with their limits. */
function RuleTable({
  v,
  limits,
  writes,
  setLimits,
}: {
  v: Schemas["RuleView"];
  limits: Schemas["RuleSettings"];
  writes: boolean;
  setLimits: (
    value: Schemas["RuleSettings"] | ((prevState: Schemas["RuleSettings"]) => Schemas["RuleSettings"]),
  ) => void;
}) {
  return (
    <Table>
      <thead>
        <tr>
          <th>Rule</th>
          <th>Requires</th>
          <th>Limit</th>
          <th>Why</th>
          <th>Source</th>
        </tr>
      </thead>
      <tbody>
        {v.rules.map((r) => (
          <tr key={r.name}>
            <td>
              <b>{r.name}</b>
            </td>
            <td>{r.asks}</td>
            <td>
              <Row $gap={10}>
                {settings[r.name]?.map((s) =>
                  s.scale === undefined ? (
                    <label key={s.key} style={{ minHeight: 32, display: "inline-flex", gap: 6, alignItems: "center" }}>
                      <input
                        type="checkbox"
                        aria-label={`${r.name}: ${s.label}`}
                        checked={limits[s.key] as boolean}
                        disabled={!writes}
                        onChange={(e) => setLimits({ ...limits, [s.key]: e.target.checked })}
                      />
                      {s.label}
                    </label>
                  ) : (
                    <Figure
                      need
                      key={s.key}
                      label={s.label}
                      scale={s.scale}
                      value={limits[s.key] as number}
                      off={!writes}
                      set={(x) => setLimits({ ...limits, [s.key]: x ?? 0 })}
                    />
                  ),
                )}
              </Row>
            </td>
            <td>{r.why}</td>
            <td>
              <small>{r.source}</small>
            </td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}
