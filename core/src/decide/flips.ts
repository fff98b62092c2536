import type { Figures, Flip } from "./figures.ts";

/**
 * Cure probability at which an option costs as much as its rival: mean = price + (1 − cure) · failure, solved for the cure.
 * @returns undefined when no probability does
 */
export function breakEven(mean: number, price: number, cures: number, rival: number): number | undefined {
  if (cures >= 1 || mean <= price) return undefined;
  const failure = (mean - price) / (1 - cures);
  const at = 1 - (rival - price) / failure;
  return at >= 0 && at <= 1 ? at : undefined;
}

const money = (n: number) => Math.round(n).toString();

/** What would make another option the best: hours dearer or cheaper, the price of a part, the chance of a cure, the cost of a comeback. */
export function flipsOf(
  figures: readonly Figures[],
  bestId: string | undefined,
  rate: number,
  comeback: number,
): Flip[] {
  const best = figures.find((f) => f.choice.id === bestId);
  const rival = figures.find((f) => f !== best && f.against.length === 0);
  if (!best || !rival) return [];
  const flips: Flip[] = [];
  const gap = rival.mean - best.mean;
  const [a, b] = [best.labourH, rival.labourH];
  if (Math.abs(a - b) > 0.2) {
    const at = rate + gap / (a - b);
    if (at > 0.4 * rate && at < 3 * rate)
      flips.push({
        what: "Labour an hour",
        now: money(rate),
        at: `${at > rate ? "over" : "under"} ${money(at)}`,
        instead: rival.choice.title,
      });
  }
  const parts = best.origin.price?.partsCost ?? 0;
  if (best.choice.repair)
    flips.push({
      what: `Parts of “${best.choice.title}”`,
      now: money(parts),
      at: `over ${money(parts + gap)}`,
      instead: rival.choice.title,
    });
  if (best.breakEven !== undefined && best.breakEven < best.cures)
    flips.push({
      what: `Chance that “${best.choice.title}” cures`,
      now: `${Math.round(best.cures * 100)} %`,
      at: `under ${Math.round(best.breakEven * 100)} %`,
      instead: rival.choice.title,
    });
  const spread = rival.cures - best.cures;
  if (spread > 0.02)
    flips.push({
      what: "Cost of a vehicle that comes back",
      now: money(comeback),
      at: `over ${money(comeback + gap / spread)}`,
      instead: rival.choice.title,
    });
  return flips;
}
