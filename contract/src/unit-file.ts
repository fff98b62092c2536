import { gearStates, PAN_SEALS, RELEARN_KINDS, RELEARN_POLICIES, TRAY_KINDS, type Unit } from "@gearsense/core/unit";
import { z } from "zod";
import { Span } from "./quantities.ts";

const name = z.string().min(1).max(120);
const id = z.string().regex(/^[A-Za-z][\w-]{0,39}$/, "letters, digits, - and _ only");
const SolenoidState = z.enum(["on", "off", "modulated"]);
const seconds = z.number().min(0).max(10);
const UsualTimes = z.object({ coldS: seconds.optional(), warmS: seconds.optional() });
const ShiftLimit = z.object({ inertiaS: Span, flareRpm: z.number().min(0), delayS: z.number().min(0) });

const Node = z.string().regex(/^[A-Za-z][\w]{0,30}(\.(sun|ring|carrier))?$/, "a node such as input, case, P1.sun");
const Joins = z.tuple([Node, Node]);
const teeth = z.int().min(8).max(250);
const GearTrain = z.object({
  sets: z
    .array(
      z.object({
        id,
        kind: z.enum(["single", "double"]),
        sunTeeth: teeth,
        ringTeeth: teeth,
        planets: z.int().min(2).max(7),
      }),
    )
    .max(8),
  pairs: z
    .array(
      z.object({
        id,
        driver: Node,
        driven: Node,
        driverTeeth: teeth,
        drivenTeeth: teeth,
        idler: z.boolean().optional(),
      }),
    )
    .max(20)
    .optional(),
  links: z.array(Joins).max(40),
});
/**
 * What a unit can have, with room to spare: the largest of ours has 10 gears, 7 elements and 11 solenoids. Judging takes time
 * by their products.
 */
export const MOST_OF_A_UNIT = {
  gears: 16,
  elements: 24,
  solenoids: 24,
  sensors: 16,
  nets: 60,
  connects: 40,
  codes: 200,
  components: 40,
  rows: 60,
  shifts: 300,
} as const;
const MOST = MOST_OF_A_UNIT;
/** A record with at most so many keys. */
const few = <S extends z.ZodType<Record<string, unknown>>>(record: S, most: number): S =>
  record.refine((r) => Object.keys(r).length <= most, `has over ${most} rows`) as S;
const words = (max: number) => z.array(z.string().min(1).max(300)).max(max);

const say = z.string().min(1).max(300);
const LiveChannel = z.string().regex(/^[a-z][A-Za-z0-9_]{0,59}$/, "a channel such as fluid_c");
const AnySpan = z
  .tuple([z.number(), z.number()])
  .refine(([low, high]) => low <= high, "runs from the smaller to the larger");
const LiveConditionFile = z
  .object({ say, channel: LiveChannel, between: AnySpan.optional(), is: z.array(z.string().max(16)).max(8).optional() })
  .refine((c) => (c.between === undefined) !== (c.is === undefined), "needs either between or is");
const DriveWindowFile = z.object({
  shift: z.string().regex(/^(stop|\d{1,2}-\d{1,2})$/, 'a shift such as "3-4", or "stop"'),
  foot: z.string().min(1).max(60),
  pedalPct: AnySpan,
  kmh: AnySpan.optional(),
  fluidC: AnySpan.optional(),
  times: z.int().min(1).max(50),
});
const stageS = z.number().min(0).max(7200);
/** A procedure as a control unit goes through it. */
const RelearnMachineFile = z.object({
  kind: z.enum(RELEARN_KINDS),
  policy: z.enum(RELEARN_POLICIES),
  afterRepairs: z.array(z.string().min(1).max(60)).max(40),
  why: say,
  whyNot: say,
  resets: z.boolean(),
  routine: z
    .string()
    .regex(/^0x[0-9A-Fa-f]{4}$/, 'write it as "0x0301"')
    .optional(),
  preconditions: z.array(LiveConditionFile).max(20),
  guards: z.array(LiveConditionFile.and(z.object({ broken: say }))).max(20),
  stages: z
    .array(
      z.object({
        id,
        do: z.enum(["start", "shift", "hold", "wait", "drive", "stop", "read", "write"]),
        say,
        until: z.array(LiveConditionFile).max(10).optional(),
        forS: stageS.optional(),
        withinS: stageS.optional(),
        windows: z.array(DriveWindowFile).min(1).max(40).optional(),
      }),
    )
    .min(1)
    .max(40),
  results: z
    .array(z.object({ code: z.int().min(0).max(255), say, next: say, ends: z.enum(["done", "again", "repair"]) }))
    .min(1)
    .max(40),
  repeats: z.int().min(1).max(20),
});

const mm = z.number("millimetres are a number").positive().max(2000);
/** From the smaller to the larger, both lengths. */
const MmSpan = z.tuple([mm, mm]);
const SelectivePart = z.object({
  kind: z.enum(["ring", "plate", "shim", "washer"]),
  sizesMm: z.array(mm).min(1).max(40),
  toleranceMm: z.number().min(0).max(1),
  costEach: z.number().min(0).max(10_000),
});
const PackLimits = z.object({
  clearanceMm: Span,
  frictionPlateMinMm: z.number().positive(),
  steelPlateMinMm: z.number().positive(),
  frictionPlateNewMm: mm.optional(),
  steelPlateNewMm: mm.optional(),
  steels: z.int().min(0).max(20).optional(),
  depthMm: mm.optional(),
  fixedPlates: z
    .array(z.object({ name: z.string().min(1).max(60), thicknessMm: mm }))
    .max(6)
    .optional(),
  selective: SelectivePart.optional(),
  targetMm: mm.optional(),
  innerRadiusMm: mm.optional(),
  outerRadiusMm: mm.optional(),
  friction: z.number().positive().max(1).optional(),
  taperMostMm: mm.optional(),
  springFreeMm: MmSpan.optional(),
});
const kpa = z.number().min(0).max(10_000);
/** Windows of the bench that belong to no single pack. */
const UnitBenchFile = z.object({
  endPlays: z
    .array(z.object({ id, name, windowMm: MmSpan, load: z.string().min(1).max(200), washer: SelectivePart }))
    .max(8)
    .optional(),
  linePressure: z
    .array(
      z.object({
        range: z.string().min(1).max(6),
        idleKpa: z.tuple([kpa, kpa]),
        stallKpa: z.tuple([kpa, kpa]).optional(),
      }),
    )
    .max(10)
    .optional(),
  springTolerancePct: z.number().positive().max(50).optional(),
  plateWearMostMm: mm.optional(),
  orifices: z
    .array(z.object({ id, name, diameterMm: mm }))
    .max(40)
    .optional(),
  dualClutches: z
    .array(
      z.object({
        clutch: id,
        diaphragmMm: MmSpan,
        packHeightMm: MmSpan,
        freePlayMm: z.tuple([z.number().min(0), mm]),
        touchKpaPerMm: z.number().min(-1000).max(1000),
      }),
    )
    .max(4)
    .optional(),
  forkTravelMm: few(z.record(z.string(), MmSpan), 12).optional(),
  breakInKm: z.number().min(0).max(5000).optional(),
});
const ConverterFitFile = z.object({
  flexplateMm: MmSpan,
  pilotDiameterMm: MmSpan,
  pilotBoreMm: MmSpan,
  pilotLengthMm: MmSpan,
  pilotRoomMm: MmSpan,
  pumpEngagedMm: MmSpan,
  pumpEngagedLeastMm: mm,
  boltCircleMm: mm,
  padThreadMm: mm,
});
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
    gears: z
      .array(z.object({ name: z.string().regex(/^(R|\d{1,2})$/), ratio: z.number() }))
      .min(3)
      .max(MOST.gears),
    finalDrive: z.number().positive(),
    tyreRadiusM: z.number().positive().max(2),
    elements: z
      .array(
        z.object({
          id,
          name,
          kind: z.enum(["clutch", "brake", "band", "one-way-clutch", "dual-clutch", "fork"]),
          plates: z.int().min(1).optional(),
          joins: Joins.optional(),
          positions: few(z.record(z.string(), Joins), MOST.gears).optional(),
          bench: PackLimits.optional(),
          apply: z
            .object({
              areaCm2: z.number().positive(),
              returnSpringN: z.number().min(0),
              meanRadiusMm: z.number().positive(),
            })
            .optional(),
        }),
      )
      .min(2)
      .max(MOST.elements),
    application: few(
      z.record(
        z.string(),
        z
          .array(z.object({ element: id, driveOnly: z.boolean().optional(), towards: z.string().optional() }))
          .max(MOST.elements),
      ),
      MOST.rows,
    ),
    solenoids: z
      .array(
        z.object({
          id,
          name,
          kind: z.enum(["on-off", "pressure-control"]),
          feeds: z.string(),
          resistanceOhmAt20C: Span,
          unpoweredState: z.enum(["applied", "released"]),
        }),
      )
      .max(MOST.solenoids),
    solenoidChart: few(z.record(z.string(), few(z.record(z.string(), SolenoidState), MOST.solenoids)), MOST.rows),
    neutral: z.array(id).max(MOST.elements).optional(),
    limp: z.object({ gear: z.string(), linePressureKpa: z.number().positive().optional() }),
    converter: z
      .object({
        stallTorqueRatio: z.number().min(1).max(4),
        stallRpm: z.number().positive(),
        clutchGears: z.array(z.string()).max(MOST.gears),
        strategy: z.enum(["locked", "controlled-slip"]),
        targetSlipRpm: z.number().min(0),
        stallTorqueNm: z.number().positive().optional(),
        couplingSpeedRatio: z.number().min(0.6).max(0.98).optional(),
        clutchLining: z.enum(["paper", "woven-carbon", "sintered"]).optional(),
        pumpDrive: z.enum(["hub", "chain"]).optional(),
        capacityL: z.number().positive().optional(),
        drainedL: z.number().min(0).optional(),
        homeDepthMm: Span.optional(),
        pullUpMm: Span.optional(),
        fit: ConverterFitFile.optional(),
      })
      .optional(),
    gearTrain: GearTrain.optional(),
    sensors: z
      .array(
        z.object({
          id,
          name,
          channel: z.string(),
          teeth: z.int().min(1).optional(),
          shaft: z.string().optional(),
          perInput: few(z.record(z.string(), z.number().min(0)), MOST.gears).optional(),
          validGears: z.union([z.literal("all"), z.array(z.string()).max(MOST.gears)]),
        }),
      )
      .max(MOST.sensors),
    nets: z
      .array(
        z.object({
          id,
          name,
          kind: z.enum(["supply", "ground", "signal"]),
          connects: z.array(id).max(MOST.connects),
          pins: z.string(),
          wires: z.string().max(60).optional(),
          volts: z.number().positive().max(60).optional(),
        }),
      )
      .max(MOST.nets),
    testPorts: z.array(z.string().max(40)).max(40).optional(),
    codes: z
      .array(
        z.object({
          code: z.string().regex(/^[PCBU]\d[0-9A-F]{3}$/),
          text: name,
          components: z.array(z.string()).max(MOST.components),
          ofSignal: z.boolean().optional(),
          condition: z.string().max(200).optional(),
        }),
      )
      .max(MOST.codes),
    limits: z.object({
      slipRpm: z.number().positive().optional(),
      ratioTolerancePct: z.number().positive().optional(),
      residualSlipRpm: z.number().positive().optional(),
      shudderPeakToPeakRpm: z.number().positive().optional(),
      shiftDefault: ShiftLimit.optional(),
      shifts: few(z.record(z.string(), ShiftLimit), MOST.shifts).optional(),
      engagementDelayS: z.number().positive().optional(),
    }),
    usual: z
      .object({
        shifts: few(z.record(z.string(), z.object({ delay: UsualTimes, inertia: UsualTimes })), MOST.shifts).optional(),
        engagements: z.object({ D: UsualTimes.optional(), R: UsualTimes.optional() }).optional(),
      })
      .optional(),
    fluid: z.object({
      spec: name,
      totalL: z.number().positive(),
      panDrainL: z.number().positive(),
      panSeal: z.enum(PAN_SEALS).optional(),
      converterL: z.number().min(0).optional(),
      coolerL: z.number().min(0).optional(),
      fillSteps: words(12).optional(),
      level: z.object({
        method: z.enum(["dipstick", "overflow", "sight-hole"]),
        referenceC: z.number(),
        windowC: Span,
        toleranceL: z.number().positive(),
        stick: z
          .object({ addToFullL: z.number().positive().max(3), coldMarkC: z.number().min(-20).max(60) })
          .optional(),
        steps: z.string().max(600),
      }),
      intervalKm: z.number().positive(),
      hotDrivingMin: z.number().min(0).max(600).optional(),
      freshLab: z
        .tuple([z.number().min(0).max(100), z.number().min(-120).max(120), z.number().min(-120).max(120)])
        .optional(),
    }),
    fasteners: z
      .array(
        z.object({
          id,
          name,
          thread: z.string().max(30),
          lengthMm: z.number().positive(),
          count: z.int().min(1).max(60),
          torqueNm: z.number().positive(),
          angleDeg: z.number().positive().max(360).optional(),
          positionsMm: z.array(Span).max(60).optional(),
          order: z.array(z.int().min(0)).max(60).optional(),
          oneTime: z.boolean().optional(),
        }),
      )
      .max(40)
      .optional(),
    trays: z
      .array(
        z.object({
          id,
          name,
          cells: z
            .array(
              z.object({
                id,
                name,
                kind: z.enum(TRAY_KINDS),
                atMm: Span,
                lengthMm: z.number().positive().optional(),
                note: z.string().max(120).optional(),
              }),
            )
            .max(120),
        }),
      )
      .max(8)
      .optional(),
    bench: UnitBenchFile.optional(),
    adaptations: z
      .array(z.object({ id, name, component: id, unit: z.string().max(12), newValue: z.number(), limits: Span }))
      .max(60)
      .optional(),
    relearn: z
      .array(
        z.object({
          id,
          name,
          after: words(12),
          needs: words(12),
          steps: words(30),
          machine: RelearnMachineFile.optional(),
        }),
      )
      .max(12)
      .optional(),
  })
  .meta({ id: "UnitFile" }) satisfies z.ZodType<Unit>;

/** What the solver needs of a unit file; ratios may still be missing. */
export const TrainParts = UnitFile.pick({ elements: true, application: true, gearTrain: true }).extend({
  gears: z.array(z.object({ name: z.string(), ratio: z.number().optional() })),
});

/**
 * A unit file as it is written: a gear without a ratio gets that of its teeth, rounded to four decimals. What the train
 * does not give stays missing, for the schema to name.
 */
export function withRatios(file: unknown): unknown {
  const parts = TrainParts.safeParse(file);
  if (!parts.success || parts.data.gears.every((g) => g.ratio !== undefined)) return file;
  const states = gearStates(parts.data) ?? [];
  const gears = parts.data.gears.map((g) => {
    const state = states.find((s) => s.gear === g.name)?.state;
    return g.ratio === undefined && state?.kind === "gear" ? { ...g, ratio: Math.round(state.ratio * 1e4) / 1e4 } : g;
  });
  return { ...(file as object), gears };
}

/** A unit file whose ratios may be left to its teeth. */
export const WrittenUnitFile = z.preprocess(withRatios, UnitFile);
