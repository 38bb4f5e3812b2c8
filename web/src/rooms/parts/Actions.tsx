// What is done with a revision: it is checked, released, followed by the next, and
// built to.
import { useState, type FormEvent } from "react";
import { Link, useNavigate } from "react-router";
import { api, useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useSession } from "../../app/session";
import { moment } from "../../ui/format";
import { Button, Loading, Mark, Refusal, Row, Stack, TextField } from "../../ui/parts";
import { ReasonForm } from "../../ui/ReasonForm";
import { useMayNotSign } from "./signing";
import { Sign } from "../../ui/Sign";

type Revision = Schemas["RevisionView"];

/** Who wrote, checked and released a revision, and what can be done with it next. */
export function Actions({
  v,
  busy,
  check,
  release,
  renew,
  build,
}: {
  v: Revision;
  busy: boolean;
  check: (pin: string) => void;
  release: (pin: string) => void;
  renew: () => void;
  build: () => void;
}) {
  const { may } = useSession();
  // Whose signature would be refused reads why, and is asked for none.
  const not = useMayNotSign()(v.part);
  return (
    <Row $gap={10} style={{ alignItems: "flex-end" }}>
      {v.state === "draft" && (
        <span style={{ flex: 1 }}>
          {v.changedBy ? `Written by ${v.changedBy}. ` : ""}
          {not}
          {!not && may("check a revision") && <Sign action={`Check revision ${v.letter}`} busy={busy} sign={check} />}
        </span>
      )}
      {v.state === "checked" && (
        <span style={{ flex: 1 }}>
          Checked by {v.checkedBy}, {v.checkedAt && moment(v.checkedAt)}. {not}
          {!not && may("release a revision") && (
            <Sign action={`Release revision ${v.letter}`} busy={busy} sign={release} />
          )}
        </span>
      )}
      {(v.state === "released" || v.state === "superseded") && (
        <span style={{ flex: 1 }}>
          Released by {v.signedBy}, {v.signedAt && moment(v.signedAt)}
          <br />
          <small title={v.hash}>hash {v.hash.slice(0, 12)}</small>
        </span>
      )}
      {!v.part.draft && may("edit the master") && (
        <Button $quiet onPress={renew}>
          New revision
        </Button>
      )}
      {v.part.released && may("open a build") && !v.part.archived && (
        <Button $quiet={v.state !== "released"} onPress={build}>
          Start a build to {v.part.released}
        </Button>
      )}
    </Row>
  );
}

/** The builds to a revision; with open, those that a change of it does not reach any more. */
export const useBuilds = (code: string, letter: string, open = false) =>
  api.useQuery("get", "/api/parts/{code}/builds", { params: { path: { code }, query: { letter, open } } });

export function BuildLinks({ builds }: { builds: Schemas["BuildLine"][] }) {
  return builds.map((b) => (
    <span key={b.code}>
      <Link to={`/thread/${b.code}`}>{b.serial}</Link> <small>{b.room}</small>{" "}
    </span>
  ));
}

export function BuiltTo({ v }: { v: Revision }) {
  const { data = [], error } = useBuilds(v.part.code, v.letter);
  if (error) return <Refusal error={error} />;
  return (
    data.length > 0 && (
      <p>
        Built to {v.letter}: <BuildLinks builds={data} />
      </p>
    )
  );
}

/** It waits for the next serial, which follows from the builds that there are. */
export function StartBuild({ v, close }: { v: Revision; close: () => void }) {
  const { code } = v.part;
  const next = api.useQuery("get", "/api/parts/{code}/next-serial", { params: { path: { code } } }, { gcTime: 0 });
  if (!next.data) return <Loading error={next.error} />;
  return <StartForm code={code} next={next.data.serial} close={close} />;
}

function StartForm({ code, next, close }: { code: string; next: string; close: () => void }) {
  const navigate = useNavigate();
  const start = useChange("/api/parts/{code}/builds", (b) => void navigate(`/thread/${b.code}`));
  const [serial, setSerial] = useState(next);
  const tomorrow = new Date(Date.now() + 30 * 3600e3);
  tomorrow.setMinutes(0, 0, 0);
  const local = new Date(tomorrow.getTime() - tomorrow.getTimezoneOffset() * 60e3).toISOString().slice(0, 16);
  const [cureAt, setCureAt] = useState(local);
  const submit = (e: FormEvent) => {
    e.preventDefault();
    start.mutate({ code, body: { serial, cureAt: new Date(cureAt).toISOString() } });
  };
  return (
    <form onSubmit={submit}>
      <Stack $gap={10}>
        <Row $top>
          <TextField label="Serial" value={serial} onChange={setSerial} autoFocus isRequired />
          <TextField
            label="Cure planned to start"
            type="datetime-local"
            value={cureAt}
            onChange={setCureAt}
            isRequired
          />
        </Row>
        <Refusal error={start.error} />
        <Row>
          <Button type="submit" isDisabled={start.isPending}>
            Start the build
          </Button>
          <Button $quiet onPress={close}>
            Cancel
          </Button>
        </Row>
      </Stack>
    </form>
  );
}

/** A part that was begun by mistake leaves the list of parts, with a reason, and may be restored. */
export function ArchivePart({ v }: { v: Revision }) {
  const { may } = useSession();
  const archive = useChange("/api/parts/{code}/archive");
  const restore = useChange("/api/parts/{code}/restore");
  const { code } = v.part;
  if (!may("edit the master")) return null;
  if (v.part.archived)
    return (
      <Row $gap={10}>
        <Mark tone="attend">Archived: {v.part.archived}</Mark>
        <Button $quiet $small onPress={() => restore.mutate({ code })}>
          Restore
        </Button>
        <Refusal error={restore.error} />
      </Row>
    );
  return (
    <ReasonForm
      opens="Archive this part …"
      why={`Why is ${v.part.number} archived?`}
      does="Archive it"
      run={{ ...archive, mutate: (reason) => archive.mutate({ code, body: { reason } }) }}
    />
  );
}
