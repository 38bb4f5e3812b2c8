// Who is signed in, and the page to sign in: by badge or name, and PIN or
// password. A screen that nobody touches locks itself.
import { useQueryClient } from "@tanstack/react-query";
import {
  createContext,
  Fragment,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  type FormEvent,
  type ReactNode,
} from "react";
import styled from "styled-components";
import { Big, Button, Heading, Loading, Refusal, Stack, TextField } from "../ui/parts";
import { arriving } from "../ui/arrival";
import { api, client, untouched } from "./api";
import type { Schemas } from "../contract/types";
import { pressBy } from "../ui/shortcuts";
import { readIn } from "../ui/units";
import { keepFor } from "./kept";

type Person = Schemas["PersonView"];
type Session = {
  person: Person;
  /** Whether this person may do an act of the matrix today. */
  may: (act: string) => boolean;
  /** Why they may not, in the words in which it would be refused; empty: they may. */
  mayNot: (act: string) => string;
  /** How they like to work. */
  preferences: Schemas["Preferences"];
  signOut: () => void;
  /** Somebody else takes over: the screen asks for their secret. */
  switchTo: (badge: string) => void;
};
const Current = createContext<Session | null>(null);

export function useSession() {
  const session = useContext(Current);
  if (!session) throw new Error("a page without a session");
  return session;
}

const Gate = styled.main`
  min-height: 100%;
  display: grid;
  grid-template-columns: 1fr 76px 1fr;
  > section {
    padding: 12vh 40px 40px;
  }
  > i {
    position: relative;
  }
  > i::before {
    content: "";
    position: absolute;
    left: 37px;
    top: 0;
    bottom: 0;
    border-left: 2px solid var(--ink);
  }
  @media (max-width: 760px) {
    grid-template-columns: 1fr;
    > section {
      padding: 24px;
    }
    > i {
      display: none;
    }
  }
`;

const Names = styled.ul`
  list-style: none;
  margin: 12px 0 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 10px;
  max-width: 460px;
  button {
    width: 100%;
    min-height: 64px;
    font-size: 22px;
    text-align: left;
    display: flex;
    justify-content: space-between;
    align-items: center;
  }
  small {
    color: inherit;
  }
`;

const Pin = styled.form`
  max-width: 360px;
  input {
    min-height: 64px;
    font-size: 34px;
    letter-spacing: 0.2em;
  }
`;

/** What the sign-in page begins with: a badge that was scanned, or who was here. */
type Begin = { badge?: string; person?: Person };

export function SessionGate({ children }: { children: ReactNode }) {
  const cache = useQueryClient();
  const session = api.useQuery("get", "/api/session", undefined, { refetchInterval: 60_000 });
  const [begin, setBegin] = useState<Begin>({});
  const person = session.data?.person;
  const leave = useCallback(
    (next: Begin) => {
      setBegin(next);
      void client.DELETE("/api/session").then(() => {
        // Nothing that the one person read is shown to the next, who comes to
        // the page that they were called to.
        if (next.badge || next.person) void cache.resetQueries();
        else window.location.reload();
      });
    },
    [cache],
  );
  const idle = session.data?.idle ?? 0;
  useEffect(() => {
    if (!person || idle === 0) return;
    const t = setInterval(() => untouched() > idle && leave({ person }), 5000);
    return () => clearInterval(t);
  }, [person, idle, leave]);
  const acts = session.data?.acts;
  const preferences = session.data?.preferences;
  // Before any page of theirs is drawn.
  keepFor(person?.id ?? 0);
  readIn(preferences?.units ?? {});
  pressBy(preferences?.keys ?? {});
  const value = useMemo<Session | null>(() => {
    if (!person || !acts) return null;
    const of = new Map(acts.map((a) => [a.act, a.not ?? ""]));
    const mayNot = (act: string) => of.get(act) ?? `nobody may ${act}`;
    return {
      person,
      preferences: preferences ?? { units: {}, keys: {} },
      mayNot,
      may: (act) => mayNot(act) === "",
      signOut: () => leave({}),
      switchTo: (badge) => leave({ badge }),
    };
  }, [person, acts, preferences, leave]);
  if (!session.data) return <Gate>{<section>{<Loading error={session.error} />}</section>}</Gate>;
  if (session.data.empty) return <First />;
  if (!value) {
    arriving();
    return <SignIn key={begin.badge ?? begin.person?.id ?? ""} begin={begin} />;
  }
  // Other units are another page: nothing on it may stay as it was.
  return (
    <Current.Provider value={value}>
      <Fragment key={JSON.stringify(preferences?.units)}>{children}</Fragment>
    </Current.Provider>
  );
}

/** Scans on the sign-in page: a badge begins with W and ends with Enter. */
function useBadge(read: (badge: string) => void) {
  const latest = useRef(read);
  useEffect(() => {
    latest.current = read;
  });
  useEffect(() => {
    let text = "";
    let idle: number | undefined;
    const down = (e: KeyboardEvent) => {
      clearTimeout(idle);
      idle = window.setTimeout(() => (text = ""), 2000);
      if (e.key === "Enter" && text.length > 5) {
        e.preventDefault();
        e.stopPropagation();
        latest.current(text);
        text = "";
      } else if (text || /^w$/i.test(e.key)) {
        if (/^[0-9a-z-]$/i.test(e.key)) {
          text += e.key.toUpperCase();
          e.preventDefault();
          e.stopPropagation();
        }
      }
    };
    // A password may begin with a w as well: only fields for a PIN hear badges.
    const filtered = (e: KeyboardEvent) => {
      const field = e.target instanceof HTMLInputElement ? e.target : null;
      if (!field || field.dataset.pin) down(e);
    };
    window.addEventListener("keydown", filtered, true);
    return () => window.removeEventListener("keydown", filtered, true);
  }, []);
}

function SignIn({ begin }: { begin: Begin }) {
  const cache = useQueryClient();
  const people = api.useQuery("get", "/api/people");
  const [who, setWho] = useState<Person | null>(begin.person ?? null);
  const [badge, setBadge] = useState("");
  const [typed, setTyped] = useState("");
  const [secret, setSecret] = useState("");
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    document.title = "Sign in · Juxta";
  }, []);
  const readBadge = useCallback(async (code: string) => {
    const { data, error } = await client.POST("/api/badge", { body: { badge: code } });
    setError(error ?? null);
    setSecret("");
    if (data) {
      setBadge(code);
      setWho(data);
    }
  }, []);
  useBadge((code) => void readBadge(code));
  useEffect(() => {
    // The badge that was scanned while somebody else was signed in.
    if (begin.badge) void readBadge(begin.badge);
  }, [begin.badge, readBadge]);
  const choose = (p: Person) => {
    setWho(p);
    setBadge("");
    setSecret("");
    setError(null);
  };
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    if (!who || busy) return;
    setBusy(true);
    try {
      const { error } = await client.POST("/api/session", {
        body: badge ? { badge, secret } : who.id ? { personId: who.id, secret } : { name: who.name, secret },
      });
      setSecret("");
      setError(error ?? null);
      if (!error) await cache.invalidateQueries();
    } catch (fault) {
      setError(fault);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Gate>
      <section aria-label="Who are you">
        <Big>Who are you?</Big>
        <p style={{ marginTop: 6 }}>Scan your badge, or press your name.</p>
        {!people.data ? (
          <Loading error={people.error} />
        ) : people.data.length === 0 ? (
          <NameForm typed={typed} choose={choose} setTyped={setTyped} />
        ) : (
          <Names>
            {people.data.map((p) => (
              <PersonChoice key={p.id} p={p} who={who} choose={choose} />
            ))}
          </Names>
        )}
      </section>
      <i />
      <SecretForm
        who={who}
        submit={submit}
        badge={badge}
        secret={secret}
        setSecret={setSecret}
        busy={busy}
        error={error}
      />
    </Gate>
  );
}

/** An empty shop: the first administrator, with the code from the server's terminal. */
function First() {
  const cache = useQueryClient();
  const [form, setForm] = useState({ code: "", name: "", pin: "", password: "" });
  const [error, setError] = useState<unknown>(null);
  const set = (key: keyof typeof form) => (v: string) => setForm({ ...form, [key]: v });
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    const { error } = await client.POST("/api/first", { body: form });
    setError(error ?? null);
    if (!error) await cache.invalidateQueries();
  };
  useEffect(() => {
    document.title = "The first administrator · Juxta";
  }, []);
  return (
    <Gate>
      <section aria-label="An empty shop">
        <Heading>Juxta · planned left, built right</Heading>
        <Big>This shop is empty</Big>
        <p style={{ marginTop: 12, maxWidth: "46ch" }}>
          Its first administrator lets everybody else in. The server printed a code on its terminal when it started: it
          works once, and for a day. Nobody can go on here without it.
        </p>
      </section>
      <i />
      <section aria-label="The first administrator">
        <form onSubmit={(e) => void submit(e)} style={{ maxWidth: 420 }}>
          <Stack $gap={14}>
            <TextField label="Code from the terminal" value={form.code} onChange={set("code")} autoFocus isRequired />
            <TextField label="Your name" value={form.name} onChange={set("name")} isRequired />
            <TextField
              label="PIN, 6 to 12 digits, for signatures"
              type="password"
              value={form.pin}
              onChange={set("pin")}
              isRequired
            />
            <TextField
              label="Password, at least 12 characters, to sign in"
              type="password"
              value={form.password}
              onChange={set("password")}
              isRequired
            />
            <Refusal error={error} />
            <Button type="submit" $bench why={Object.values(form).some((v) => v === "") ? "All four are needed." : ""}>
              Enter as administrator
            </Button>
          </Stack>
        </form>
      </section>
    </Gate>
  );
}

/** Who signs in, by name, where the device is told no names. */
function NameForm({
  typed,
  choose,
  setTyped,
}: {
  typed: string;
  choose: (p: Schemas["PersonView"]) => void;
  setTyped: (value: string | ((prevState: string) => string)) => void;
}) {
  return (
    <form
      style={{ maxWidth: 360, marginTop: 14 }}
      onSubmit={(e) => {
        e.preventDefault();
        if (typed.trim()) choose({ id: 0, name: typed.trim(), role: "", secret: "PIN or password" as never });
      }}
    >
      <Stack $gap={12}>
        <p>This device is not one of the shop’s tablets: type your name.</p>
        <TextField label="Your name" value={typed} onChange={setTyped} autoFocus isRequired />
        <Button type="submit" $quiet why={typed.trim() === "" ? "Type your name." : ""}>
          Go on
        </Button>
      </Stack>
    </form>
  );
}

/** The PIN or password of who was chosen. */
function SecretForm({
  who,
  submit,
  badge,
  secret,
  setSecret,
  busy,
  error,
}: {
  who: null | Schemas["PersonView"];
  submit: (e: FormEvent<Element>) => Promise<void>;
  badge: string;
  secret: string;
  setSecret: (value: string | ((prevState: string) => string)) => void;
  busy: boolean;
  error: unknown;
}) {
  return (
    <section aria-label={who?.secret ?? "PIN"}>
      <Heading>Juxta · planned left, built right</Heading>
      {who ? (
        <Pin onSubmit={(e) => void submit(e)}>
          <Stack $gap={16}>
            <Big>{who.name}</Big>
            <TextField
              key={`${who.id} ${badge}`}
              label={who.secret}
              type="password"
              pin={who.secret === "PIN"}
              value={secret}
              onChange={setSecret}
              autoFocus
              isRequired
            />
            <Button type="submit" $bench why={secret === "" ? `Type your ${who.secret}.` : ""} isDisabled={busy}>
              Sign in
            </Button>
            <Refusal error={error} />
          </Stack>
        </Pin>
      ) : (
        <Stack $gap={16}>
          <Big>Choose your name, then type your PIN or password.</Big>
          <Refusal error={error} />
        </Stack>
      )}
    </section>
  );
}

/** One of those who may sign in. */
function PersonChoice({
  p,
  who,
  choose,
}: {
  p: Schemas["PersonView"];
  who: null | Schemas["PersonView"];
  choose: (p: Schemas["PersonView"]) => void;
}) {
  return (
    <li>
      <Button $quiet={p.id !== who?.id} aria-pressed={p.id === who?.id} onPress={() => choose(p)}>
        {p.name} <small>{p.role}</small>
      </Button>
    </li>
  );
}
