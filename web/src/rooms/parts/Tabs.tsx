import { NavLink } from "react-router";
import { Tabs } from "../../ui/parts";

/** The pages of the Parts stage. */
export const PartTabs = () => (
  <Tabs aria-label="Parts">
    <NavLink to="/parts" end>
      Parts
    </NavLink>
    <NavLink to="/parts/tools">Tools</NavLink>
    <NavLink to="/parts/rules">Rules</NavLink>
  </Tabs>
);
