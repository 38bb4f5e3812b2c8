export { Parts } from "./Parts";
export { ToolsPage } from "./Tools";
export { RulesPage } from "./Rules";
export { PartPage } from "./Part";
