// Kits, layups and bags.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const Kit = page(async () => (await room()).Kit);
const Layup = page(async () => (await room()).Layup);
const Bag = page(async () => (await room()).Bag);
const BuildList = page(async () => (await room()).BuildList);

export const builds = (
  <>
    <Route path="kits" element={<BuildList room="kits" />} />
    <Route path="kits/:code" element={<Kit />} />
    <Route path="layup" element={<BuildList room="layup" />} />
    <Route path="layup/:code" element={<Layup />} />
    <Route path="bag" element={<BuildList room="bag" />} />
    <Route path="bag/:code" element={<Bag />} />
  </>
);
