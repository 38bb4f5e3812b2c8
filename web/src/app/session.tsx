// Who is signed in, and the page to sign in by name and PIN.
import { useQueryClient } from "@tanstack/react-query";
import { createContext, useContext, useEffect, useState, type FormEvent, type ReactNode } from "react";
import styled from "styled-components";
import { Big, Button, Heading, Loading, Refusal, Stack, TextField } from "../ui/parts";
import { api, client, type Schemas } from "./api";

type Session = { person: Schemas["PersonView"]; signOut: () => void };
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

export function SessionGate({ children }: { children: ReactNode }) {
  const cache = useQueryClient();
  const session = api.useQuery("get", "/api/session", undefined, { refetchInterval: 5 * 60_000 });
  if (!session.data) return <Gate>{<section>{<Loading error={session.error} />}</section>}</Gate>;
  const { person } = session.data;
  if (!person) return <SignIn />;
  const signOut = () => {
    void client.DELETE("/api/session").then(() => {
      cache.clear();
      window.location.assign("/");
    });
  };
  return <Current.Provider value={{ person, signOut }}>{children}</Current.Provider>;
}

function SignIn() {
  const cache = useQueryClient();
  const people = api.useQuery("get", "/api/people");
  const [who, setWho] = useState<Schemas["PersonView"] | null>(null);
  const [pin, setPin] = useState("");
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    document.title = "Sign in · Juxta";
  }, []);
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    if (!who || busy) return;
    setBusy(true);
    try {
      const { error } = await client.POST("/api/session", { body: { personId: who.id, pin } });
      setPin("");
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
        {!people.data ? (
          <Loading error={people.error} />
        ) : (
          <Names>
            {people.data.map((p) => (
              <li key={p.id}>
                <Button $quiet={p.id !== who?.id} aria-pressed={p.id === who?.id} onPress={() => setWho(p)}>
                  {p.name} <small>{p.role}</small>
                </Button>
              </li>
            ))}
          </Names>
        )}
      </section>
      <i />
      <section aria-label="PIN">
        <Heading>Juxta · planned left, built right</Heading>
        {who ? (
          <Pin onSubmit={(e) => void submit(e)}>
            <Stack $gap={16}>
              <Big>{who.name}</Big>
              <TextField key={who.id} label="PIN" type="password" value={pin} onChange={setPin} autoFocus isRequired />
              <Button $bench type="submit" isDisabled={busy || pin === ""}>
                Sign in
              </Button>
              <Refusal error={error} />
            </Stack>
          </Pin>
        ) : (
          <p style={{ marginTop: 12, fontSize: 20 }}>Choose your name, then type your PIN. What you sign carries your name.</p>
        )}
      </section>
    </Gate>
  );
}
