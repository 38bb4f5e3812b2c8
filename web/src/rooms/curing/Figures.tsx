// Fields for the figures of something, each in the unit that people enter it in; an empty one is not said.
import { NumberField } from "../../ui/parts";

/** From SI to what is entered, and back. */
export type Scale = { to: (v: number) => number; from: (v: number) => number; kelvin?: boolean };

export const per = (by: number): Scale => ({ to: (v) => v * by, from: (v) => v / by });
/** As it is: K, entered in °C. */
export const kelvin = { to: (v: number) => v, from: (v: number) => v, kelvin: true };

/** The keys of what is a number, or may be one. */
export type NumberKey<T> = { [K in keyof T]-?: T[K] extends number | undefined ? K : never }[keyof T];

export type Figure<T> = { key: NumberKey<T>; label: string } & Scale;

export function Figures<T>({
  of,
  fields,
  width,
  change,
}: {
  of: T;
  fields: readonly Figure<T>[];
  width: number;
  change: ((part: Partial<T>) => void) | undefined;
}) {
  return fields.map((f) => {
    const v = of[f.key] as number | undefined;
    return (
      <div key={String(f.key)} style={{ width }}>
        <NumberField
          label={f.label}
          kelvin={f.kelvin ?? false}
          off={!change}
          value={v ? +f.to(v).toPrecision(8) : NaN}
          onChange={(n) => change?.({ [f.key]: Number.isNaN(n) ? 0 : f.from(n) } as Partial<T>)}
        />
      </div>
    );
  });
}
