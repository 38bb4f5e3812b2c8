// The types of the server's contract, and what an error of it says.
import type { components } from "./schema";

export type Schemas = components["schemas"];
export type Problem = Schemas["ErrorModel"];

/** What to show of an error: its sentence, and the lines that name rows or fields. */
export function explain(error: unknown): { says: string; details: string[] } {
  const problem = error as Problem | undefined;
  if (problem && typeof problem.detail === "string") {
    const details = (problem.errors ?? []).map((e) => e.message ?? "").filter((m) => m && m !== problem.detail);
    return { says: problem.detail, details };
  }
  return { says: "The server cannot be reached. Nothing is lost: try again in a moment.", details: [] };
}
