// What a part would feel in a cure as it stands on the page.
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { client } from "../../app/api";
import { Refused, type Schemas } from "../../contract/types";

export type Plan = Schemas["RecipePlan"];
export type Segment = Schemas["Segment"];
export type Forecast = Schemas["CureOut"];
export type Asked = Schemas["ForecastIn"];

/** The frame that curves over the time of a cure are drawn in, so that they stand over one another. */
export const frame = { W: 1180, left: 46, right: 46 };

/** NaN stands in a field that is not filled: nothing can be simulated from it. */
export const filled = (v: unknown): boolean =>
  typeof v === "number"
    ? !Number.isNaN(v)
    : v !== null && typeof v === "object"
      ? Object.values(v).every(filled)
      : true;

const simulated = (asked: Asked | undefined) => {
  const key = asked && filled(asked) ? JSON.stringify(asked) : undefined;
  return {
    queryKey: ["forecast", key],
    enabled: key !== undefined,
    retry: false,
    refetchOnWindowFocus: false,
    staleTime: 60_000,
    queryFn: async ({ signal }: { signal: AbortSignal }): Promise<Forecast> => {
      const { data, error } = await client.POST("/api/forecast", { body: asked!, signal });
      if (!data) throw new Refused(error);
      return data;
    },
  };
};

/** While somebody types, the curves before stay until the new ones are there. */
export const useForecast = (asked: Asked | undefined) =>
  useQuery({ ...simulated(asked), placeholderData: keepPreviousData });

/** Several beside one another, in their order; one that cannot be simulated has none. */
export const useForecasts = (all: Asked[]) => useQueries({ queries: all.map(simulated), combine: found });
const found = (all: { data?: Forecast | undefined }[]) => all.map((q) => q.data);

/** Where a segment's ramp ends, and the segment itself, s. */
export function ends(f: Forecast, plan: Plan) {
  return plan.recipe.segments.map((s, k) => {
    const own = f.points.filter((p) => p.segment === k && p.t < f.duration + 1);
    const last = f.points.find((p) => p.segment > k) ?? f.points.at(-1)!;
    const there = own.find((p) => Math.abs(p.setPoint - s.target) < 0.05) ?? last;
    return { from: own[0]?.t ?? last.t, ramp: there.t, end: last.t };
  });
}

/** A segment with something changed; what is not asked for is left out. */
export function withSegment(plan: Plan, at: number, part: Partial<Segment>): Plan {
  const segments = plan.recipe.segments.map((s, k) => (k === at ? { ...s, ...part } : s));
  return { ...plan, recipe: { ...plan.recipe, segments } };
}
