// Inspection and release.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const Release = page(async () => (await room()).Release);
const BuildList = page(async () => (await import("../builds/BuildList")).BuildList);

export const inspect = (
  <>
    <Route path="release" element={<BuildList room="release" />} />
    <Route path="release/:code" element={<Release />} />
  </>
);
