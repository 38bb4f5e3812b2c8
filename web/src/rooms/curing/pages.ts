export { CureStart, CureRun } from "./Cure";
