// The oven and its runs.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const CureStart = page(async () => (await room()).CureStart);
const CureRun = page(async () => (await room()).CureRun);

export const curing = (
  <>
    <Route path="cure" element={<CureStart />} />
    <Route path="cure/:code" element={<CureRun />} />
  </>
);
