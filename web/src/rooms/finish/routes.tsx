// What is done to a part once it is out of its tool, and before: operations signed each for itself.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const Finish = page(async () => (await room()).Finish);
const WorkPage = page(async () => (await room()).WorkPage);

export const finish = (
  <>
    <Route path="finish" element={<Finish />} />
    <Route path="finish/:code" element={<WorkPage />} />
  </>
);
