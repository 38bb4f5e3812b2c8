// The pages of the Freezer room.
import { NavLink } from "react-router";
import { Tabs } from "../../ui/parts";

export function FreezerTabs() {
  return (
    <Tabs aria-label="Freezer">
      <NavLink to="/freezer" end>
        Rolls
      </NavLink>
      <NavLink to="/freezer/off-cuts">Off-cuts</NavLink>
      <NavLink to="/freezer/batches">Batches</NavLink>
      <NavLink to="/freezer/which">Which roll?</NavLink>
      <NavLink to="/freezer/climate">Freezers and room</NavLink>
      <NavLink to="/freezer/materials">Materials</NavLink>
      <NavLink to="/freezer/usage">Usage</NavLink>
      <NavLink to="/freezer/list">Stock list</NavLink>
    </Tabs>
  );
}
