// A clock that goes by the shop's time, not the tablet's.
import { useEffect, useState } from "react";

/** The time of now, every second; from is what the server said last that its time was. */
export function useNow(from: string | undefined) {
  const [now, setNow] = useState(Date.now());
  const [skew, setSkew] = useState(0);
  useEffect(() => {
    if (from) setSkew(new Date(from).getTime() - Date.now());
  }, [from]);
  useEffect(() => {
    const t = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(t);
  }, []);
  return new Date(now + skew);
}

/** Minutes and seconds, as a clock that counts down shows them. */
export const counted = (seconds: number) =>
  `${Math.floor(Math.abs(seconds) / 60)}:${String(Math.floor(Math.abs(seconds) % 60)).padStart(2, "0")}`;
