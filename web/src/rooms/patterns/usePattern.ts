// A stage as it is laid or rolled: asked anew when what it follows from changes.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Refused, type Problem } from "../../contract/types";

/** The reply to the page as it stands, and the last one that could be worked out: it stays in sight while a fault stands. */
export function usePattern<T>(
  key: readonly unknown[],
  post: () => Promise<{ data?: T; error?: Problem }>,
  complete: (reply: T) => boolean,
) {
  const asked = useQuery({
    queryKey: key,
    placeholderData: keepPreviousData,
    queryFn: async (): Promise<T> => {
      const { data, error } = await post();
      if (!data) throw new Refused(error ?? {});
      return data;
    },
  });
  const [good, setGood] = useState<T>();
  const reply = asked.data;
  if (reply && complete(reply) && reply !== good) setGood(reply);
  return { reply, good: reply && complete(reply) ? reply : good, error: asked.error };
}
