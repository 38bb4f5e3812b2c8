// The day: of a person, and of the whole shop on the wall.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const Today = page(async () => (await room()).Today);
const Wall = page(async () => (await room()).Wall);

export const today = <Route path="today" element={<Today />} />;
export const wall = <Route path="wall" element={<Wall />} />;
