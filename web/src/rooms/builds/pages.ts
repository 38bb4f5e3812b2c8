export { Kit } from "./Kit";
export { Layup } from "./Layup";
export { Bag } from "./Bag";
export { BuildList } from "./BuildList";
