// The people, what they may do, and the log.
import { Route } from "react-router";
import { page } from "../../app/page";

const room = () => import("./pages");
const People = page(async () => (await room()).People);
const MatrixPage = page(async () => (await room()).MatrixPage);
const Log = page(async () => (await room()).Log);
const OwnAccount = page(async () => (await room()).OwnAccount);

export const people = (
  <>
    <Route path="shop" element={<People />} />
    <Route path="shop/matrix" element={<MatrixPage />} />
    <Route path="shop/log" element={<Log />} />
    <Route path="shop/mine" element={<OwnAccount />} />
  </>
);
