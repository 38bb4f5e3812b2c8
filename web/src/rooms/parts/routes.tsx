// Masters, tools and rules.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const Parts = page(async () => (await room()).Parts);
const ToolsPage = page(async () => (await room()).ToolsPage);
const RulesPage = page(async () => (await room()).RulesPage);
const PartPage = page(async () => (await room()).PartPage);

export const parts = (
  <>
    <Route path="parts" element={<Parts />} />
    <Route path="parts/tools" element={<ToolsPage />} />
    <Route path="parts/rules" element={<RulesPage />} />
    <Route path="parts/:code" element={<PartPage />} />
  </>
);
