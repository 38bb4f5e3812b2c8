// A nest, followed while it is searched and while the knife is at it.
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, useEvents } from "../../app/api";
import type { Schemas } from "../../contract/types";

type View = Schemas["NestView"];

export const isCutting = (n: View | undefined) => n?.job?.state === "queued" || n?.job?.state === "running";
export const isSearched = (n: View | undefined) => n?.state === "queued" || n?.state === "running";

export function useNest(code: string) {
  const cache = useQueryClient();
  const kept = api.useQuery("get", "/api/nests/{code}", { params: { path: { code } } });
  const [live, setLive] = useState<View | undefined>();
  const moving = isSearched(kept.data) || isCutting(kept.data);
  const gone = useEvents<View>(moving ? `/api/nests/${code}/events` : undefined, (v) => {
    setLive(v);
    if (!isSearched(v) && !isCutting(v)) void cache.invalidateQueries();
  });
  return {
    /** As far as it has come. */
    nest: moving && live?.code === kept.data?.code ? live : kept.data,
    error: kept.error,
    searching: isSearched(kept.data),
    /** The connection is lost, and tried again. */
    gone,
  };
}
