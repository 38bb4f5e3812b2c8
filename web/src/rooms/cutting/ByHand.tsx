// Plies put by hand: what is chosen, where it lies, and then the rest searched anew.
import { base64, useChange } from "../../app/api";
import { Offer } from "../../app/Offer";
import type { Schemas } from "../../contract/types";
import { told } from "../../ui/format";
import { Button, Heading, Key, Mark, Refusal, Row, Spoken } from "../../ui/parts";
import type { Hand } from "./useHand";

export function ByHand({ nest: n, hand, may }: { nest: Schemas["NestView"]; hand: Hand; may: boolean }) {
  const { code } = n;
  const arrange = useChange("/api/nests/{code}/arrange", () => {
    hand.forget();
    hand.setOn(false);
  });
  const back = useChange("/api/nests/{code}/back", () => hand.forget());
  const drawn = useChange("/api/nests/{code}/drawing");
  const chosen = n.placed.find((p) => p.id === hand.chosen);
  const put = hand.moved[hand.chosen];
  const moved = hand.placements();
  const over = Object.values(hand.moved).filter((m) => m.over.length > 0);
  const box = (put?.outline ?? chosen?.outline ?? []) as [number, number][];
  const where =
    chosen &&
    `${told.run(Math.min(...box.map((q) => q[0])), 3)} along, ${told.size(Math.min(...box.map((q) => q[1])), 0)} across`;
  const why = over.length > 0 ? "A ply placed by hand overlaps another: move it first." : "";
  const others = n.placed.map((p) => p.id).filter((id) => !hand.moved[id]);
  if (!hand.on)
    return (
      <Row style={{ margin: "4px 0 14px" }}>
        <Offer act="nest and cut">
          <Button $quiet onPress={() => hand.setOn(true)}>
            Place plies by hand
          </Button>
          {n.again && may && (
            <Button $quiet onPress={() => back.mutate({ code })} isDisabled={back.isPending}>
              Undo the last arrangement
            </Button>
          )}
          <label style={{ display: "flex", gap: 8, alignItems: "center", minHeight: 44 }}>
            Or one drawn elsewhere, DXF:
            <input
              type="file"
              accept=".dxf"
              disabled={drawn.isPending}
              onChange={(e) => {
                const file = e.target.files?.[0];
                e.target.value = "";
                if (file) void base64(file).then((drawing) => drawn.mutate({ code, body: { drawing } }));
              }}
            />
          </label>
        </Offer>
        <Refusal error={back.error ?? drawn.error} />
      </Row>
    );
  return (
    <section aria-label="By hand" style={{ margin: "8px 0 18px" }}>
      <Heading>By hand</Heading>
      <p style={{ margin: "6px 0" }}>
        Drag a ply, or choose it with <Key>Tab</Key> and move it with the arrow keys by 10 mm, with Shift by 1 mm.{" "}
        <Key>R</Key> turns it as its material allows, <Key>L</Key> locks it where it is.
      </p>
      <Spoken>
        {chosen && `${chosen.label}: ${where}${put?.over.length ? `, overlaps ${put.over.join(", ")}` : ""}`}
      </Spoken>
      {chosen && (
        <Row $gap={10} style={{ margin: "8px 0" }}>
          <span>
            <b>{chosen.label}</b>: {where}
            {hand.locked.includes(chosen.id) && <Mark tone="plain">locked</Mark>}
            {put && put.over.length > 0 && <Mark tone="stop">overlaps {put.over.join(", ")}</Mark>}
            {hand.drag && hand.drag.over.length > 0 && (
              <Mark tone="stop">not clear of {hand.drag.over.join(", ")}</Mark>
            )}
          </span>
          {chosen.may.length > 1 && (
            <Button $quiet onPress={() => void hand.turn(chosen)}>
              Rotate
            </Button>
          )}
          <Button $quiet aria-pressed={hand.locked.includes(chosen.id)} onPress={() => hand.lock(chosen.id)}>
            {hand.locked.includes(chosen.id) ? "Unlock it" : "Lock it"}
          </Button>
        </Row>
      )}
      <Refusal error={hand.error ?? arrange.error} />
      <Row>
        <Button
          why={why}
          isDisabled={arrange.isPending}
          onPress={() => arrange.mutate({ code, body: { held: hand.locked.filter((id) => !hand.moved[id]), moved } })}
        >
          Improve the rest
        </Button>
        <Button
          $quiet
          why={why || (moved.length === 0 ? "Move a ply first." : "")}
          isDisabled={arrange.isPending}
          onPress={() => arrange.mutate({ code, body: { held: others, moved } })}
        >
          Keep as placed
        </Button>
        <Button
          $quiet
          onPress={() => {
            hand.forget();
            hand.setOn(false);
          }}
        >
          Discard the changes
        </Button>
      </Row>
    </section>
  );
}
