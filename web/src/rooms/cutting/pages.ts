export { CutQueue } from "./CutQueue";
export { Nest } from "./Nest";
