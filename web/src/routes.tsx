// Every page of the application: each room lists its own.
import { Route, Routes as Paths } from "react-router";
import { Shell } from "./app/shell";
import { builds } from "./rooms/builds/routes";
import { curing } from "./rooms/curing/routes";
import { cutting } from "./rooms/cutting/routes";
import { finish } from "./rooms/finish/routes";
import { inspect } from "./rooms/inspect/routes";
import { parts } from "./rooms/parts/routes";
import { people } from "./rooms/people/routes";
import { stock } from "./rooms/stock/routes";
import { today, wall } from "./rooms/today/routes";
import { thread } from "./rooms/thread/routes";
import { Big, Page } from "./ui/parts";

export function Routes() {
  return (
    <Paths>
      {wall}
      <Route element={<Shell />}>
        {today}
        {stock}
        {people}
        {parts}
        {cutting}
        {builds}
        {curing}
        {finish}
        {inspect}
        {thread}
        <Route
          path="*"
          element={
            <Page>
              <Big>There is no such page. The route above leads everywhere.</Big>
            </Page>
          }
        />
      </Route>
    </Paths>
  );
}
