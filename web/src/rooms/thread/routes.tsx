// The thread of a part or a roll.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const Thread = page(async () => (await room()).Thread);

export const thread = (
  <>
    <Route path="thread/:code?" element={<Thread />} />
  </>
);
