import { type EntryBodies, type EntryKind, FELT_OUTCOMES, outcomesAt } from "@gearsense/core/job";
import { z } from "zod";
import { Day, Filled, FluidC, Id, LogRole, minutes, Text, Timestamp } from "./quantities.ts";
import { WorkBodies } from "./work-entries.ts";

export const SymptomSchema = z.object({
  kind: z.enum(["slip", "harsh", "shudder", "limp", "no-drive", "late", "noise", "leak", "warning-light"]),
  where: z
    .array(z.string().regex(/^(R|\d{1,2})(-(R|\d{1,2}))?$/, 'a gear such as "4" or a shift such as "2-3"'))
    .max(20),
  speedKmh: z.tuple([z.number().min(0).max(320), z.number().min(0).max(320)]).optional(),
  load: z.enum(["any", "light", "steady", "hard", "coast"]),
  temperature: z.enum(["any", "cold", "hot"]),
  since: Text(120),
  afterStart: z.enum(["first-minutes", "later"]).optional(),
  howOften: z.enum(["always", "often", "sometimes", "once"]).optional(),
  helps: Text(120).optional(),
});

const Sure = z.enum(["sure", "fairly", "doubtful"]);
const share = z.number().min(0).max(1);
const PatchSchema = z.object({ x: share, y: share, w: share, h: share });
const Sha256 = z.string().regex(/^[0-9a-f]{64}$/);
export const DebrisSchema = z.object({
  kind: z.enum(["grey-paste", "slivers", "brass", "aluminium", "lining", "clip", "sealant", "water-beads"]),
  amount: z.union([z.literal(0), z.literal(1), z.literal(2), z.literal(3)]),
  sizeMm: z.number().min(0).max(80, "over 80 mm isn’t debris").nullable(),
});

export const IntakeSchema = z.object({
  complaint: Filled(2000, "The complaint"),
  symptoms: z.array(SymptomSchema).max(12),
  doneAlready: Text(1000),
  recentEvents: Text(1000),
  history: z
    .array(
      z.object({
        kind: z.enum(["service", "fluid", "part", "codes-cleared", "battery", "fuse"]),
        what: Text(200),
      }),
    )
    .max(20)
    .optional(),
  events: z
    .array(z.object({ kind: z.enum(["tow", "impact", "flood", "engine-work", "more-power"]), what: Text(200) }))
    .max(20)
    .optional(),
  duty: z
    .array(z.enum(["tow", "taxi", "hills"]))
    .max(3)
    .optional(),
  vehicleValue: z
    .number()
    .min(0, "a value is not negative")
    .max(1e7, "over 10 million is not plausible")
    .nullable()
    .optional(),
  keepYears: z.number().min(0).max(40, "over 40 years is a slip of the finger").nullable().optional(),
  downtimeADay: z.number().min(0).max(1e5).nullable().optional(),
  wish: z.enum(["keep-long", "cheap-and-safe", "quick", "sell-soon", "only-know"]).optional(),
});

/** The body of every kind of entry that a person may write. */
const Money = z.number("an amount is a number").min(0, "an amount is not negative").max(10_000_000);

export const TypedBodies = {
  intake: IntakeSchema,
  identity: z.object({
    name: Filled(120, "The vehicle"),
    plate: Text(20),
    owner: Filled(120, "The owner"),
    vin: Text(24),
    unitId: Filled(60, "The unit"),
    odometerKm: z
      .number("the mileage is a number")
      .min(0, "the mileage cannot be negative")
      .max(3_000_000, "over 3 000 000 km is not plausible"),
    reason: Filled(400, "The reason"),
  }),
  level: z.object({
    state: z.enum(["low", "ok", "high", "not-readable"]),
    method: Filled(80, "How the level was read"),
    fluidC: FluidC("no level is read"),
    litresFromFull: z.number().min(-20).max(20).nullable(),
    engineRunning: z.boolean(),
    otherSideL: z.number().min(-20).max(20).nullable().optional(),
    rangesCycled: z.boolean().optional(),
    minutesSinceFilling: minutes.optional(),
    onLevelGround: z.boolean().optional(),
    minutes: minutes.optional(),
    note: Text(500),
  }),
  fluid: z.object({
    colour: z.enum(["fresh", "amber", "brown", "black", "milky"]),
    smell: z.enum(["none", "varnish", "burnt"]),
    cloudiness: z.enum(["clear", "hazy", "milky", "foamy"]).optional(),
    blot: z.enum(["even", "dark-core", "water-rim", "not-done"]).optional(),
    photo: z
      .object({
        photoId: Id,
        fluid: PatchSchema,
        white: PatchSchema,
        lab: z.tuple([z.number(), z.number(), z.number()]),
        uncertaintyDeltaE: z.number().min(0),
      })
      .optional(),
    note: Text(500),
  }),
  observation: z.object({
    rung: z.string().min(1).max(60),
    title: z.string().max(200),
    outcome: z.string().min(1, "say what was seen").max(60),
    outcomeLabel: z.string().max(160),
    abnormal: z.boolean(),
    method: Text(120),
    sure: Sure,
    values: z.record(z.string().max(40), z.union([z.number(), z.string().max(60)])),
    minutes,
    skipped: Text(400),
    note: Text(1000),
  }),
  pan: z.object({
    drainedL: z.number().min(0, "a volume is not negative").max(30, "over 30 l is in no unit").nullable(),
    drainedC: FluidC("no fluid is drained"),
    spiltL: z.number().min(0, "a volume is not negative").max(10, "over 10 l is a flood").nullable().optional(),
    linesOpened: z.boolean().optional(),
    converterDrained: z.boolean().optional(),
    kmSinceService: z.number().min(0).max(2_000_000).nullable(),
    filter: z.enum(["not-opened", "clean", "lining", "metal", "blocked"]),
    debris: z.array(DebrisSchema).max(8),
    sure: Sure,
    note: Text(1000),
  }),
  photo: z.object({
    photoId: Id,
    sha256: Sha256,
    widthPx: z.int().min(1),
    heightPx: z.int().min(1),
    about: z.enum(["fluid", "pan", "magnet", "filter", "leak", "connector", "other"]),
    caption: Text(200),
    markers: z
      .array(
        z.object({
          x: share,
          y: share,
          text: Text(120),
          shows: z
            .string()
            .regex(/^(debris|leak|connector):[a-z-]{1,40}$/, "a sign such as debris:brass")
            .optional(),
        }),
      )
      .max(20),
  }),
  code: z.object({
    code: z
      .string()
      .trim()
      .toUpperCase()
      .regex(/^[PCBU][0-9A-F]{4}$/, "a code has a letter P, C, B or U and four digits, such as P0730"),
    text: Text(200),
    module: Text(80),
    triage: z.enum(["complaint", "earlier-work", "unclear"]),
    reason: Text(400),
    status: z.enum(["stored", "pending", "permanent"]).optional(),
    freezeFrame: z.record(z.string().max(60), z.string().max(60)).optional(),
  }),
  "codes-read": z.object({ allModules: z.boolean(), note: Text(400) }),
  check: z.object({
    checkId: z.string().max(80),
    component: z.string().max(80),
    title: z.string().max(200),
    outcome: z.string().max(60),
    outcomeLabel: z.string().max(120),
    abnormal: z.boolean(),
    minutes: z.number().min(0).max(6000).nullable(),
    note: Text(1000),
    values: z
      .array(
        z.object({
          name: z.string().max(120),
          unit: z.string().max(12),
          readings: z.array(z.number("a reading is a number")).min(1).max(50),
          instrument: z.string().max(80),
          temperatureC: z.number().min(-60).max(250).optional(),
          torqueNm: z.number().min(0).max(5000).optional(),
          value: z.number(),
          uncertainty: z.number().min(0),
          from: z.number().optional(),
          to: z.number().optional(),
          inside: share,
        }),
      )
      .max(12)
      .optional(),
    weight: z.number().gt(0).max(1).optional(),
  }),
  felt: z.object({
    by: Filled(60, "Whose words these are"),
    sure: Sure,
    marks: z
      .array(
        z
          .object({
            where: z.string().max(20),
            outcome: z.enum(FELT_OUTCOMES),
            load: SymptomSchema.shape.load,
            temperature: SymptomSchema.shape.temperature,
          })
          .refine((m) => outcomesAt(m.where) !== undefined, {
            path: ["where"],
            message: 'a gear such as "4", a shift such as "2-3", P, N or a situation',
          })
          .refine((m) => outcomesAt(m.where)?.includes(m.outcome) ?? true, {
            path: ["outcome"],
            message: "cannot be said of this place",
          }),
      )
      .min(1, "mark at least one gear, shift or situation")
      .max(300),
    note: Text(1000),
  }),
  tried: z.object({
    repairId: z.string().max(80),
    title: z.string().max(200),
    outcome: z.enum(["no-change", "better"]),
    note: Text(1000),
  }),
  "fluid-plan": z.object({
    way: z.enum(["drain-and-fill", "exchange"]),
    times: z.int().min(1).max(20),
    litres: z.number().min(0).max(200),
    fresh: share,
    minutes: z.number().min(0).max(6000),
    cost: z.number().min(0).max(1e6),
    fluid: Text(120),
    intervalKm: z.number().min(0).max(1e6),
    reasons: z.array(Text(200)).max(12),
    followUps: z
      .array(
        z.object({
          what: Filled(200, "The follow-up"),
          dueOn: Day.nullable(),
          dueKm: z.number().min(0).max(5e6).nullable(),
          why: Text(300),
        }),
      )
      .max(12),
    note: Text(500),
    consent: z.object({ choice: z.enum(["change", "leave"]), by: Filled(80, "Who agreed") }).optional(),
  }),
  sources: z.object({
    have: z.array(z.string().max(200)).max(40),
    titles: z.array(z.string().max(300)).max(40).optional(),
    also: z
      .array(z.object({ repairId: z.string().max(200), title: z.string().max(300) }))
      .max(12)
      .optional(),
  }),
  estimate: z.object({
    optionId: z.string().min(1).max(240),
    title: z.string().max(400),
    lines: z
      .array(
        z.object({
          kind: z.enum(["labour", "part", "fluid", "filter", "other"]),
          what: Filled(200, "What the line is for"),
          quantity: z.number("a quantity is a number").min(0, "a quantity is not negative").max(10_000),
          each: z.number("a price is a number").min(-1e6).max(1e6),
        }),
      )
      .min(1, "an estimate needs a line")
      .max(60)
      .refine((lines) => lines.some((l) => l.kind === "labour" && l.quantity > 0), "an estimate needs labour"),
    taxPercent: z.number("tax is a number").min(0).max(60, "over 60 % is a slip of the finger"),
    validDays: z.int().min(1).max(365),
    leadDays: z.number("days are a number").min(0).max(365).nullable().optional(),
    note: Text(1000),
  }),
  decision: z.object({
    repairId: z.string().max(200),
    title: z.string().max(400),
    reason: Filled(1000, "The reason"),
    expectedCost: z.number(),
    cures: z.number().min(0).max(1),
    modelVersion: z.int(),
    odds: z.array(z.object({ title: z.string(), probability: z.number() })).max(8),
    levelKnown: z.boolean(),
    source: z.string().max(60).optional(),
    price: z.tuple([z.number(), z.number(), z.number()]).optional(),
    spread: z.tuple([z.number(), z.number(), z.number()]).optional(),
    seed: z.int().optional(),
  }),
  work: z.object({
    text: Filled(2000, "What was done"),
    minutes: z.number("minutes are a number").min(0).max(20000),
    parts: z
      .array(
        z.object({
          name: Filled(120, "The part"),
          quantity: z.number().min(0).max(1000),
          cost: z.number().min(0).max(1e6),
        }),
      )
      .max(40),
  }),
  ...WorkBodies,
  "road-test": z.object({
    drives: z
      .array(
        z
          .object({
            where: z
              .string()
              .regex(/^((R|\d{1,2})(-(R|\d{1,2}))?)?$/, 'a gear such as "4", a shift such as "2-3", or nothing'),
            times: z.int().min(0).max(500, "more often than 500 times is a slip of the finger"),
            felt: z.int().min(0).max(500, "more often than 500 times is a slip of the finger"),
            load: z.enum(["any", "light", "steady", "hard", "coast"]),
            temperature: z.enum(["any", "cold", "hot"]),
          })
          .refine((d) => d.felt <= d.times, {
            path: ["felt"],
            message: "felt more often than it was driven: check both numbers",
          }),
      )
      .max(40),
    note: Text(1000),
  }),
  proof: z.object({
    beforeLogId: Id.nullable(),
    afterLogId: Id.nullable(),
    sentence: z.string().max(600),
    signedOff: z.array(Text(200)).max(60).optional(),
    notShown: z.array(Text(200)).max(60).optional(),
    note: Text(1000),
  }),
  assigned: z.object({ to: Text(80) }),
  approval: z
    .object({
      optionId: z.string().max(300),
      title: Filled(400, "What is agreed to"),
      net: Money,
      withTax: Money,
      by: Filled(120, "The customer’s name"),
      how: z.enum(["signed", "told"]),
      signature: z
        .array(
          z
            .array(z.number().min(0).max(1000))
            .min(2)
            .max(4000)
            .refine((s) => s.length % 2 === 0, "a stroke is made of pairs"),
        )
        .max(200),
      deposit: Money.nullable(),
      terms: Text(2000),
      note: Text(600),
    })
    .refine((a) => (a.how === "signed") === a.signature.length > 0, {
      path: ["signature"],
      message: "the customer signs in the field",
    })
    .refine((a) => a.signature.reduce((n, s) => n + s.length, 0) <= 20_000, {
      path: ["signature"],
      message: "is too long: clear it and sign again",
    }),
  handover: z.object({
    remarks: Text(2000),
    followUps: z
      .array(
        z.object({
          what: Filled(200, "The follow-up"),
          dueOn: Day.nullable(),
          dueKm: z.number().min(0).max(5e6).nullable(),
        }),
      )
      .max(20),
  }),
  caution: z.object({ about: z.string().max(60), text: z.string().max(600) }),
  note: z.object({
    text: Filled(2000, "The note"),
    span: z.object({ logId: Id, startS: z.number().min(0), endS: z.number().min(0) }).optional(),
  }),
  retraction: z.object({ entryId: Id, reason: Text(400) }),
} satisfies { [K in Exclude<EntryKind, "log" | "analysis">]: z.ZodType<EntryBodies[K]> };

/** Bodies that only the server writes. */
export const ComputedBodies = {
  log: z.object({
    logId: Id,
    fileName: z.string().max(200),
    bytes: z.int().min(0),
    sha256: Sha256,
    role: LogRole,
    label: z.string().max(40).optional(),
  }),
  analysis: z.object({ logId: Id, findings: z.int().min(0), headline: z.string().max(2000) }),
} satisfies { [K in "log" | "analysis"]: z.ZodType<EntryBodies[K]> };

const common = {
  id: Id,
  seq: z.int().min(1).max(1_000_000),
  at: Timestamp,
  author: z.string().min(1).max(120),
  source: z.enum(["typed", "file", "computed"]),
  slot: z.string().max(200),
};

const entry = <K extends EntryKind>(kind: K, body: z.ZodType<EntryBodies[K]>) =>
  z.object({ ...common, kind: z.literal(kind), body });

const Bodies: { readonly [K in EntryKind]: z.ZodType<EntryBodies[K]> } = { ...TypedBodies, ...ComputedBodies };
const kinds = (Object.keys(Bodies) as EntryKind[]).map((kind) => entry(kind, Bodies[kind])) as unknown as [
  { [K in EntryKind]: ReturnType<typeof entry<K>> }[EntryKind],
];

export const EntrySchema = z.discriminatedUnion("kind", kinds).meta({ id: "Entry" });
