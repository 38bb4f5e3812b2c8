// The pages about the shop itself: its people, its log, one's own secret.
import { NavLink } from "react-router";
import { Tabs } from "../../ui/parts";

export function ShopTabs() {
  return (
    <Tabs aria-label="The shop">
      <NavLink to="/shop" end>
        People
      </NavLink>
      <NavLink to="/shop/matrix">Who may do what</NavLink>
      <NavLink to="/shop/log">Log</NavLink>
      <NavLink to="/shop/mine">My PIN, units and keys</NavLink>
    </Tabs>
  );
}
