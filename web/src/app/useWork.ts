// The build of a page, and the operation of its route that the page is about. A page that
// was opened without one stays with the one that it was given.
import { useEffect } from "react";
import { useParams, useSearchParams } from "react-router";

export function useWork(given?: string) {
  const { code = "" } = useParams();
  const [query, setQuery] = useSearchParams();
  const operation = query.get("operation") ?? "";
  useEffect(() => {
    if (given && operation === "") setQuery({ operation: given }, { replace: true });
  }, [given, operation, setQuery]);
  return { code, operation, params: { path: { code }, query: operation ? { operation } : {} } };
}

/** What was read, if it is of that operation: the page stands while its address is put right. */
export const ofOperation = <T extends { at?: { operation: string } }>(v: T | undefined, operation: string) =>
  v?.at && operation !== "" && v.at.operation !== operation ? undefined : v;

/** Goes on with what was read before until the answer is there. */
export const still = { placeholderData: <T>(before: T) => before };
