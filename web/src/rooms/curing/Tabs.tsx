import { NavLink } from "react-router";
import { Tabs } from "../../ui/parts";

export function CureTabs() {
  return (
    <Tabs aria-label="Cure">
      <NavLink to="/cure" end>
        Load and runs
      </NavLink>
      <NavLink to="/cure/recipes">Recipes</NavLink>
      <NavLink to="/cure/equipment">Ovens and vessels</NavLink>
    </Tabs>
  );
}
