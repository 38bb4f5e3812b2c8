export { CureStart } from "./CureStart";
export { CureRun } from "./CureRun";
export { Equipment } from "./Equipment";
export { NewRecipe, RecipePage, Recipes } from "./Recipes";
export { StepThrough } from "./StepThrough";
