import { type BenchKnowledge, LOOK_PLACES } from "@gearsense/core/knowledge";
import {
  CHECK_WAYS,
  FAULT_GROUPS,
  INTRUSIVENESS,
  type Knowledge,
  OPTION_KINDS,
  WINDOWS,
} from "@gearsense/core/suspect";
import { z } from "zod";
import { DebrisSchema, SymptomSchema } from "./entries.ts";

const Per = z.enum([
  "friction-element",
  "fed-element",
  "one-way-clutch",
  "dual-clutch",
  "launching-clutch",
  "fork",
  "solenoid",
  "element-solenoid",
  "speed-sensor",
  "temperature-sensor",
  "range-sensor",
  "signal-net",
  "supply-net",
  "ground-net",
  "converter",
  "unit",
]);
const Relation = z.enum([
  "any",
  "same",
  "other",
  "carries",
  "carries-hard",
  "carries-first",
  "carries-reverse",
  "carries-one",
  "carries-both",
  "spares",
  "on-coming",
  "off-going",
  "feeds",
  "about",
  "about-signal",
  "about-grip",
  "about-shaft",
  "among",
  "closes-neutral",
  "converter-solenoid",
]);
const Probabilities = z.record(z.string(), z.number().min(0).max(1));
const Row = z.object({
  faults: z.array(z.string()).min(1),
  relation: Relation,
  stays: z.enum(["applied", "released"]).optional(),
  at: z.enum(["dual-clutch", "solenoids"]).optional(),
  p: Probabilities,
  why: z.string().optional(),
});
const version = z.int().min(1);
const Kinds = z.array(z.enum(["planetary", "dct-wet", "dct-dry"])).min(1);

export const FaultsFile = z.object({
  format: z.literal("gearsense-faults"),
  version,
  classes: z.array(
    z.object({
      id: z.string(),
      per: Per,
      group: z.enum(FAULT_GROUPS),
      title: z.string(),
      weight: z.number().positive(),
      silent: z.number().min(0).max(0.9),
      like: z.string().optional(),
      alone: z.literal(true).optional(),
      why: z.string(),
      stays: z.enum(["powered", "unpowered"]).optional(),
      kinds: Kinds.optional(),
    }),
  ),
  unknown: z.object({ title: z.string(), weight: z.number().positive() }),
  nothing: z.object({ title: z.string(), weight: z.number().positive() }),
  several: z.object({
    share: z.number().positive().max(1),
    together: z.array(
      z.object({
        a: z.array(z.string()).min(1),
        b: z.array(z.string()).min(1),
        factor: z.number().positive(),
        why: z.string(),
      }),
    ),
    never: z.array(z.tuple([z.string(), z.string()])),
  }),
});

export const EvidenceFile = z.object({
  format: z.literal("gearsense-evidence"),
  version,
  tables: z.array(
    z.object({
      evidence: z.string(),
      title: z.string(),
      together: z.literal("either").optional(),
      drive: z.literal(true).optional(),
      outcomes: z.array(z.string()).min(2),
      otherwise: Probabilities,
      rows: z.array(Row),
    }),
  ),
});

const Access = z.enum(INTRUSIVENESS);
const Rising = z
  .tuple([z.number().min(0), z.number().min(0), z.number().min(0)])
  .refine(([best, likely, worst]) => best <= likely && likely <= worst, "best, likely, worst have to rise");

/** Numbers of a check or a quick check. */
const Measures = z
  .array(
    z.object({
      id: z.string(),
      name: z.string(),
      unit: z.string(),
      instrument: z.string(),
      window: z.union([
        z.strictObject({ of: z.enum(WINDOWS) }),
        z.strictObject({ from: z.number().optional(), to: z.number().optional() }),
      ]),
      inside: z.string(),
      below: z.string().optional(),
      above: z.string().optional(),
      allOut: z.string().optional(),
      copper: z.literal(true).optional(),
      torque: z.literal(true).optional(),
    }),
  )
  .min(1);

export const ChecksFile = z.object({
  format: z.literal("gearsense-checks"),
  version,
  access: z.record(
    Access,
    z.object({
      minutes: z.number().min(0),
      materialCost: z.number().min(0),
      mishapCost: z.number().min(0),
      gives: z.array(Access),
    }),
  ),
  instruments: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      percent: z.number().min(0),
      fixed: z.number().min(0),
      unit: z.string().max(16).optional(),
    }),
  ),
  checks: z.array(
    z.object({
      id: z.string(),
      per: Per,
      way: z.enum(CHECK_WAYS),
      title: z.string(),
      minutes: z.number().positive(),
      materialCost: z.number().min(0),
      intrusiveness: Access,
      needs: z.array(z.string()),
      how: z.string(),
      record: z.string(),
      port: z.enum(["line", "element", "converter"]).optional(),
      solenoidKind: z.enum(["on-off", "pressure-control"]).optional(),
      repeats: z.string().optional(),
      measures: Measures.optional(),
      kinds: Kinds.optional(),
      cautions: z.array(z.string()),
      outcomes: z.array(z.object({ id: z.string(), label: z.string() })).min(2),
      otherwise: Probabilities,
      rows: z.array(Row).min(1),
    }),
  ),
});

export const RepairsFile = z.object({
  format: z.literal("gearsense-repairs"),
  version,
  fluidPerL: z.number().positive(),
  filterCost: z.number().positive(),
  comebackCost: z.number().min(0),
  secondLookCost: z.number().min(0),
  workmanshipFailure: z.number().min(0).max(0.5),
  repairs: z.array(
    z.object({
      id: z.string(),
      per: Per,
      option: z.enum(OPTION_KINDS),
      title: z.string(),
      kinds: Kinds.optional(),
      hours: Rising,
      partsCost: z.number().min(0),
      after: z.array(z.string()).min(1).optional(),
      refill: z.enum(["pan", "whole"]).optional(),
      sources: z
        .array(
          z.object({
            id: z.string(),
            title: z.string(),
            partsCost: z.number().min(0),
            leadDays: Rising,
            warrantyMonths: z.number().min(0),
            ask: z.literal(true).optional(),
            worth: z.number().positive().max(1.1),
            why: z.string(),
          }),
        )
        .min(2)
        .optional(),
      intrusiveness: Access,
      cures: z
        .array(z.object({ faults: z.array(z.string()).min(1), relation: Relation, p: z.number().gt(0).lt(1) }))
        .min(1),
      cautions: z.array(z.string()),
      costly: z.boolean(),
    }),
  ),
});

export const ObservationsFile = z.object({
  format: z.literal("gearsense-observations"),
  version,
  rungs: z.array(
    z.object({
      id: z.string(),
      title: z.string(),
      why: z.string(),
      minutes: z.number().positive(),
      how: z.string(),
      form: z.enum(["choice", "battery", "leaks", "positions", "misfire"]),
      measures: Measures.optional(),
      cautions: z.array(z.string()),
      kinds: z.array(z.enum(["planetary", "dct-wet", "dct-dry"])).optional(),
      symptoms: z.array(SymptomSchema.shape.kind).optional(),
      leavesOpen: z.string(),
      outcomes: z.array(z.object({ id: z.string(), label: z.string(), abnormal: z.boolean() })).min(2),
      otherwise: Probabilities,
      rows: z.array(Row).min(1),
    }),
  ),
});

export const DebrisFile = z.object({
  format: z.literal("gearsense-debris"),
  version,
  pasteBand: z.array(z.object({ untilKm: z.number().positive(), mostAmount: z.int().min(0).max(3) })).min(1),
  kinds: z.array(
    z.object({
      id: DebrisSchema.shape.kind,
      title: z.string(),
      look: z.string(),
      comesFrom: z
        .array(
          z.enum([
            "steel plates",
            "gears",
            "bearings",
            "bushes",
            "thrust washers",
            "case",
            "pump",
            "pistons",
            "linings",
            "clips",
            "joints",
            "cooler",
            "breather",
          ]),
        )
        .min(1),
      table: z.string().nullable(),
      says: z.string(),
    }),
  ),
});

export const CautionsFile = z.object({
  format: z.literal("gearsense-cautions"),
  version,
  standing: z.string(),
  cautions: z.record(z.string(), z.string()),
  holds: z.array(z.string()),
});

const shares = z.record(z.string(), z.number().positive().max(1));
/** What is looked at on the bench, and what may have broken a unit. */
export const BenchFile = z.object({
  format: z.literal("gearsense-bench"),
  version,
  looks: z.array(
    z.object({
      id: z.string(),
      of: z.enum(LOOK_PLACES),
      name: z.string(),
      options: z.array(z.object({ id: z.string(), label: z.string(), pass: z.boolean() })).min(2),
      kinds: z.array(z.enum(["planetary", "dct-wet", "dct-dry"])).optional(),
    }),
  ),
  converterFindings: z.array(
    z.object({ look: z.string(), option: z.string(), did: z.string(), broke: z.array(z.string()).min(1) }),
  ),
  causes: z.array(
    z.object({
      id: z.string(),
      title: z.string(),
      weight: z.number().positive(),
      remedy: z.string(),
      again: z.string(),
    }),
  ),
  signs: z.array(
    z.object({
      sign: z.string(),
      title: z.string(),
      outcomes: z.array(z.string()).min(2),
      otherwise: shares,
      rows: z.array(z.object({ causes: z.array(z.string()).min(1), p: shares, why: z.string().min(1) })),
      counted: z.record(z.string(), z.object({ units: z.int().min(1), p: shares })).optional(),
    }),
  ),
}) satisfies z.ZodType<BenchKnowledge>;

/** Puts the eight files of `library/knowledge` together. Throws a Zod error that names the place when one is malformed. */
export function parseKnowledge(files: {
  faults: unknown;
  evidence: unknown;
  checks: unknown;
  observations: unknown;
  debris: unknown;
  repairs: unknown;
  cautions: unknown;
  bench: unknown;
}): Knowledge {
  const faults = FaultsFile.parse(files.faults);
  const checks = ChecksFile.parse(files.checks);
  const repairs = RepairsFile.parse(files.repairs);
  const cautions = CautionsFile.parse(files.cautions);
  return {
    version: faults.version,
    faults: faults.classes,
    unknown: faults.unknown,
    nothing: faults.nothing,
    several: faults.several,
    access: checks.access,
    evidence: EvidenceFile.parse(files.evidence).tables,
    instruments: checks.instruments,
    checks: checks.checks,
    rungs: ObservationsFile.parse(files.observations).rungs,
    debris: DebrisFile.parse(files.debris),
    bench: BenchFile.parse(files.bench),
    repairs: repairs.repairs,
    fluidPerL: repairs.fluidPerL,
    filterCost: repairs.filterCost,
    comebackCost: repairs.comebackCost,
    secondLookCost: repairs.secondLookCost,
    workmanshipFailure: repairs.workmanshipFailure,
    cautions: cautions.cautions,
    holds: cautions.holds,
    standingCaution: cautions.standing,
  };
}
