import type { ThreePoint } from "../../chance/index.ts";
import type { Intrusiveness, Knowledge, Source } from "../../knowledge/index.ts";
import { INTRUSIVENESS } from "../../knowledge/index.ts";
import { inSentence, type Unit } from "../../unit/index.ts";
import type { Repair } from "../faults/instances.ts";

/** What the shop typed for one option of this job: its labour and its parts, money. */
export interface OwnPrice {
  readonly labourCost: number;
  readonly partsCost: number;
  /** working days until the part is there, as quoted */
  readonly leadDays?: number | undefined;
}

export interface Money {
  /** labour rate of the shop, money an hour */
  readonly hourlyRate: number;
  /** by option, see {@link optionId}: takes the place of what the library says */
  readonly own?: Readonly<Record<string, OwnPrice>> | undefined;
  /** options whose part is there, of those that are counted only then */
  readonly have?: readonly string[] | undefined;
}

/** What is open at the vehicle, as bits in the order of INTRUSIVENESS. */
export type Opened = number;

const bit = (level: Intrusiveness) => 1 << INTRUSIVENESS.indexOf(level);

/** What these accesses open, with all that they give. */
export const openedBy = (knowledge: Knowledge, levels: readonly Intrusiveness[]): Opened =>
  levels.reduce((mask, l) => knowledge.access[l].gives.reduce((m, g) => m | bit(g), mask | bit(l)), 0);

export const isOpen = (opened: Opened, level: Intrusiveness): boolean => (opened & bit(level)) !== 0;

/** Minutes and material that lie between what is open and a place. */
export function accessLeft(knowledge: Knowledge, level: Intrusiveness, opened: Opened) {
  const whole = knowledge.access[level];
  if (isOpen(opened, level)) return { minutes: 0, materialCost: 0, already: whole };
  let already = { minutes: 0, materialCost: 0 };
  for (const g of whole.gives)
    if (isOpen(opened, g) && knowledge.access[g].minutes > already.minutes) already = knowledge.access[g];
  return {
    minutes: Math.max(0, whole.minutes - already.minutes),
    materialCost: Math.max(0, whole.materialCost - already.materialCost),
    already,
  };
}

/** Of the best hours of a repair so much at most is getting there. */
export const MOST_ACCESS = 0.8;

/** A repair with where its part comes from, as it is named everywhere: "rebuild:HC@kit". */
export const optionId = (repair: Pick<Repair, "id" | "sources">, source?: Pick<Source, "id">): string => {
  const from = source ?? repair.sources?.[0];
  return from ? `${repair.id}@${from.id}` : repair.id;
};

export interface PriceLine {
  readonly kind: "labour" | "part" | "fluid" | "filter";
  readonly what: string;
  /** h, l or pieces */
  readonly quantity: number;
  readonly each: number;
}

export interface Price {
  readonly lines: readonly PriceLine[];
  /** best, likely, worst, of what is still to be done */
  readonly hours: ThreePoint;
  /** hours that are open already and not charged again */
  readonly savedH: number;
  readonly labourCost: number;
  /** with fluid and filter */
  readonly partsCost: number;
  /** as likely; then at best and at worst hours */
  readonly total: number;
  readonly least: number;
  readonly most: number;
}

/**
 * What an option costs the owner: labour at the shop's rate, parts, the fluid that has to be filled again, the filter. What is
 * open already saves its labour and nothing else, at most four fifths of the best hours; what may break on the way is the
 * shop's risk. The one price of suspects, decision, estimate and report.
 * @param source - absent: the first of the repair, or the repair's own part
 */
export function priceOf(
  unit: Unit,
  knowledge: Knowledge,
  repair: Repair,
  source: Source | undefined,
  opened: Opened,
  { hourlyRate, own }: Money,
): Price {
  const from = source ?? repair.sources?.[0];
  const typed = own?.[optionId(repair, from)];
  const { already } = accessLeft(knowledge, repair.intrusiveness, opened);
  const savedH = typed ? 0 : Math.min(MOST_ACCESS * repair.hours[0], already.minutes / 60);
  const whole = repair.hours.map((h) => h - savedH) as [number, number, number];
  // typed labour keeps the spread of the library's hours
  const scale = typed && hourlyRate > 0 ? typed.labourCost / hourlyRate / whole[1] : 1;
  const hours: ThreePoint = [whole[0] * scale, whole[1] * scale, whole[2] * scale];
  const lines: PriceLine[] = [{ kind: "labour", what: "Labour", quantity: hours[1], each: hourlyRate }];
  if (typed) {
    if (typed.partsCost > 0)
      lines.push({ kind: "part", what: "Parts and material", quantity: 1, each: typed.partsCost });
  } else {
    const part = from?.partsCost ?? repair.partsCost;
    if (part > 0) lines.push({ kind: "part", what: from ? from.title : "Parts and material", quantity: 1, each: part });
    lines.push(...refillLines(unit, knowledge, repair));
  }
  const labourCost = typed?.labourCost ?? hours[1] * hourlyRate;
  const partsCost = lines.filter((l) => l.kind !== "labour").reduce((s, l) => s + l.quantity * l.each, 0);
  return {
    lines,
    hours,
    savedH,
    labourCost,
    partsCost,
    total: labourCost + partsCost,
    least: labourCost * (hours[0] / hours[1]) + partsCost,
    most: labourCost * (hours[2] / hours[1]) + partsCost,
  };
}

/** Litres that have to be filled again: what the pan holds, or all of it with converter and cooler. */
export const refillL = (unit: Unit, repair: Pick<Repair, "refill">): number =>
  repair.refill === "whole" ? unit.fluid.totalL : repair.refill === "pan" ? unit.fluid.panDrainL : 0;

function refillLines(unit: Unit, knowledge: Knowledge, repair: Repair): PriceLine[] {
  const litres = refillL(unit, repair);
  if (litres === 0) return [];
  const fluid: PriceLine = {
    kind: "fluid",
    what: `Fluid: ${inSentence(unit.fluid.spec)}`,
    quantity: litres,
    each: knowledge.fluidPerL,
  };
  // a dry dual clutch has no filter in its oil
  return unit.kind === "dct-dry"
    ? [fluid]
    : [fluid, { kind: "filter", what: "Filter with its seal", quantity: 1, each: knowledge.filterCost }];
}
