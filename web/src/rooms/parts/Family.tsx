// A part in sizes or options: parameters, their values by variant, and the
// parts that are made of them.
import { useState } from "react";
import { Link } from "react-router";
import { useChange } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { Button, Heading, Mark, Refusal, Row, Select, Stack, Table, TextField } from "../../ui/parts";
import { Figure } from "../master/Detail";
import { withMandrelExpression, withOutlineExpression, type Master } from "../master/edits";

type Parameter = Schemas["Parameter"];

export function Family({
  v,
  doc,
  faults,
  change,
  kept,
}: {
  v: Schemas["RevisionView"];
  doc: Master;
  faults: Schemas["Fault"][];
  change?: (m: Master) => void;
  /** The page's document is the kept one: parts can be made of it. */
  kept: boolean;
}) {
  const make = useChange("/api/parts/{code}/variants");
  const [field, setField] = useState("");
  const parameters = doc.parameters ?? [];
  const variants = doc.variants ?? [];
  const put = (k: number, part: Partial<Parameter>) =>
    change?.({ ...doc, parameters: parameters.map((p, n) => (n === k ? { ...p, ...part } : p)) });
  const outlines = doc.outlines.flatMap((o) => Object.keys(o.dims ?? {}).map((d) => ({ outline: o.name, dim: d })));
  const mandrels = doc.stages.filter((s) => s.rolled);
  return (
    <Stack $gap={14}>
      <Heading>Parameters of the family</Heading>
      <p>
        Cells of the stack for angle, x and y, and dimensions of outlines below, take expressions of these names, in mm
        and degrees, such as L/2+15. A family itself is not built: its variants are.
      </p>
      <Table>
        <ParameterHead variants={variants} />
        <ParameterRows parameters={parameters} put={put} change={change} variants={variants} doc={doc} />
      </Table>
      {faults
        .filter((f) => f.field === "variants" || f.field === "parameters")
        .map((f) => (
          <p key={f.message} role="alert">
            <Mark tone="stop">{f.message}</Mark>
          </p>
        ))}
      {change && (
        <NewParameter
          field={field}
          setField={setField}
          change={change}
          doc={doc}
          parameters={parameters}
          variants={variants}
        />
      )}
      {parameters.length > 0 && (
        <>
          <Heading>Dimensions by expression</Heading>
          <Expressions
            outlines={outlines}
            ofOutline={(name, dim) => doc.outlines.find((o) => o.name === name)?.expr?.[dim] ?? ""}
            setExpr={(name, dim, text) => change?.(withOutlineExpression(doc, name, dim, text))}
            mandrels={mandrels}
            setMandrel={(key, field, text) => change?.(withMandrelExpression(doc, key, field, text))}
          />
        </>
      )}
      {v.variants.length > 0 && (
        <>
          <Heading>Parts of the variants</Heading>
          <VariantParts v={v} />
          <Refusal error={make.error} />
          {change && (
            <Row>
              <Button
                why={faults.length > 0 ? "Correct the faults first." : !kept ? "The draft is being kept." : ""}
                isDisabled={make.isPending}
                onPress={() => make.mutate({ code: v.part.code })}
              >
                Make parts of its variants
              </Button>
            </Row>
          )}
        </>
      )}
    </Stack>
  );
}

/** The parameters, with what each variant says. */
function ParameterRows({
  parameters,
  put,
  change,
  variants,
  doc,
}: {
  parameters: Schemas["Parameter"][];
  put: (k: number, part: Partial<Schemas["Parameter"]>) => undefined | void;
  change: undefined | ((m: Schemas["Document"]) => void);
  variants: Schemas["Variant"][];
  doc: Schemas["Document"];
}) {
  return (
    <tbody>
      {parameters.map((p, k) => (
        <tr key={k}>
          <td>
            <b>{p.name}</b>
          </td>
          <td>
            <TextField label="What it is" value={p.called ?? ""} onChange={(called) => put(k, { called })} />
          </td>
          <UnitCell p={p} change={change} put={put} k={k} />
          <td>
            <Figure
              need
              label={`${p.name} =`}
              scale={1}
              value={p.value}
              off={!change}
              set={(value) => put(k, { value: value ?? 0 })}
            />
          </td>
          <td>
            <TextField
              label="Expression"
              value={p.expr ?? ""}
              onChange={(expr) => put(k, { expr: expr || undefined })}
            />
          </td>
          {variants.map((x, n) => (
            <td key={x.name}>
              <Figure
                label={x.name}
                scale={1}
                value={x.values[p.name]}
                off={!change}
                set={(value) =>
                  change?.({
                    ...doc,
                    variants: variants.map((y, j) => {
                      if (j !== n) return y;
                      const rest = Object.fromEntries(Object.entries(y.values).filter(([key]) => key !== p.name));
                      return { ...y, values: value === undefined ? rest : { ...rest, [p.name]: value } };
                    }),
                  })
                }
              />
            </td>
          ))}
          <td>
            {change && (
              <Button
                $quiet
                $small
                aria-label={`Remove ${p.name}`}
                onPress={() => change({ ...doc, parameters: parameters.filter((_, n) => n !== k) })}
              >
                Remove
              </Button>
            )}
          </td>
        </tr>
      ))}
    </tbody>
  );
}

/** Adds a parameter or a variant. */
function NewParameter({
  field,
  setField,
  change,
  doc,
  parameters,
  variants,
}: {
  field: string;
  setField: (value: string | ((prevState: string) => string)) => void;
  change: (m: Schemas["Document"]) => void;
  doc: Schemas["Document"];
  parameters: Schemas["Parameter"][];
  variants: Schemas["Variant"][];
}) {
  return (
    <Row $gap={10} style={{ alignItems: "flex-end" }}>
      <div style={{ width: 160 }}>
        <TextField label="A new name" value={field} onChange={setField} />
      </div>
      <Button
        $quiet
        why={
          /^[A-Za-z]\w*$/.test(field) ? "" : field === "" ? "Enter a name first." : "A letter, then letters and digits."
        }
        onPress={() => {
          change({ ...doc, parameters: [...parameters, { name: field, unit: "mm", value: 100 }] });
          setField("");
        }}
      >
        Add a parameter
      </Button>
      <Button
        $quiet
        why={
          field.trim() === ""
            ? "Enter a name first."
            : variants.some((x) => x.name === field.trim())
              ? "There is one."
              : ""
        }
        onPress={() => {
          change({ ...doc, variants: [...variants, { name: field.trim(), values: {} }] });
          setField("");
        }}
      >
        Add a variant
      </Button>
      {variants.length > 0 && (
        <Button $quiet onPress={() => change({ ...doc, variants: variants.slice(0, -1) })}>
          Remove the last variant
        </Button>
      )}
    </Row>
  );
}

/** The head of the parameters. */
function ParameterHead({ variants }: { variants: Schemas["Variant"][] }) {
  return (
    <thead>
      <tr>
        <th>Name</th>
        <th>What it is</th>
        <th>Unit</th>
        <th>Value</th>
        <th>or an expression of others</th>
        {variants.map((x) => (
          <th key={x.name}>{x.name}</th>
        ))}
        <th />
      </tr>
    </thead>
  );
}

/** The parts that variants are. */
function VariantParts({ v }: { v: Schemas["RevisionView"] }) {
  return (
    <Table>
      <tbody>
        {v.variants.map((x) => (
          <tr key={x.variant}>
            <td>{x.code ? <Link to={`/parts/${x.code}`}>{x.number}</Link> : x.number}</td>
            <td>{x.code ? `${x.letter}, ${x.state}` : "not made yet"}</td>
            <td>{x.upToDate ? <Mark tone="met">as the family</Mark> : <Mark tone="attend">not as the family</Mark>}</td>
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Sizes that follow from parameters. */
function Expressions({
  outlines,
  ofOutline,
  setExpr,
  mandrels,
  setMandrel,
}: {
  outlines: { outline: string; dim: string }[];
  ofOutline: (name: string, dim: string) => string;
  setExpr: (name: string, dim: string, text: string) => undefined | void;
  mandrels: Schemas["Stage"][];
  setMandrel: (key: string, field: string, text: string) => undefined | void;
}) {
  return (
    <Row $gap={12} $top>
      {outlines.map(({ outline, dim }) => (
        <div key={outline + dim} style={{ width: 200 }}>
          <TextField
            label={`${outline}: ${dim}`}
            value={ofOutline(outline, dim)}
            onChange={(t) => setExpr(outline, dim, t)}
          />
        </div>
      ))}
      {mandrels.flatMap((s) =>
        ["width", "height", "radius", "length", "lastWidth", "lastHeight", "lastRadius", "outside"].map((f) => (
          <div key={s.key + f} style={{ width: 200 }}>
            <TextField
              label={`mandrel of ${s.name}: ${f.replace("last", "last ").toLowerCase()}`}
              value={s.rolled?.expr?.[f] ?? ""}
              onChange={(t) => setMandrel(s.key, f, t)}
            />
          </div>
        )),
      )}
    </Row>
  );
}

/** The unit of a parameter. */
function UnitCell({
  p,
  change,
  put,
  k,
}: {
  p: Schemas["Parameter"];
  change: undefined | ((m: Schemas["Document"]) => void);
  put: (k: number, part: Partial<Schemas["Parameter"]>) => undefined | void;
  k: number;
}) {
  return (
    <td>
      <Select
        aria-label={`Unit of ${p.name}`}
        value={p.unit}
        disabled={!change}
        onChange={(e) => put(k, { unit: e.target.value as Parameter["unit"] })}
      >
        {["mm", "°", "number"].map((u) => (
          <option key={u}>{u}</option>
        ))}
      </Select>
    </td>
  );
}
