import type { Unit } from "@gearsense/core/unit";
import { z } from "zod";
import { Span } from "./quantities.ts";

const name = z.string().min(1).max(120);
const id = z.string().regex(/^[A-Za-z][\w-]{0,39}$/, "letters, digits, - and _ only");
const SolenoidState = z.enum(["on", "off", "modulated"]);
const ShiftLimit = z.object({ inertiaS: Span, flareRpm: z.number().min(0), delayS: z.number().min(0) });

/** `*.unit.json`: what the program knows about one kind of transmission. */
export const UnitFile = z
  .object({
    format: z.literal("gearsense-unit"),
    formatVersion: z.literal(1),
    id,
    version: z.int().min(1),
    name,
    kind: z.enum(["planetary", "dct-wet", "dct-dry"]),
    layout: z.enum(["longitudinal", "transverse"]),
    description: z.string().max(600),
    maxInputTorqueNm: z.number().positive().max(5000),
    gears: z.array(z.object({ name: z.string().regex(/^(R|\d{1,2})$/), ratio: z.number() })).min(3),
    finalDrive: z.number().positive(),
    tyreRadiusM: z.number().positive().max(2),
    elements: z
      .array(
        z.object({
          id,
          name,
          kind: z.enum(["clutch", "brake", "band", "one-way-clutch", "dual-clutch", "fork"]),
          plates: z.int().min(1).optional(),
        }),
      )
      .min(2),
    application: z.record(
      z.string(),
      z.array(z.object({ element: id, driveOnly: z.boolean().optional(), towards: z.string().optional() })),
    ),
    solenoids: z.array(
      z.object({
        id,
        name,
        kind: z.enum(["on-off", "pressure-control"]),
        feeds: z.string(),
        resistanceOhmAt20C: Span,
        unpoweredState: z.enum(["applied", "released"]),
      }),
    ),
    solenoidChart: z.record(z.string(), z.record(z.string(), SolenoidState)),
    limp: z.object({ gear: z.string(), linePressureKpa: z.number().positive().optional() }),
    converter: z
      .object({
        stallTorqueRatio: z.number().min(1).max(4),
        stallRpm: z.number().positive(),
        clutchGears: z.array(z.string()),
        strategy: z.enum(["locked", "controlled-slip"]),
        targetSlipRpm: z.number().min(0),
      })
      .optional(),
    sensors: z.array(
      z.object({
        id,
        name,
        channel: z.string(),
        teeth: z.int().min(1).optional(),
        validGears: z.union([z.literal("all"), z.array(z.string())]),
      }),
    ),
    nets: z.array(
      z.object({ id, name, kind: z.enum(["supply", "ground", "signal"]), connects: z.array(id), pins: z.string() }),
    ),
    codes: z.array(
      z.object({ code: z.string().regex(/^[PCBU]\d[0-9A-F]{3}$/), text: name, components: z.array(z.string()) }),
    ),
    limits: z.object({
      slipRpm: z.number().positive().optional(),
      ratioTolerancePct: z.number().positive().optional(),
      residualSlipRpm: z.number().positive().optional(),
      shudderPeakToPeakRpm: z.number().positive().optional(),
      shiftDefault: ShiftLimit.optional(),
      shifts: z.record(z.string(), ShiftLimit).optional(),
    }),
    fluid: z.object({
      spec: name,
      totalL: z.number().positive(),
      panDrainL: z.number().positive(),
      level: z.object({
        method: z.enum(["dipstick", "overflow", "sight-hole"]),
        referenceC: z.number(),
        windowC: Span,
        toleranceL: z.number().positive(),
        steps: z.string().max(600),
      }),
      intervalKm: z.number().positive(),
    }),
  })
  .meta({ id: "UnitFile" }) satisfies z.ZodType<Unit>;
