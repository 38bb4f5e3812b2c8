// The types of the server's contract, and what an error of it says.
import type { components } from "./schema";

export type Schemas = components["schemas"];
export type Problem = Schemas["ErrorModel"];

/** What was refused, by the server or on the page, as an error that can be thrown. */
export class Refused extends Error {
  readonly detail: string | undefined;
  readonly errors: Problem["errors"];
  readonly type: string | undefined;
  constructor(problem: Partial<Problem>) {
    super(problem.detail ?? problem.title ?? "refused");
    this.detail = problem.detail;
    this.errors = problem.errors;
    this.type = problem.type;
  }
}

/** What to show of an error: its sentence, and the lines that name rows or fields. */
export function explain(error: unknown): { message: string; details: string[] } {
  const problem = error as Refused | Problem | null | undefined;
  if (problem && typeof problem.detail === "string") {
    const details = (problem.errors ?? []).map((e) => e.message ?? "").filter((m) => m && m !== problem.detail);
    return { message: problem.detail, details };
  }
  return { message: "The server cannot be reached. Nothing is lost: try again in a moment.", details: [] };
}

/** The code of the rule that a refusal follows from, whatever its sentence says. */
export const ruleOf = (error: unknown) => (error as Refused | Problem | null | undefined)?.type?.replace(/^juxta:/, "");
