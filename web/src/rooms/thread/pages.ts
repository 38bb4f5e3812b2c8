export { Thread } from "./Thread";
