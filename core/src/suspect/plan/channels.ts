import { channelSpec, channelsToRecord } from "../../log/index.ts";
import { elementsIn, type Unit } from "../../unit/index.ts";
import type { SuspectModel } from "../belief/model.ts";
import type { Subject } from "../faults/instances.ts";

/** A channel that is worth its place on the next drive. */
export interface ProposedChannel {
  readonly channel: string;
  readonly label: string;
  readonly why: string;
  /** without it nothing can be measured at all */
  readonly need: "must" | "good";
}

/** Control units answer the faster, the fewer are asked for: so many tell the most a second. */
export const PROPOSED_CHANNELS = 8;
/** Outcomes of one kind come and go together: k of them are worth k / (1 + (k − 1) ρ), as they are in the odds. */
const TOGETHER = 0.3;
/** Less than this parts nobody, bit. */
const LEAST_BITS = 1e-4;

/** What a drive can show, and which channels it takes beside the speeds and the commanded gear. */
interface Witness {
  readonly tables: readonly string[];
  readonly subjects: readonly { readonly subject: Subject; readonly needs: readonly string[] }[];
  readonly why: string;
}

const LOADED = ["engine_torque_nm", "fluid_c"];

function witnessesOf(unit: Unit): Witness[] {
  const planetary = unit.kind === "planetary";
  const forward = unit.gears.filter((g) => g.ratio > 0).map((g) => g.name);
  const shifts = forward.slice(1).map((to, i) => `${forward[i]}-${to}`);
  const whole = (needs: readonly string[]) => [{ subject: {}, needs }];
  const each = <T>(list: readonly T[], subject: (x: T) => Subject, needs: (x: T) => readonly string[]) =>
    list.map((x) => ({ subject: subject(x), needs: needs(x) }));
  const heat = planetary ? "fluid_c" : "clutch_c";
  const duals = unit.elements.filter((e) => e.kind === "dual-clutch").map((e) => e.id);
  const applied = forward.map((g) => elementsIn(unit, g));
  const comesOn = new Set(applied.slice(1).flatMap((to, i) => to.filter((e) => !applied[i]?.includes(e))));
  return [
    {
      tables: ["gear"],
      subjects: each(
        forward,
        (gear) => ({ gear }),
        () => LOADED,
      ),
      why: "which gears slip, and how hard they were worked",
    },
    {
      tables: ["slip-pattern", "slip-heat", "slip-load", "slip-scope"],
      subjects: whole(LOADED),
      why: "slip against torque and temperature",
    },
    {
      tables: ["shift", "harsh", "delay-warm", "inertia-warm"],
      subjects: each(
        shifts,
        (shift) => ({ shift }),
        () => LOADED,
      ),
      why: "which shifts flare, drag or bang, by load and temperature",
    },
    {
      tables: ["converter-clutch", "shudder", "hunting", "open-oscillation"],
      subjects: planetary ? whole(["engine_rpm", "tcc_command"]) : [],
      why: "slip and shudder with the converter clutch, or without it",
    },
    {
      tables: ["sensor"],
      subjects: each(
        unit.sensors,
        (s) => ({ component: s.id }),
        (s) => [s.channel],
      ),
      why: "whether the sensor drops out",
    },
    { tables: ["heat", "cooling"], subjects: whole([heat, "vehicle_kmh"]), why: "heat, and whether the cooler works" },
    {
      tables: ["engine-pull", "stall-speed"],
      subjects: planetary ? whole(["engine_rpm", "engine_torque_nm", "pedal_pct"]) : [],
      why: "whether the engine pulls as it should",
    },
    {
      tables: ["idle", "drive-lost", "engage-warm", "neutral-pull"],
      subjects: whole(["engine_rpm", "range"]),
      why: "engagement, and drag in neutral",
    },
    {
      tables: ["adaptation"],
      subjects: each(
        (unit.adaptations ?? []).filter((a) => !planetary || comesOn.has(a.component)),
        (a) => ({ component: a.component }),
        (a) => [`adapt_${a.id}`],
      ),
      why: "what the control unit has learned of this clutch",
    },
    {
      tables: ["line-pressure"],
      subjects: planetary ? [] : whole(["line_pressure_kpa", "line_pressure_measured_kpa"]),
      why: "whether the pressure follows its command",
    },
    {
      tables: ["clutch-pressure"],
      subjects: each(
        duals,
        (component) => ({ component }),
        (id) => [`${id.toLowerCase()}_kpa`, "line_pressure_kpa"],
      ),
      why: "whether this clutch gets its pressure",
    },
    {
      tables: ["judder"],
      subjects: each(
        duals,
        (component) => ({ component }),
        () => ["engine_torque_nm"],
      ),
      why: "judder while it moves off",
    },
    {
      tables: ["power-loss"],
      subjects: whole(unit.solenoids.slice(0, 3).map((s) => s.id)),
      why: "whether all solenoids drop out at once",
    },
  ];
}

/** Speeds and the commanded gear: of a dual clutch both its shafts. */
function mustOf(unit: Unit): string[] {
  const shafts = unit.sensors.map((s) => s.channel).filter((c) => c.endsWith("_rpm") && c !== "output_rpm");
  return unit.kind === "planetary"
    ? ["turbine_rpm", "output_rpm", "gear_commanded"]
    : ["engine_rpm", ...shafts.slice(0, 2), "output_rpm", "gear_commanded"];
}

/** I(fault; outcome) = Σ p(f)·p(o|f)·log2(p(o|f) / p(o)), bit. @param p - of the faults, sums to one */
function bitsOf(model: SuspectModel, p: readonly number[], table: string, subject: Subject): number {
  const known = model.findTable({ table });
  if (!known) return 0;
  const outcomes = Object.keys(known.otherwise);
  const rows = model.faults.map((f) => model.distribution(table, known, subject, f).p);
  const total = outcomes.map((o) => rows.reduce((s, r, i) => s + (p[i] as number) * (r[o] ?? 0), 0));
  let bits = 0;
  rows.forEach((r, i) => {
    outcomes.forEach((o, k) => {
      const under = r[o] ?? 0;
      if (under > 0 && (total[k] as number) > 0)
        bits += (p[i] as number) * under * Math.log2(under / (total[k] as number));
    });
  });
  return bits;
}

/**
 * Channels for the next drive that part the suspects best: those without which nothing can be measured, then whatever brings most
 * bits a channel, by the likelihoods that will judge the drive.
 * @param marginals - probability of each fault of the model, in its order
 */
export function proposeChannels(
  model: SuspectModel,
  marginals: Float64Array,
  most: number = PROPOSED_CHANNELS,
): ProposedChannel[] {
  const { unit } = model;
  const sum = marginals.reduce((a, b) => a + b, 0);
  const p = Array.from(marginals, (m) => m / sum);
  const told = witnessesOf(unit).map((w) => ({
    why: w.why,
    subjects: w.subjects.map((s) => ({
      needs: s.needs.filter((c) => channelSpec(c) !== undefined),
      bits: w.tables.reduce((b, t) => b + bitsOf(model, p, t, s.subject), 0),
    })),
  }));
  const labelled = (channel: string, why: string, need: ProposedChannel["need"]): ProposedChannel => ({
    channel,
    label: channelSpec(channel)?.label ?? channel,
    why,
    need,
  });
  const chosen = new Map(mustOf(unit).map((c) => [c, labelled(c, "the ratio that is really driven", "must")]));
  const worth = (has: (c: string) => boolean) =>
    told.reduce((all, w) => {
      const seen = w.subjects.filter((s) => s.needs.every(has));
      return all + seen.reduce((b, s) => b + s.bits, 0) / (1 + Math.max(0, seen.length - 1) * TOGETHER);
    }, 0);
  for (;;) {
    const now = worth((c) => chosen.has(c));
    let best: { adds: readonly string[]; why: string; a: number } | undefined;
    for (const w of told)
      for (const s of w.subjects) {
        const adds = s.needs.filter((c) => !chosen.has(c));
        if (adds.length === 0 || chosen.size + adds.length > most) continue;
        const a = (worth((c) => chosen.has(c) || adds.includes(c)) - now) / adds.length;
        if (a > (best?.a ?? LEAST_BITS)) best = { adds, why: w.why, a };
      }
    if (!best) break;
    for (const c of best.adds) chosen.set(c, labelled(c, best.why, "good"));
  }
  // what parts nobody any more still proves: places that are left go to what any drive is judged by
  for (const c of channelsToRecord(unit, []))
    if (chosen.size < most && !chosen.has(c.channel)) chosen.set(c.channel, { ...c, need: "good" });
  return [...chosen.values()];
}
