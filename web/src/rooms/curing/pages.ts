export { CureStart, CureRun } from "./Cure";
export { Equipment } from "./Equipment";
export { NewRecipe, RecipePage, Recipes } from "./Recipes";
export { StepThrough } from "./StepThrough";
