// Material: rolls, batches, freezers and the room.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const Rolls = page(async () => (await room()).Rolls);
const Batches = page(async () => (await room()).Batches);
const BatchPage = page(async () => (await room()).BatchPage);
const OffCuts = page(async () => (await room()).OffCuts);
const Receive = page(async () => (await room()).Receive);
const WhichRoll = page(async () => (await room()).WhichRoll);
const ClimatePage = page(async () => (await room()).ClimatePage);
const Materials = page(async () => (await room()).Materials);
const UsagePage = page(async () => (await room()).UsagePage);
const StockList = page(async () => (await room()).StockList);
const RollPage = page(async () => (await room()).RollPage);

export const stock = (
  <>
    <Route path="freezer" element={<Rolls />} />
    <Route path="freezer/off-cuts" element={<OffCuts />} />
    <Route path="freezer/batches" element={<Batches />} />
    <Route path="freezer/batches/:code" element={<BatchPage />} />
    <Route path="freezer/receive" element={<Receive />} />
    <Route path="freezer/which" element={<WhichRoll />} />
    <Route path="freezer/climate" element={<ClimatePage />} />
    <Route path="freezer/materials/:id?" element={<Materials />} />
    <Route path="freezer/usage" element={<UsagePage />} />
    <Route path="freezer/list" element={<StockList />} />
    <Route path="freezer/:code" element={<RollPage />} />
  </>
);
