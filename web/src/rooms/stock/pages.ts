export { Rolls } from "./Rolls";
export { Batches, BatchPage } from "./Batches";
export { Receive } from "./Receive";
export { WhichRoll } from "./Which";
export { ClimatePage } from "./Climate";
export { Materials } from "./Materials";
export { UsagePage } from "./Usage";
export { StockList } from "./StockList";
export { RollPage } from "./Roll";
