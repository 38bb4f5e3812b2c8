// @vitest-environment happy-dom
import { cleanup, render, screen } from "@testing-library/react";
import { userEvent } from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, test } from "vitest";
import type { Item } from "../master/edits";
import { WrapForm } from "./WrapForm";

afterEach(cleanup);

const ply: Item = { key: "a", kind: "ply", angleDeg: 0, x: 0, y: 0, faceUp: true, materialId: 1 };
let now: Item = ply;
function Form({ start, last = false }: { start: Item; last?: boolean }) {
  const [item, setItem] = useState(start);
  now = item;
  return <WrapForm item={item} set={(part) => setItem({ ...item, ...part })} last={last} />;
}

describe("how a sheet is put on", () => {
  test("asks for what its way asks for, and keeps nothing of the way before", async () => {
    render(<Form start={{ ...ply, wrap: { turns: 3 } }} />);
    expect(screen.getByLabelText("Turns of one sheet")).toHaveProperty("value", "3");
    expect(screen.queryByLabelText("Strip width, mm")).toBeNull();
    await userEvent.selectOptions(screen.getByLabelText("Method"), "strips");
    expect(screen.queryByLabelText("Turns of one sheet")).toBeNull();
    expect(now.wrap?.how).toBe("strips");
    expect(now.wrap?.turns).toBeUndefined();
    const width = screen.getByLabelText("Strip width, mm");
    await userEvent.clear(width);
    await userEvent.type(width, "12");
    await userEvent.tab();
    expect(now.wrap?.strip).toBeCloseTo(0.012, 9);
  });

  test("has a width for its overlap, and none for edges that meet", async () => {
    render(<Form start={{ ...ply, join: "butt" }} />);
    expect(screen.queryByLabelText("Overlap, mm")).toBeNull();
    await userEvent.selectOptions(screen.getByLabelText("Seam"), "overlap");
    expect(screen.getByLabelText("Overlap, mm")).toBeTruthy();
  });

  test("is tacked to the next only where there is one", () => {
    const { rerender } = render(<Form start={ply} />);
    expect(screen.getByRole("checkbox", { name: /tacked to the next/ })).toBeTruthy();
    rerender(<Form start={ply} last />);
    expect(screen.queryByRole("checkbox", { name: /tacked to the next/ })).toBeNull();
  });
});
