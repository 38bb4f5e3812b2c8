import { afterEach, expect, test } from "vitest";
import { keyShown, meantBy, pressBy, usual } from "./shortcuts";

afterEach(() => pressBy({}));

test("keys are as usual for who has said nothing", () => {
  for (const k of Object.keys(usual)) expect(meantBy(k)).toBe(k);
  expect(meantBy("K")).toBe("k");
  expect(keyShown("k")).toBe("K");
});

test("a key that was given another place is heard there and nowhere else", () => {
  pressBy({ moved: { f: "g", t: "f" } });
  expect(meantBy("g")).toBe("f");
  expect(meantBy("f")).toBe("t");
  expect(meantBy("t")).toBeUndefined();
  expect(meantBy("k")).toBe("k");
  expect([keyShown("f"), keyShown("t"), keyShown("Enter")]).toEqual(["G", "F", "Enter"]);
});

test("switched off, no letter does anything, and Enter and Escape go on working", () => {
  pressBy({ off: true, moved: { f: "g" } });
  expect([meantBy("f"), meantBy("g"), meantBy("3"), meantBy("/")]).toEqual([
    undefined,
    undefined,
    undefined,
    undefined,
  ]);
  expect([meantBy("Enter"), meantBy("Escape"), meantBy("Backspace")]).toEqual(["Enter", "Escape", "Backspace"]);
  expect(keyShown("f")).toBe("");
});
