export { Release } from "./Release";
