export { Today } from "./Today";
export { Wall } from "./Wall";
