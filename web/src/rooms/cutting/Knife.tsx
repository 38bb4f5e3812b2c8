// The knife's way over a nest: how long it takes, in which order, and the files that other tables read.
import { useState } from "react";
import { Link } from "react-router";
import { api } from "../../app/api";
import { Choices } from "../../ui/Choices";
import { spell, told } from "../../ui/format";
import { Button, Heading, LinkButton, Refusal, Row } from "../../ui/parts";

export type Order = "shortest" | "by kit";

/** The way over a nest, asked for once there is one to cut. */
export function useKnifeWay(code: string, ready: boolean, order: Order) {
  return api.useQuery(
    "get",
    "/api/nests/{code}/way",
    { params: { path: { code }, query: { byKit: order === "by kit" } } },
    { enabled: ready, placeholderData: (before) => before },
  );
}

type Props = {
  code: string;
  way: ReturnType<typeof useKnifeWay>;
  order: Order;
  onOrder: (order: Order) => void;
  kits: number;
  shown: boolean;
  onShown: (shown: boolean) => void;
};

export function Knife({ code, way, order, onOrder, kits, shown, onShown }: Props) {
  const [blade, setBlade] = useState<"fixed" | "turned">("fixed");
  const asked = new URLSearchParams();
  if (order === "by kit") asked.set("byKit", "true");
  if (blade === "turned") asked.set("tangential", "true");
  const w = way.data;
  return (
    <section aria-label="Knife" style={{ marginTop: 14 }}>
      <Heading>Knife</Heading>
      <Refusal error={way.error} />
      {w && (
        <p style={{ margin: "6px 0", fontSize: 18 }}>
          <b>{w.seconds < 90 ? `${Math.ceil(w.seconds)} s` : spell(w.seconds)}</b> on the table: {told.run(w.cut)} cut,{" "}
          {told.run(w.drawn)} drawn, {told.run(w.lifted)} lifted, {w.lifts} lifts.{" "}
          <Link to="/cut/cutter">The table as it is entered</Link>.
          {w.unmarked.length > 0 && <> Too small for their label: {w.unmarked.join(", ")}: mark them by hand.</>}
          {w.boxed.length > 0 && <> The pen draws a box for {w.boxed.join(" ")}: write these letters by hand.</>}
        </p>
      )}
      <Row $gap={20} $top>
        {kits > 1 && (
          <Choices
            label="Order"
            value={order}
            onChange={onOrder}
            of={[
              { value: "shortest", label: "shortest way" },
              { value: "by kit", label: "kit by kit" },
            ]}
          />
        )}
        <Choices
          label="Knife of the program"
          value={blade}
          onChange={setBlade}
          of={[
            { value: "fixed", label: "free swivel" },
            { value: "turned", label: "turned by the program" },
          ]}
        />
      </Row>
      <Row style={{ marginTop: 10 }}>
        <Button $quiet aria-pressed={shown} onPress={() => onShown(!shown)}>
          {shown ? "Hide path" : "Show path"}
        </Button>
        <LinkButton href={`/api/nests/${code}/cut.nc?${asked}`}>Program, G-code</LinkButton>
        <LinkButton href={`/api/nests/${code}/cut.dxf`}>Cut file, DXF</LinkButton>
        <LinkButton href={`/api/nests/${code}/cut.svg`}>Drawing, SVG</LinkButton>
        <LinkButton href={`/api/nests/${code}/cut.csv`}>Cut list, CSV</LinkButton>
      </Row>
    </section>
  );
}
