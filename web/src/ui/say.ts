// Says something at the foot of the screen for a while: a refusal, or that it
// went well. The frame of the application shows it.
import { createContext, useContext } from "react";

export const Say = createContext<(text: string, good?: boolean) => void>(() => undefined);
export const useSay = () => useContext(Say);
