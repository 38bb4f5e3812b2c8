// What was measured, held against the limits before anything is signed.
import { useEffect, useState } from "react";
import { client } from "../../app/api";
import type { Schemas } from "../../contract/types";

type Measured = Schemas["Measured"];
type Trial = { lines: Schemas["ReleaseLine"][]; error: unknown };
const none: Trial = { lines: [], error: null };

/** The lines of what was measured; null: nothing can be compared yet. */
export function useTrial(code: string, measured: Measured | null): Trial {
  const [trial, setTrial] = useState(none);
  const key = measured && JSON.stringify(measured);
  useEffect(() => {
    if (key === null) return;
    let stale = false;
    void client
      .POST("/api/release/{code}/compare", { params: { path: { code } }, body: JSON.parse(key) as Measured })
      .then(({ data, error }) => {
        if (!stale) setTrial({ lines: data ?? [], error: error ?? null });
      });
    return () => void (stale = true);
  }, [key, code]);
  return key === null ? none : trial;
}
