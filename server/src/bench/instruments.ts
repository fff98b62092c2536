import type { Instrument } from "@gearsense/core/knowledge";

/** The instruments of the library as the shop has them, and its own behind them. */
export function withOwn(library: readonly Instrument[], own: readonly Instrument[]): Instrument[] {
  const changed = new Map(own.map((i) => [i.id, i]));
  return [
    ...library.map((i) => ({ ...i, ...changed.get(i.id) })),
    ...own.filter((i) => !library.some((l) => l.id === i.id)),
  ];
}
