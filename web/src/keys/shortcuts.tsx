import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";

export interface Shortcut {
  /** as `KeyboardEvent.key` gives it */
  readonly key: string;
  readonly label: string;
  readonly group: string;
  readonly run: () => void;
}

interface Registry {
  readonly add: (list: readonly Shortcut[]) => () => void;
  readonly list: () => Shortcut[];
}

const Context = createContext<Registry | undefined>(undefined);

const inDialog = (target: EventTarget | null) =>
  target instanceof HTMLElement && target.closest("[role=dialog]") !== null;

const HAS_ENTER = "button,a,[role=radio],summary";

/** Keys of the whole application. They rest while somebody types, and within a dialog. */
export function ShortcutProvider({ children }: { children: ReactNode }) {
  const lists = useRef(new Set<readonly Shortcut[]>());
  const registry = useMemo(
    (): Registry => ({
      add: (list) => {
        lists.current.add(list);
        return () => lists.current.delete(list);
      },
      // the newest screen's keys come first
      list: () => [...lists.current].reverse().flat(),
    }),
    [],
  );
  useHotkeys(
    "*",
    (e) => {
      const hit = registry.list().find((s) => s.key === e.key);
      if (!hit) return;
      e.preventDefault();
      hit.run();
    },
    {
      // a form field has its own keys; the library leaves those alone by itself
      ignoreEventWhen: (e) =>
        e.defaultPrevented ||
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        inDialog(e.target) ||
        ((e.key === "Enter" || e.key === " ") &&
          e.target instanceof HTMLElement &&
          e.target.closest(HAS_ENTER) !== null),
    },
    [registry],
  );
  return <Context value={registry}>{children}</Context>;
}

/** Registers keys while the calling component is shown. */
export function useShortcuts(list: readonly Shortcut[]): void {
  const registry = useContext(Context);
  const latest = useRef(list);
  latest.current = list;
  const signature = list.map((s) => s.key + s.label).join("|");
  // biome-ignore lint/correctness/useExhaustiveDependencies: keys are registered anew only when they change; what they run is read when pressed
  useEffect(
    () => registry?.add(latest.current.map((s, i) => ({ ...s, run: () => latest.current[i]?.run() }))),
    [registry, signature],
  );
}

/** All keys that work now, for the key list. */
export function useShortcutList(open: boolean): Shortcut[] {
  const registry = useContext(Context);
  const [list, setList] = useState<Shortcut[]>([]);
  useEffect(() => {
    if (open) setList(registry?.list() ?? []);
  }, [open, registry]);
  return list;
}
