export { Finish } from "./Finish";
export { WorkPage } from "./WorkPage";
