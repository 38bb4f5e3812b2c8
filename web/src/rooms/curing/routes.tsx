// The oven and its runs, and the recipes.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const CureStart = page(async () => (await room()).CureStart);
const CureRun = page(async () => (await room()).CureRun);
const Recipes = page(async () => (await room()).Recipes);
const StepThrough = page(async () => (await room()).StepThrough);
const Equipment = page(async () => (await room()).Equipment);
const NewRecipe = page(async () => (await room()).NewRecipe);
const RecipePage = page(async () => (await room()).RecipePage);

export const curing = (
  <>
    <Route path="cure" element={<CureStart />} />
    <Route path="cure/recipes" element={<Recipes />} />
    <Route path="cure/recipes/new" element={<NewRecipe />} />
    <Route path="cure/equipment" element={<Equipment />} />
    <Route path="cure/recipes/:id" element={<RecipePage />} />
    <Route path="cure/recipes/:id/steps" element={<StepThrough />} />
    <Route path="cure/:code" element={<CureRun />} />
  </>
);
