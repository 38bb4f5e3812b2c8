// @vitest-environment happy-dom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { Offer } from "./Offer";

const mayNot = vi.hoisted(() => vi.fn<(act: string) => string>(() => ""));
vi.mock("./session", () => ({ useSession: () => ({ mayNot }) }));
afterEach(cleanup);

test("an offer is shown to who may, and its reason to who may not", () => {
  const { rerender } = render(
    <Offer act="nest and cut">
      <button>Cut</button>
    </Offer>,
  );
  expect(screen.getByRole("button", { name: "Cut" })).toBeTruthy();
  expect(mayNot).toHaveBeenCalledWith("nest and cut");
  mayNot.mockReturnValue("a viewer may not cut plies: ask a technician");
  rerender(
    <Offer act="nest and cut">
      <button>Cut</button>
    </Offer>,
  );
  expect(screen.queryByRole("button")).toBeNull();
  expect(screen.getByText("A viewer may not cut plies: ask a technician.")).toBeTruthy();
});
