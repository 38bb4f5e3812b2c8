// What is offered only to those who may do it: everybody else reads why not,
// and who can.
import type { ReactNode } from "react";
import { useSession } from "./session";

export function Offer({ act, children }: { act: string; children: ReactNode }) {
  const { mayNot } = useSession();
  const why = mayNot(act);
  if (!why) return children;
  return <p style={{ fontSize: 17, margin: "4px 0", color: "var(--g1)" }}>{why[0]!.toUpperCase() + why.slice(1)}.</p>;
}
