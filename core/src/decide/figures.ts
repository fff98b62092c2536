import type { ThreePoint } from "../chance/index.ts";
import type { Price } from "../suspect/index.ts";
import type { Choice } from "./choices.ts";

/** What the figures of an option are made of. */
export interface Origin {
  /** what may be wrong, likeliest first, and how surely the repair cures it; what is left has less than one in a hundred */
  readonly cures: readonly {
    readonly faultIds: readonly string[];
    readonly titles: readonly string[];
    readonly probability: number;
    readonly cures: number;
  }[];
  /** undefined where nothing is repaired */
  readonly price: Price | undefined;
  readonly hourlyRate: number;
  readonly comebackCost: number;
  /** tried after it, in this order, when it does not cure */
  readonly after: readonly string[];
  /** the next day, where the part has no source of its own */
  readonly leadDays: ThreePoint;
}

export interface Figures {
  readonly choice: Choice;
  readonly origin: Origin;
  /** probability that it cures all that is wrong */
  readonly cures: number;
  /** labour and parts of it alone, as they are likely */
  readonly price: number;
  readonly hours: ThreePoint;
  /** labour with what follows when it fails, on average, h */
  readonly labourH: number;
  /** of the likely total, money */
  readonly mean: number;
  readonly p10: number;
  readonly p50: number;
  readonly p90: number;
  /** counts by bin of the common axis */
  readonly histogram: readonly number[];
  /** how often the best of the others would have cost less on the same vehicle, 0…1 */
  readonly otherCheaper: number;
  /** days until the vehicle drives again, median and nine of ten */
  readonly days: readonly [number, number];
  /** cure probability at which it costs as much as the best of the others; undefined when none does */
  readonly breakEven: number | undefined;
  /** what the owner's wish or the vehicle's value has against it */
  readonly against: readonly string[];
}

export interface Flip {
  readonly what: string;
  readonly now: string;
  readonly at: string;
  readonly instead: string;
}

export interface Decision {
  readonly figures: readonly Figures[];
  /** id of the least expected cost among those that nothing stands against; of all when something stands against each */
  readonly best: string | undefined;
  readonly axis: readonly [number, number];
  readonly flips: readonly Flip[];
  readonly draws: number;
  readonly seed: number;
}
