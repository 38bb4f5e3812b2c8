import { Route, Routes as Paths } from "react-router";
import { Page, Big } from "../ui/parts";
import { Bag } from "../rooms/Bag";
import { BuildList } from "../rooms/BuildList";
import { CureRun, CureStart } from "../rooms/Cure";
import { CutQueue } from "../rooms/CutQueue";
import { BatchPage, Batches } from "../rooms/freezer/Batches";
import { ClimatePage } from "../rooms/freezer/Climate";
import { Materials } from "../rooms/freezer/Materials";
import { Receive } from "../rooms/freezer/Receive";
import { RollPage } from "../rooms/freezer/Roll";
import { Rolls } from "../rooms/freezer/Rolls";
import { StockList } from "../rooms/freezer/StockList";
import { UsagePage } from "../rooms/freezer/Usage";
import { WhichRoll } from "../rooms/freezer/Which";
import { Kit } from "../rooms/Kit";
import { Layup } from "../rooms/Layup";
import { Nest } from "../rooms/Nest";
import { PartPage } from "../rooms/parts/Part";
import { Parts } from "../rooms/parts/Parts";
import { RulesPage } from "../rooms/parts/Rules";
import { ToolsPage } from "../rooms/parts/Tools";
import { Release } from "../rooms/Release";
import { Log } from "../rooms/shop/Log";
import { MatrixPage } from "../rooms/shop/Matrix";
import { Mine } from "../rooms/shop/Mine";
import { People } from "../rooms/shop/People";
import { Thread } from "../rooms/Thread";
import { Shell } from "./shell";

export function Routes() {
  return (
    <Paths>
      <Route element={<Shell />}>
        <Route path="freezer" element={<Rolls />} />
        <Route path="freezer/batches" element={<Batches />} />
        <Route path="freezer/batches/:code" element={<BatchPage />} />
        <Route path="freezer/receive" element={<Receive />} />
        <Route path="freezer/which" element={<WhichRoll />} />
        <Route path="freezer/climate" element={<ClimatePage />} />
        <Route path="freezer/materials/:id?" element={<Materials />} />
        <Route path="freezer/usage" element={<UsagePage />} />
        <Route path="freezer/list" element={<StockList />} />
        <Route path="freezer/:code" element={<RollPage />} />
        <Route path="shop" element={<People />} />
        <Route path="shop/matrix" element={<MatrixPage />} />
        <Route path="shop/log" element={<Log />} />
        <Route path="shop/mine" element={<Mine />} />
        <Route path="parts" element={<Parts />} />
        <Route path="parts/tools" element={<ToolsPage />} />
        <Route path="parts/rules" element={<RulesPage />} />
        <Route path="parts/:code" element={<PartPage />} />
        <Route path="cut" element={<CutQueue />} />
        <Route path="cut/:code" element={<Nest />} />
        <Route path="kits" element={<BuildList stage="kits" />} />
        <Route path="kits/:code" element={<Kit />} />
        <Route path="layup" element={<BuildList stage="layup" />} />
        <Route path="layup/:code" element={<Layup />} />
        <Route path="bag" element={<BuildList stage="bag" />} />
        <Route path="bag/:code" element={<Bag />} />
        <Route path="cure" element={<CureStart />} />
        <Route path="cure/:code" element={<CureRun />} />
        <Route path="release" element={<BuildList stage="release" />} />
        <Route path="release/:code" element={<Release />} />
        <Route path="thread/:code?" element={<Thread />} />
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
