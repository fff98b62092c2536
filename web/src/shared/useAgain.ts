import { useEffect } from "react";

/** Runs at once, each time the network is back, and every so often: for what waits on this device to be sent. */
export function useAgain(flush: () => Promise<void>, everyMs: number): void {
  useEffect(() => {
    const again = () => void flush();
    again();
    window.addEventListener("online", again);
    const timer = setInterval(again, everyMs);
    return () => {
      window.removeEventListener("online", again);
      clearInterval(timer);
    };
  }, [flush, everyMs]);
}
