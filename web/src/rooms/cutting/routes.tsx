// What waits for the knife, and nests.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const CutQueue = page(async () => (await room()).CutQueue);
const Nest = page(async () => (await room()).Nest);
const Compare = page(async () => (await room()).Compare);
const Cutter = page(async () => (await room()).Cutter);
const Table = page(async () => (await room()).Table);

export const cutting = (
  <>
    <Route path="cut" element={<CutQueue />} />
    <Route path="cut/cutter" element={<Cutter />} />
    <Route path="cut/compare" element={<Compare />} />
    <Route path="cut/:code" element={<Nest />} />
    <Route path="cut/:code/table" element={<Table />} />
  </>
);
