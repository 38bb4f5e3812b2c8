// @vitest-environment happy-dom
import { cleanup, render, screen } from "@testing-library/react";
import { userEvent } from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, test } from "vitest";
import { NumberField } from "./NumberField";
import { readIn } from "./units";

afterEach(() => {
  cleanup();
  readIn({});
});

/** A field with what it told last. */
function Field({
  start = NaN,
  ...rest
}: {
  start?: number;
  label?: string;
  min?: number;
  max?: number;
  late?: boolean;
  need?: boolean;
  kelvin?: boolean;
}) {
  const [v, setV] = useState(start);
  return (
    <>
      <NumberField label="Length, mm" value={v} onChange={setV} {...rest} />
      <output>{String(+v.toPrecision(8))}</output>
    </>
  );
}
const told = () => screen.getByRole("status").textContent;
const input = () => screen.getByRole("textbox");

describe("a temperature in K", () => {
  test("is typed and shown in °C, and judged there", async () => {
    render(<Field kelvin label="Hold, °C" start={453.15} max={473.15} />);
    expect(input()).toHaveProperty("value", "180");
    await userEvent.clear(input());
    expect(told()).toBe("NaN");
    await userEvent.type(input(), "-18,5");
    expect(told()).toBe("254.65");
    await userEvent.clear(input());
    await userEvent.type(input(), "201");
    await userEvent.tab();
    expect(screen.getByRole("alert").textContent).toContain("201 °C is above 200 °C");
    expect(told()).toBe("NaN");
  });

  test("in °F for who reads these", async () => {
    readIn({ temperature: "F" });
    render(<Field kelvin label="Hold, °C" start={453.15} />);
    expect(input()).toHaveProperty("value", "356");
    await userEvent.clear(input());
    await userEvent.type(input(), "350");
    expect(+told()).toBeCloseTo(449.817, 3);
  });
});

describe("a number as somebody types it", () => {
  test("is told at every key, with a comma or a point", async () => {
    render(<Field />);
    await userEvent.type(input(), "1,5");
    expect(told()).toBe("1.5");
    await userEvent.clear(input());
    await userEvent.type(input(), "2.25");
    expect(told()).toBe("2.25");
  });

  test("is no number: the sentence stands at its place, what was typed stays, and nothing is told", async () => {
    render(<Field start={3} />);
    await userEvent.clear(input());
    await userEvent.type(input(), "three");
    await userEvent.tab();
    expect(screen.getByRole("alert").textContent).not.toBe("");
    expect(input()).toHaveProperty("value", "three");
    expect(told()).toBe("NaN");
    await userEvent.type(input(), "{Escape}");
    expect(screen.queryByRole("alert")).toBeNull();
  });

  test("lies beyond its limits", async () => {
    render(<Field min={0} max={10} />);
    await userEvent.type(input(), "11");
    await userEvent.tab();
    expect(screen.getByRole("alert").textContent).toContain("10");
    expect(told()).toBe("NaN");
  });

  test("is told late where it is asked so, and what is wrong then changes nothing", async () => {
    render(<Field start={3} late need />);
    await userEvent.clear(input());
    await userEvent.type(input(), "4");
    expect(told()).toBe("3");
    await userEvent.tab();
    expect(told()).toBe("4");
    await userEvent.clear(input());
    await userEvent.tab();
    expect(told()).toBe("4");
    expect(screen.getByRole("alert").textContent).toBe("a number is needed here");
  });

  test("is typed in inches, or in mm with the unit behind it", async () => {
    readIn({ length: "in" });
    render(<Field start={25.4} />);
    expect(screen.getByLabelText(/Length, in/)).toHaveProperty("value", "1");
    await userEvent.clear(input());
    await userEvent.type(input(), "2");
    expect(told()).toBe("50.8");
    await userEvent.clear(input());
    await userEvent.type(input(), "30 mm");
    expect(told()).toBe("30");
  });
});
