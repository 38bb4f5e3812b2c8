export { People } from "./People";
export { MatrixPage } from "./Matrix";
export { Log } from "./Log";
export { OwnAccount } from "./OwnAccount";
