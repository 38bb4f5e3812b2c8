// One's own PIN, password and sessions, units and keys.
import { useState, type FormEvent } from "react";
import { useQueryClient } from "@tanstack/react-query";
import { useChange } from "../../app/api";
import { useSession } from "../../app/session";
import { useTitle } from "../../app/shell";
import { Big, Button, Heading, Page, Refusal, Row, Stack, TextField } from "../../ui/parts";
import { Preferences } from "./Preferences";
import { ShopTabs } from "./tabs";

export function OwnAccount() {
  useTitle("Mine");
  const { person } = useSession();
  const cache = useQueryClient();
  const again = () => void cache.invalidateQueries();
  const change = useChange("/api/secret", again);
  const out = useChange("/api/sign-out", again);
  const [pin, setPin] = useState("");
  const [newPin, setNewPin] = useState("");
  const [password, setPassword] = useState("");
  const submit = (e: FormEvent) => {
    e.preventDefault();
    change.mutate({ body: { pin, ...(newPin ? { newPin } : {}), ...(password ? { password } : {}) } });
  };
  return (
    <>
      <ShopTabs />
      <Page style={{ maxWidth: 1240, display: "flex", flexWrap: "wrap", gap: 60 }}>
        <section aria-label="Secret and sessions" style={{ flex: "1 1 360px", maxWidth: 480 }}>
          <Heading>{person.role}</Heading>
          <Big>{person.name}</Big>
          <form onSubmit={submit}>
            <Stack $gap={12} style={{ marginTop: 14 }}>
              <TextField label="Current PIN" type="password" pin value={pin} onChange={setPin} />
              <TextField label="New PIN, 6 to 12 digits" type="password" pin value={newPin} onChange={setNewPin} />
              {person.secret === "password" && (
                <TextField
                  label="New password, at least 12 characters"
                  type="password"
                  value={password}
                  onChange={setPassword}
                />
              )}
              <Refusal error={change.error ?? out.error} />
              <Row>
                <Button
                  type="submit"
                  why={
                    pin === "" ? "Type your present PIN." : newPin === "" && password === "" ? "Type a new one." : ""
                  }
                  isDisabled={change.isPending}
                >
                  Change, and sign in again
                </Button>
                <Button $quiet onPress={() => out.mutate({})}>
                  Sign me out everywhere
                </Button>
              </Row>
            </Stack>
          </form>
        </section>
        <Preferences />
      </Page>
    </>
  );
}
