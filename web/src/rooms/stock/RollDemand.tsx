// What open builds need, and the air it is cut in.
import { Link } from "react-router";
import { api } from "../../app/api";
import type { Schemas } from "../../contract/types";
import { useSession } from "../../app/session";
import { date, moment, told } from "../../ui/format";
import { Big, Heading, Key, Mark, Rule, Stack } from "../../ui/parts";

/** What open builds need, which roll serves first, and what runs short. */
export function Asked() {
  const queue = api.useQuery("get", "/api/cut");
  const short = api.useQuery("get", "/api/scarcity");
  const room = api.useQuery("get", "/api/room", undefined, { refetchInterval: 20_000 });
  const { may } = useSession();
  const air = room.data?.room;
  return (
    <Stack $gap={14}>
      <div>
        <Heading>Needed by the plan</Heading>
        <Big>{queue.data?.length ? "To take out for the cut" : "Nothing waits to be cut"}</Big>
      </div>
      {queue.data?.map((d) => {
        const best = d.rolls.find((r) => !r.passed);
        const scarce = short.data?.find((s) => s.family === d.materialId);
        return (
          <div key={d.material}>
            <b>{d.material}</b>: {d.builds.map((b) => `${b.number} · ${b.serial}`).join(", ")}, {d.plies} plies,{" "}
            {told.area(d.area)}
            <br />
            {best ? (
              <Mark tone="met">
                take {best.code}, {best.place}, {told.run(best.length)} left
              </Mark>
            ) : (
              <Mark tone="stop">no roll fits</Mark>
            )}{" "}
            <Link to={`/freezer/which?build=${d.builds[0]!.code}`}>why</Link>
            {scarce?.short.slice(0, 1).map((s) => (
              <div key={s.build}>
                <Mark tone="stop">
                  runs short on {date(s.by)}: {s.number} · {s.serial} lacks {told.area(s.short, 1)}
                </Mark>
              </div>
            ))}
            {scarce && scarce.short.length === 0 && (
              <div>
                <small>
                  {told.area(scarce.onHand, 0)} on hand, open builds need {told.area(scarce.roll, 1)} of roll
                  {scarce.waiting > 0 && `; ${told.area(scarce.waiting, 0)} more wait for acceptance`}
                </small>
              </div>
            )}
          </div>
        );
      })}
      {queue.data?.length === 0 && (
        <p>A build that waits for its plies shows here with the roll to take. Builds start on the page of a part.</p>
      )}
      <Rule />
      <RoomAir air={air} />
      {may("receive material") && (
        <div>
          <Link to="/freezer/receive">
            <b>Receive a delivery</b>
          </Link>{" "}
          <Key>A</Key>
        </div>
      )}
      <p style={{ color: "var(--g1)" }}>
        Scan or tick rolls to take several out at once. A sealed roll stays sealed until all of it is above the dew
        point of the room, or water condenses on the ply. Lives are those of the supplier’s data sheet as entered.
      </p>
    </Stack>
  );
}

/** The air of the room as it is measured. */
function RoomAir({ air }: { air: undefined | Schemas["RoomConditions"] }) {
  return (
    <p>
      {air?.temperature !== undefined ? (
        <>
          Room <b>{told.degrees(air.temperature, 1)}</b>
          {air.humidity !== undefined && (
            <>
              , <b>{(air.humidity * 100).toFixed(0)} %</b>
            </>
          )}
          {air.dewPoint !== undefined && (
            <>
              , dew point <b>{told.degrees(air.dewPoint, 1)}</b>
            </>
          )}{" "}
          <small>{moment(air.at)}</small>
        </>
      ) : (
        <Mark tone="attend">The room is not measured now: read a gauge before a bag is opened</Mark>
      )}
    </p>
  );
}
