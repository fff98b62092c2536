import { useCallback, useEffect, useRef, useState } from "react";
import { useSession } from "../api/queries.ts";

/**
 * A form value that survives reload, a dead network and a refused store: kept on this device until `clear`, for whoever is signed in
 * and nobody else at this device.
 * @param key - where it is kept; undefined = not kept
 * @param initial - shown when nothing was kept
 * @returns value, setter, clear, and whether the value is a kept draft
 */
export function useDraft<T extends object>(
  key: string,
  initial: T,
): { value: T; set: (patch: Partial<T>) => void; clear: (to?: T) => void; drafted: boolean } {
  const who = useSession().data?.account.id ?? "nobody";
  const name = `gearsense.draft.${who}.${key}`;
  const read = useCallback((): T | undefined => {
    try {
      const kept = localStorage.getItem(name);
      return kept ? { ...initialRef.current, ...(JSON.parse(kept) as T) } : undefined;
    } catch {
      return undefined;
    }
  }, [name]);
  const initialRef = useRef(initial);
  initialRef.current = initial;
  const [kept, setKept] = useState<T | undefined>(read);
  useEffect(() => setKept(read()), [read]);
  const set = (patch: Partial<T>) => {
    setKept((old) => {
      const next = { ...(old ?? initialRef.current), ...patch };
      localStorage.setItem(name, JSON.stringify(next));
      return next;
    });
  };
  const clear = () => {
    localStorage.removeItem(name);
    setKept(undefined);
  };
  return { value: kept ?? initial, set, clear, drafted: kept !== undefined };
}
