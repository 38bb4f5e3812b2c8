export { CureStart, CureRun } from "./Cure";
export { RecipePage, Recipes } from "./Recipes";
export { Teach } from "./Teach";
