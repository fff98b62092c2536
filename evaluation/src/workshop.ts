import { draw } from "@gearsense/core/chance";
import type { Symptom } from "@gearsense/core/job";
import { quickChecksFor } from "@gearsense/core/observe";
import type { Check, Evidence, SuspectModel } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import { type Kind, NOTHING_SAID, SAYS } from "./owner-says.ts";
import { withErrors } from "./world.ts";

/** A vehicle whose faults are known, as it comes into the workshop. */
export interface Vehicle {
  readonly unit: Unit;
  /** ids of the catalogue; none: nothing is wrong */
  readonly faultIds: readonly string[];
  /** that its controller has stored */
  readonly codes: readonly string[];
  /** gears that really gave trouble on the road */
  readonly slipGears: readonly string[];
}

const classId = (faultId: string) => faultId.split(":")[0] as string;

/** What a look at the vehicle shows when it is done well: rung, outcome and how often the fault shows so. */
const SHOWS: Readonly<Record<string, readonly (readonly [string, string, number])[]>> = {
  "battery-low": [["battery", "weak", 0.85]],
  "fluid-low": [
    ["leaks", "drip", 0.45],
    ["noise", "whine", 0.45],
    ["engagement", "late-both", 0.6],
  ],
  "fluid-overfull": [["leaks", "seep", 0.4]],
  "pump-worn": [
    ["noise", "whine", 0.6],
    ["engagement", "late-both", 0.6],
  ],
  "pressure-low": [["engagement", "late-both", 0.5]],
  "filter-blocked": [
    ["noise", "whine", 0.6],
    ["engagement", "late-both", 0.55],
  ],
  "gear-damage": [["noise", "growl", 0.65]],
  linkage: [
    ["linkage", "one-off", 0.85],
    ["engagement", "late-one", 0.3],
  ],
  "range-switch": [["linkage", "one-off", 0.65]],
  mount: [["mounts", "torn", 0.92]],
  misfire: [["misfire", "counted", 0.88]],
  "wheel-vibration": [["wheels", "unlike", 0.85]],
  "shaft-joint": [["wheels", "unlike", 0.65]],
  "cooler-blocked": [["cooler", "blocked", 0.7]],
  "fluid-water": [["cooler", "wet", 0.35]],
  "connector-wet": [
    ["connector", "fluid", 0.45],
    ["connector", "green", 0.64],
  ],
  wire: [
    ["connector", "loose", 0.3],
    ["harness", "damaged", 0.45],
  ],
  supply: [
    ["connector", "green", 0.3],
    ["harness", "damaged", 0.25],
  ],
  ground: [
    ["connector", "green", 0.3],
    ["harness", "damaged", 0.3],
  ],
  "dual-clutch-worn": [["clutch-housing", "burnt", 0.6]],
  "dual-clutch-judder": [["clutch-housing", "burnt", 0.4]],
  "input-splines": [["engagement", "none", 0.9]],
  "element-leak": [["engagement", "late-one", 0.25]],
};
/** Nobody looks perfectly: a thing is seen where there is none so often. */
const FALSE_ALARM = 0.04;

const WORSE_HOT = new Set([
  "element-leak",
  "valve-bore-worn",
  "pump-worn",
  "cooler-blocked",
  "clutch-cooling",
  "converter-circuit",
  "solenoid-leaks",
]);
const WORSE_COLD = new Set(["filter-blocked", "fluid-wrong", "valve-sticks", "fluid-low"]);

const BURNT = new Set(["element-worn", "dual-clutch-worn", "cooler-blocked", "converter-lining"]);
const DARK = new Set(["element-worn", "dual-clutch-worn", "fluid-degraded", "cooler-blocked", "converter-lining"]);

/** Kilometres driven: low, middle, high, very high. What wears out does so late; the rest comes at any age. */
const MILEAGES = ["low", "middle", "high", "very-high"] as const;
const ANY_AGE = [0.2, 0.35, 0.29, 0.16];
const OLD_AGE = [0.07, 0.25, 0.38, 0.3];
const WEARS_OUT = new Set([
  "element-worn",
  "element-leak",
  "one-way-slips",
  "pump-worn",
  "valve-bore-worn",
  "filter-blocked",
  "converter-lining",
  "dual-clutch-worn",
  "fluid-degraded",
  "gear-damage",
  "output-splines",
  "shaft-joint",
  "mount",
]);

/** What the owner tells of before, when asked: how often with a fault that comes of it, and how often anyway. */
const BEFORE: Readonly<Record<string, { readonly usual: number; readonly of: Readonly<Record<string, number>> }>> = {
  "event-flood": { usual: 0.012, of: { "fluid-water": 0.3, "connector-wet": 0.15, supply: 0.05, wire: 0.05 } },
  "event-impact": {
    usual: 0.025,
    of: { mount: 0.1, "wheel-vibration": 0.12, "shaft-joint": 0.1, linkage: 0.07, "fluid-low": 0.08, wire: 0.05 },
  },
  "event-tow": { usual: 0.03, of: { "gear-damage": 0.1, "element-worn": 0.05 } },
  "event-engine-work": { usual: 0.045, of: { misfire: 0.16, mount: 0.12, wire: 0.1, linkage: 0.1, supply: 0.1 } },
  "event-more-power": { usual: 0.03, of: { "dual-clutch-worn": 0.12, "element-worn": 0.1, "converter-lining": 0.08 } },
  "history-fluid": {
    usual: 0.28,
    of: { "fluid-wrong": 0.85, "fluid-overfull": 0.8, "fluid-low": 0.4, "fluid-degraded": 0.12 },
  },
  "history-part": {
    usual: 0.15,
    of: { "adaptation-off": 0.4, linkage: 0.3, "controller-software": 0.25, wire: 0.2, "range-switch": 0.2 },
  },
  "history-battery": { usual: 0.1, of: { "battery-low": 0.3, "adaptation-off": 0.3, "controller-software": 0.2 } },
  "history-fuse": { usual: 0.03, of: { supply: 0.1, "battery-low": 0.08 } },
  "duty-tow": { usual: 0.12, of: { "cooler-blocked": 0.22, "fluid-degraded": 0.25, "element-worn": 0.2 } },
  "duty-taxi": { usual: 0.15, of: { "dual-clutch-worn": 0.3, "fluid-degraded": 0.2, mount: 0.2 } },
  "duty-hills": { usual: 0.2, of: { "dual-clutch-worn": 0.3, "fluid-degraded": 0.25, "element-worn": 0.25 } },
};

/** Shares of the outcomes of one look: of a sound vehicle, and by class of fault. */
interface Look {
  readonly outcomes: readonly string[];
  readonly usual: readonly number[];
  readonly of: Readonly<Record<string, readonly number[]>>;
}
/** A sample of the fluid in a glass and as a blot on paper. */
const SAMPLE: Readonly<Record<string, Look>> = {
  cloudiness: {
    outcomes: ["clear", "hazy", "milky", "foamy"],
    usual: [0.8, 0.14, 0.02, 0.04],
    of: {
      "fluid-water": [0.1, 0.22, 0.63, 0.05],
      "fluid-overfull": [0.2, 0.2, 0.02, 0.58],
      "fluid-low": [0.55, 0.2, 0.02, 0.23],
      "fluid-degraded": [0.5, 0.43, 0.03, 0.04],
      "element-worn": [0.5, 0.43, 0.03, 0.04],
    },
  },
  blot: {
    outcomes: ["even", "dark-core", "water-rim"],
    usual: [0.82, 0.16, 0.02],
    of: {
      "fluid-degraded": [0.27, 0.7, 0.03],
      "element-worn": [0.4, 0.57, 0.03],
      "converter-lining": [0.5, 0.48, 0.02],
      "dual-clutch-worn": [0.45, 0.53, 0.02],
      "cooler-blocked": [0.5, 0.48, 0.02],
      "fluid-water": [0.2, 0.15, 0.65],
    },
  },
};
/** What is measured and weighed when the pan comes down. */
const DRAINED: Readonly<Record<string, Look>> = {
  "drained-volume": {
    outcomes: ["as-expected", "short", "over"],
    usual: [0.86, 0.09, 0.05],
    of: {
      "fluid-low": [0.14, 0.85, 0.01],
      "fluid-overfull": [0.2, 0.03, 0.77],
      "fluid-water": [0.6, 0.05, 0.35],
    },
  },
  "debris-paste": {
    outcomes: ["within", "over"],
    usual: [0.86, 0.14],
    of: { "gear-damage": [0.3, 0.7], "element-worn": [0.62, 0.38], "pump-worn": [0.6, 0.4] },
  },
};

/** Each look in turn, as it is seen and whether that is abnormal. With several faults what is least usual is seen. */
const lookAt = (looks: Readonly<Record<string, Look>>, classes: readonly string[], random: () => number) =>
  Object.entries(looks).map(([table, { outcomes, usual, of }]) => {
    const own = classes.flatMap((c) => (of[c] ? [of[c]] : []));
    const shares = own.sort((a, b) => (a[0] as number) - (b[0] as number))[0] ?? usual;
    const seen = outcomes[draw(shares, random)] as string;
    return { table, seen, abnormal: seen !== outcomes[0] };
  });

/** A level is misread so often, and an amount misjudged by a step either way. */
const MISREAD = 0.06;
const MISJUDGED = 0.04;

/** As sure as somebody who looks at a magnet is. */
const PAN_SURE = 0.95;

const pick = <T>(random: () => number, from: readonly T[]): T => from[Math.floor(random() * from.length)] as T;

type Amount = "none" | "trace" | "some" | "much";
const AMOUNTS: readonly Amount[] = ["none", "trace", "some", "much"];
/** How often each of {@link AMOUNTS} is found. */
type Shares = readonly [number, number, number, number];

/**
 * What lies in the pan, by class of fault: how often each amount from none to much. Written down by what breaks or wears,
 * like {@link SHOWS}, not taken from the library.
 */
const PAN: Readonly<Record<string, Readonly<Record<string, Shares>>>> = {
  "debris-lining": {
    "element-worn": [0.06, 0.16, 0.4, 0.38],
    "dual-clutch-worn": [0.15, 0.25, 0.35, 0.25],
    "converter-lining": [0.25, 0.35, 0.28, 0.12],
    "element-leak": [0.45, 0.33, 0.16, 0.06],
    "fluid-low": [0.45, 0.33, 0.16, 0.06],
    "fluid-wrong": [0.5, 0.32, 0.13, 0.05],
  },
  "debris-slivers": {
    "gear-damage": [0.08, 0.2, 0.36, 0.36],
    "one-way-slips": [0.3, 0.3, 0.25, 0.15],
    "one-way-seized": [0.4, 0.25, 0.22, 0.13],
    "pump-worn": [0.6, 0.25, 0.1, 0.05],
  },
  "debris-brass": {
    "pump-worn": [0.3, 0.32, 0.26, 0.12],
    "gear-damage": [0.35, 0.3, 0.22, 0.13],
  },
  "debris-aluminium": {
    "pump-worn": [0.45, 0.28, 0.18, 0.09],
    "gear-damage": [0.45, 0.3, 0.16, 0.09],
    "element-leak": [0.55, 0.27, 0.12, 0.06],
    "valve-bore-worn": [0.6, 0.26, 0.1, 0.04],
  },
  "debris-clip": {
    "valve-clip-broken": [0.45, 0.15, 0.25, 0.15],
    "accumulator-broken": [0.5, 0.15, 0.2, 0.15],
    "element-leak": [0.8, 0.08, 0.07, 0.05],
    "gear-damage": [0.65, 0.15, 0.12, 0.08],
  },
  "debris-water": { "fluid-water": [0.15, 0.2, 0.35, 0.3] },
};
/** In a sound unit; what wears on the way. */
const PAN_USUAL: Readonly<Record<string, Shares>> = {
  "debris-lining": [0.64, 0.27, 0.07, 0.02],
  "debris-slivers": [0.87, 0.1, 0.02, 0.01],
  "debris-brass": [0.82, 0.14, 0.03, 0.01],
  "debris-aluminium": [0.78, 0.18, 0.03, 0.01],
  "debris-clip": [0.97, 0.02, 0.005, 0.005],
  "debris-water": [0.97, 0.02, 0.005, 0.005],
};
/** The filter cut open: how often it shows what belongs to the fault. */
const FILTER: Readonly<Record<string, readonly [string, number]>> = {
  "filter-blocked": ["blocked", 0.78],
  "element-worn": ["lining", 0.62],
  "dual-clutch-worn": ["lining", 0.5],
  "converter-lining": ["lining", 0.5],
  "gear-damage": ["metal", 0.7],
  "pump-worn": ["metal", 0.2],
};
const FILTER_USUAL = ["clean", "clean", "clean", "clean", "clean", "lining", "lining", "metal"] as const;

/** Pan down: what lies on the magnet and in the filter, drawn from what is wrong; amounts are misjudged by a step now and then. */
export function panDown(vehicle: Vehicle, random: () => number, errors = 1): Evidence[] {
  if (vehicle.unit.kind === "dct-dry") return [];
  const classes = vehicle.faultIds.map(classId);
  const one = (table: string, outcome: string, abnormal: boolean): Evidence => ({
    id: table,
    table,
    subject: {},
    outcome,
    label: `${table}: ${outcome}`,
    entryId: "pan",
    abnormal,
    weight: PAN_SURE,
  });
  const out = Object.entries(PAN_USUAL).map(([table, usual]) => {
    const most = Math.max(
      ...[usual, ...classes.flatMap((c) => (PAN[table]?.[c] ? [PAN[table][c]] : []))].map((p) => draw(p, random)),
    );
    const step = random();
    const seen = Math.min(
      3,
      Math.max(0, most + (step < MISJUDGED * errors ? -1 : step > 1 - MISJUDGED * errors ? 1 : 0)),
    );
    return one(table, AMOUNTS[seen] as Amount, seen >= 2);
  });
  const sign = classes.flatMap((c) => (FILTER[c] ? [FILTER[c]] : [])).find(([, often]) => random() < often);
  const filter = sign?.[0] ?? pick(random, FILTER_USUAL);
  out.push(one("filter-opened", filter, filter !== "clean"));
  for (const { table, seen, abnormal } of lookAt(DRAINED, classes, random)) out.push(one(table, seen, abnormal));
  return out;
}

/** Complaint, history, distance driven, first look, a sample of the fluid and codes of a vehicle, drawn from what is wrong with it. */
export function firstLook(vehicle: Vehicle, model: SuspectModel, random: () => number, errors = 1): Evidence[] {
  const classes = vehicle.faultIds.map(classId);
  const is = (id: string) => classes.includes(id);
  const out: Evidence[] = [];
  const add = (table: string, outcome: string, abnormal: boolean, checkId?: string, weight?: number) =>
    out.push({
      id: `${table}:${checkId ?? outcome}`,
      table,
      ...(checkId ? { checkId } : {}),
      subject: {},
      outcome,
      label: `${checkId ?? table}: ${outcome}`,
      entryId: table === "observation" ? `look-${checkId}` : table,
      abnormal,
      ...(weight ? { weight } : {}),
    });
  const kinds = new Set<Kind>();
  for (const c of classes) kinds.add(pick(random, SAYS.find(([list]) => list.includes(c))?.[1] ?? NOTHING_SAID));
  if (classes.length === 0) kinds.add(pick(random, NOTHING_SAID));
  for (const kind of kinds) add("symptom", kind, true);
  // most know the gear, some name another
  const says = random();
  const gears = vehicle.unit.gears.map((g) => g.name);
  if ((kinds.has("slip") || kinds.has("late") || kinds.has("harsh")) && says < 0.7) {
    const gear =
      says < 0.62 && vehicle.slipGears.length > 0
        ? pick(random, vehicle.slipGears)
        : says > 0.62
          ? pick(random, gears)
          : undefined;
    if (gear)
      out.push({
        id: "told-gear",
        table: "told-gear",
        subject: { gear },
        outcome: "told",
        label: `Complaint names gear ${gear}`,
        entryId: "symptom",
        abnormal: false,
      });
  }
  if (random() < 0.4) {
    const hot = classes.some((c) => WORSE_HOT.has(c)) ? 0.9 : classes.some((c) => WORSE_COLD.has(c)) ? 0.15 : 0.55;
    add("told-heat", random() < hot ? "hot" : "cold", false);
  }
  const level = is("fluid-low") ? "low" : is("fluid-overfull") ? "high" : "ok";
  const read = random() < 1 - MISREAD * errors ? level : pick(random, ["low", "ok", "high"]);
  add("fluid-level", read, read !== "ok");
  const burnt = classes.some((c) => BURNT.has(c)) ? 0.45 : 0.08;
  const x = random();
  const smell = x < burnt ? "burnt" : x < burnt + 0.25 ? "varnish" : "none";
  add("fluid-smell", smell, smell !== "none");
  const dark = classes.some((c) => DARK.has(c));
  const colour =
    is("fluid-water") && random() < 0.75
      ? "milky"
      : pick(random, dark ? ["brown", "brown", "black", "amber"] : ["fresh", "amber", "amber", "brown"]);
  add("fluid-colour", colour, colour !== "fresh" && colour !== "amber");
  if (vehicle.unit.kind !== "dct-dry")
    for (const { table, seen, abnormal } of lookAt(SAMPLE, classes, random)) {
      // milky by colour says it already
      if (table === "cloudiness" && colour === "milky") continue;
      add(table, seen, abnormal);
    }
  add("mileage", MILEAGES[draw(classes.some((c) => WEARS_OUT.has(c)) ? OLD_AGE : ANY_AGE, random)] as string, false);
  for (const [table, { usual, of }] of Object.entries(BEFORE))
    if (random() < Math.max(usual, ...classes.map((c) => of[c] ?? 0))) add(table, "yes", false);
  const symptoms = [...kinds].map((kind) => ({ kind }) as Symptom);
  for (const { rung, relevant } of quickChecksFor(vehicle.unit, symptoms, model.knowledge.rungs)) {
    if (!relevant) continue;
    const well = rung.outcomes[0] as (typeof rung.outcomes)[number];
    const sign = classes.flatMap((c) => SHOWS[c] ?? []).find(([id, , often]) => id === rung.id && random() < often);
    let seen = rung.outcomes.find((o) => o.id === sign?.[1]) ?? well;
    if (!sign && random() < FALSE_ALARM * errors) seen = pick(random, rung.outcomes);
    add("observation", seen.id, seen.abnormal, rung.id, 0.97);
  }
  out.push(...codesRead(vehicle.unit, vehicle.codes));
  return out;
}

/** All modules read: what is stored, and what is not. */
export const codesRead = (unit: Unit, stored: readonly string[]): Evidence[] =>
  unit.codes.map(({ code }) => {
    const present = stored.includes(code);
    return {
      id: `code:${code}`,
      table: "code",
      subject: { code },
      outcome: present ? "present" : "absent",
      label: `Code ${code} ${present ? "stored" : "not stored"}`,
      entryId: "codes",
      abnormal: present,
    };
  });

/** Checks go wrong more often than the catalogue says. */
const SLIP_OF_THE_HAND = 0.025;

/**
 * What a check shows on this vehicle: by the catalogue's error rates, and now and then something else altogether.
 * @param errors - factor on both
 */
export function answer(
  model: SuspectModel,
  faultIds: readonly string[],
  check: Check,
  random: () => number,
  errors = 1,
): string {
  const members = faultIds.map((id) => model.faults.findIndex((f) => f.id === id));
  const outcomes = check.outcomes.map((o) => o.id);
  if (random() < SLIP_OF_THE_HAND * errors) return pick(random, outcomes);
  const p = outcomes.map((outcome) =>
    model.column({ table: "check", checkId: check.id, subject: { component: check.component }, outcome }).of(members),
  );
  return outcomes[draw(errors === 1 ? p : withErrors(p, errors), random)] as string;
}

/** The evidence that a check gives. */
export const checkEvidence = (check: Check, outcome: string): Evidence => ({
  id: `check:${check.id}`,
  table: "check",
  checkId: check.id,
  subject: { component: check.component },
  outcome,
  label: `${check.title}: ${outcome}`,
  entryId: `check:${check.id}`,
  abnormal: outcome !== check.outcomes[0]?.id,
});
