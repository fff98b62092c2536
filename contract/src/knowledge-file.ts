import { INTRUSIVENESS, type Knowledge } from "@gearsense/core/suspect";
import { z } from "zod";
import { DebrisSchema, SymptomSchema } from "./entries.ts";

const Per = z.enum([
  "friction-element",
  "dual-clutch",
  "fork",
  "solenoid",
  "element-solenoid",
  "speed-sensor",
  "signal-net",
  "supply-net",
  "converter",
  "unit",
]);
const Relation = z.enum([
  "any",
  "same",
  "other",
  "carries",
  "on-coming",
  "off-going",
  "feeds",
  "about",
  "converter-solenoid",
]);
const Probabilities = z.record(z.string(), z.number().min(0).max(1));
const Row = z.object({
  faults: z.array(z.string()).min(1),
  relation: Relation,
  p: Probabilities,
  why: z.string().optional(),
});
const version = z.int().min(1);

export const FaultsFile = z.object({
  format: z.literal("gearsense-faults"),
  version,
  classes: z.array(
    z.object({ id: z.string(), per: Per, title: z.string(), weight: z.number().positive(), why: z.string() }),
  ),
  unknown: z.object({ title: z.string(), weight: z.number().positive() }),
});

export const EvidenceFile = z.object({
  format: z.literal("gearsense-evidence"),
  version,
  tables: z.array(
    z.object({
      evidence: z.string(),
      title: z.string(),
      outcomes: z.array(z.string()).min(2),
      otherwise: Probabilities,
      rows: z.array(Row),
    }),
  ),
});

const Access = z.enum(INTRUSIVENESS);

export const ChecksFile = z.object({
  format: z.literal("gearsense-checks"),
  version,
  checks: z.array(
    z.object({
      id: z.string(),
      per: Per,
      title: z.string(),
      minutes: z.number().positive(),
      materialCost: z.number().min(0),
      intrusiveness: Access,
      how: z.string(),
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
  comebackCost: z.number().min(0),
  repairs: z.array(
    z.object({
      id: z.string(),
      per: Per,
      title: z.string(),
      hours: z.tuple([z.number(), z.number(), z.number()]),
      partsCost: z.number().min(0),
      intrusiveness: Access,
      cures: z
        .array(z.object({ faults: z.array(z.string()).min(1), relation: Relation, p: z.number().gt(0).max(1) }))
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
});

/** Puts the seven files of `library/knowledge` together. Throws a Zod error that names the place when one is malformed. */
export function parseKnowledge(files: {
  faults: unknown;
  evidence: unknown;
  checks: unknown;
  observations: unknown;
  debris: unknown;
  repairs: unknown;
  cautions: unknown;
}): Knowledge {
  const faults = FaultsFile.parse(files.faults);
  const repairs = RepairsFile.parse(files.repairs);
  const cautions = CautionsFile.parse(files.cautions);
  return {
    version: faults.version,
    faults: faults.classes,
    unknown: faults.unknown,
    evidence: EvidenceFile.parse(files.evidence).tables,
    checks: ChecksFile.parse(files.checks).checks,
    rungs: ObservationsFile.parse(files.observations).rungs,
    debris: DebrisFile.parse(files.debris),
    repairs: repairs.repairs,
    comebackCost: repairs.comebackCost,
    cautions: cautions.cautions,
    standingCaution: cautions.standing,
  };
}
