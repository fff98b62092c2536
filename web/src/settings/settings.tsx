import { formatQuantity, formatRange, type Quantity, type UnitSystem } from "@gearsense/core/quantity";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from "react";

export type Theme = "bay-light" | "night-bay";

interface Settings {
  readonly system: UnitSystem;
  readonly theme: Theme;
  readonly toggleSystem: () => void;
  readonly toggleTheme: () => void;
  readonly show: (value: number, quantity: Quantity, decimals?: number) => string;
  readonly showRange: (low: number, high: number, quantity: Quantity) => string;
}

const Context = createContext<Settings | undefined>(undefined);

function useStored<T extends string>(key: string, fallback: T, allowed: readonly T[]): [T, (v: T) => void] {
  const [value, setValue] = useState<T>(() => {
    const stored = localStorage.getItem(key) as T | null;
    return stored && allowed.includes(stored) ? stored : fallback;
  });
  return [
    value,
    (v) => {
      localStorage.setItem(key, v);
      setValue(v);
    },
  ];
}

/** Theme and units of measure, remembered on this device; both change everywhere at once. */
export function SettingsProvider({ children }: { children: ReactNode }) {
  const preferred: Theme = window.matchMedia("(prefers-color-scheme: dark)").matches ? "night-bay" : "bay-light";
  const [theme, setTheme] = useStored<Theme>("gearsense.theme", preferred, ["bay-light", "night-bay"]);
  const [system, setSystem] = useStored<UnitSystem>("gearsense.system", "metric", ["metric", "imperial"]);
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  const value = useMemo(
    (): Settings => ({
      system,
      theme,
      toggleSystem: () => setSystem(system === "metric" ? "imperial" : "metric"),
      toggleTheme: () => setTheme(theme === "bay-light" ? "night-bay" : "bay-light"),
      show: (v, quantity, decimals) => formatQuantity(v, quantity, system, decimals).text,
      showRange: (low, high, quantity) => formatRange(low, high, quantity, system),
    }),
    [system, theme, setSystem, setTheme],
  );
  return <Context value={value}>{children}</Context>;
}

export function useSettings(): Settings {
  const value = useContext(Context);
  if (!value) throw new Error("useSettings outside SettingsProvider");
  return value;
}
