// @vitest-environment happy-dom
import { cleanup, render, screen, within } from "@testing-library/react";
import { userEvent } from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, test } from "vitest";
import type { Schemas } from "../../contract/types";
import { FieldsForm } from "./FieldsForm";

type Field = Schemas["Field"];
afterEach(cleanup);

let last: Field[] = [];
function Form({ start }: { start: Field[] }) {
  const [fields, setFields] = useState(start);
  last = fields;
  return <FieldsForm fields={fields} change={setFields} />;
}

describe("what an operation records", () => {
  test("begins with nothing, and gets a field with a key that no other has", async () => {
    render(<Form start={[{ key: "f2", name: "mass", kind: "value" }]} />);
    await userEvent.click(screen.getByRole("button", { name: "Add a record" }));
    expect(last.map((f) => f.key)).toEqual(["f2", "f3"]);
    expect(screen.getAllByRole("group")).toHaveLength(2);
  });

  test("loses with its kind what belonged to that kind alone", async () => {
    render(<Form start={[{ key: "f1", name: "mass", kind: "value", unit: "g", least: 1, most: 2 }]} />);
    const row = within(screen.getByRole("group", { name: "mass" }));
    await userEvent.selectOptions(row.getByLabelText("Kind"), "choice");
    expect(last[0]).toMatchObject({ key: "f1", name: "mass", kind: "choice", choices: ["yes", "no"] });
    expect(last[0]!.unit).toBeUndefined();
    expect(last[0]!.least).toBeUndefined();
    await userEvent.clear(row.getByLabelText("Choices, with commas"));
    await userEvent.type(row.getByLabelText("Choices, with commas"), "good, bad");
    expect(last[0]!.choices).toEqual(["good", "bad"]);
  });

  test("is only read where nobody may write", () => {
    render(<FieldsForm fields={[{ key: "f1", name: "mass", kind: "value" }]} change={undefined} />);
    expect(screen.queryByRole("button")).toBeNull();
    expect(screen.getByLabelText("What is recorded")).toHaveProperty("readOnly", true);
    expect(screen.getByLabelText("Kind")).toHaveProperty("disabled", true);
  });
});
