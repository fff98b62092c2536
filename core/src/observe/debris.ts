import type { DebrisClass, DebrisKnowledge, DebrisPart } from "../knowledge/index.ts";
import { inSentence, type Unit } from "../unit/index.ts";

const PACKS: ReadonlySet<string> = new Set(["clutch", "brake", "band"]);

/** Parts of a unit that some debris can come from, by name. @returns empty when this unit has no such part in its fluid */
export function debrisSources(unit: Unit, of: DebrisClass): string[] {
  const named = (kinds: ReadonlySet<string>) => unit.elements.filter((e) => kinds.has(e.kind)).map((e) => e.name);
  const packs = named(PACKS);
  const wet = unit.kind === "dct-wet" ? named(new Set(["dual-clutch"])) : [];
  const sets = unit.gearTrain?.sets?.map((s) => `gear set ${s.id}`) ?? [];
  const pairs = unit.gearTrain?.pairs?.length ? ["gear pairs and their synchronisers"] : [];
  const places: Record<DebrisPart, readonly string[]> = {
    "steel plates": [...packs, ...wet],
    // a dry clutch sheds into its housing, not into the oil
    linings: [...packs, ...wet, ...(unit.converter ? ["converter clutch"] : [])],
    gears: [...sets, ...pairs],
    bearings: ["bearings of shafts and gears"],
    bushes: unit.kind === "planetary" ? ["bushes of pump and shafts"] : [],
    "thrust washers": ["thrust washers"],
    case: ["case"],
    pump: unit.kind === "dct-dry" ? [] : ["pump body"],
    pistons: packs.map((p) => `piston of ${inSentence(p)}`),
    clips: [...packs.map((p) => `snap ring or return spring of ${inSentence(p)}`), "valve body clips"],
    joints: ["pan joint"],
    cooler: (unit.fluid.coolerL ?? 0) > 0 ? ["cooler"] : [],
    breather: ["breather"],
  };
  return [...new Set(of.comesFrom.flatMap((p) => places[p]))];
}

/** Is the grey paste within what the distance since the last service allows? @returns undefined when that is unknown */
export function pasteWithin(
  known: DebrisKnowledge,
  amount: number,
  kmSinceService: number | null,
): boolean | undefined {
  if (kmSinceService === null) return undefined;
  const band = known.pasteBand.find((b) => kmSinceService <= b.untilKm);
  return band ? amount <= band.mostAmount : undefined;
}
