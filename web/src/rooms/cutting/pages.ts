export { CutQueue } from "./CutQueue";
export { Nest } from "./Nest";
export { Table } from "./Table";
export { Compare } from "./Compare";
export { Cutter } from "./Cutter";
