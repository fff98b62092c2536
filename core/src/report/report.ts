import { aftercareOf, chosenParts, type StackDrawing, UNKNOWN_CAUSE } from "../bench/index.ts";
import type { Analysis, Comparison, FeltProof, Finding } from "../drive/index.ts";
import { feltSentence } from "../drive/index.ts";
import { deltaE2000, fillState } from "../fluid/index.ts";
import { type EntryBodies, type JobState, type MeasuredValue, SYMPTOM_WORDS } from "../job/index.ts";
import type { Cause } from "../knowledge/index.ts";
import { QUANTITIES } from "../measure/index.ts";
import { feltText } from "../observe/index.ts";
import { formatQuantity, formatRange, percent, toDisplay, type UnitSystem, unitLabel } from "../quantity/index.ts";
import type { Ranking } from "../suspect/index.ts";
import type { Unit } from "../unit/index.ts";
import { estimateAgainst } from "./against.ts";
import { agreedPrice } from "./agreed.ts";
import { approvalLines, approvalNow } from "./approval.ts";

export interface ReportInput {
  readonly shopName: string;
  readonly currency: string;
  readonly jobNumber: string;
  readonly openedOn: string;
  readonly vehicle: { readonly name: string; readonly plate: string; readonly owner: string };
  readonly odometerKm: number;
  readonly unit: Unit;
  readonly state: JobState;
  readonly before: Analysis | undefined;
  readonly after: Analysis | undefined;
  readonly comparison: Comparison | undefined;
  /** what a road test without a log proved, complaint by complaint */
  readonly felt?: readonly FeltProof[] | undefined;
  readonly ranking: Ranking | undefined;
  /** of the library, for what would break it again */
  readonly causes?: readonly Cause[] | undefined;
  readonly system: UnitSystem;
  readonly standingCaution: string;
}

export interface ReportTable {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly string[])[];
}

export interface ReportSection {
  readonly id: string;
  readonly title: string;
  readonly paragraphs: readonly string[];
  readonly table?: ReportTable | undefined;
  /** strokes of a hand under the paragraphs: x, y, x, y … in thousandths of the width */
  readonly signature?: readonly (readonly number[])[] | undefined;
  /** stack-ups, drawn to scale under the paragraphs */
  readonly drawings?: readonly StackDrawing[] | undefined;
}

/** One pair of bars of the before/after picture. */
export interface BeforeAfterBar {
  readonly label: string;
  readonly finding: string;
  readonly before: number;
  readonly after: number | undefined;
  readonly limit: number | undefined;
  readonly beforeText: string;
  readonly afterText: string;
  readonly unit: string;
}

export interface Report {
  readonly title: string;
  readonly subtitle: string;
  readonly sections: readonly ReportSection[];
  readonly bars: readonly BeforeAfterBar[];
  /** shown in the section of the photos; at most six */
  readonly photos?: readonly { readonly photoId: string; readonly caption: string }[] | undefined;
  readonly caution: string;
}

/** Conditions of a finding in one line. */
export function conditionsText(f: Finding, system: UnitSystem): string {
  const parts: string[] = [];
  if (f.conditions.gears.length > 0) parts.push(`gear ${f.conditions.gears.join(", ")}`);
  if (f.conditions.torqueNm)
    parts.push(formatRange(f.conditions.torqueNm[0], f.conditions.torqueNm[1], "torque", system));
  if (f.conditions.fluidC)
    parts.push(formatRange(f.conditions.fluidC[0], f.conditions.fluidC[1], "temperature", system));
  if (f.conditions.vehicleKmh)
    parts.push(formatRange(f.conditions.vehicleKmh[0], f.conditions.vehicleKmh[1], "vehicle-speed", system));
  return parts.join(" · ");
}

/** The measures of a finding in one line, the judged one first. */
export function measuresText(f: Finding, system: UnitSystem): string {
  return f.measures.map((m) => `${m.name} ${formatQuantity(m.value, m.quantity, system).text}`).join(", ");
}

export function limitText(f: Finding, system: UnitSystem): string {
  return f.limit ? `${formatQuantity(f.limit.value, f.limit.quantity, system).text} (${f.limit.source})` : "–";
}

/** Photos that a report shows. */
export const REPORT_PHOTOS = 6;

/** Which photos a report shows: those with a caption or a mark first, then the newest; as they were taken. */
function shownPhotos(photos: JobState["photos"]): JobState["photos"] {
  const told = ({ body }: JobState["photos"][number]) => Number(body.caption !== "" || body.markers.length > 0);
  const chosen = [...photos].sort((a, b) => told(b) - told(a) || b.seq - a.seq).slice(0, REPORT_PHOTOS);
  return photos.filter((p) => chosen.includes(p));
}

const AMOUNTS = ["no", "a trace of", "some", "much"] as const;

const happened = (label: string, list: readonly { readonly kind: string; readonly what: string }[] | undefined) =>
  list !== undefined &&
  list.length > 0 &&
  `${label}: ${list.map((h) => h.what || h.kind.replace("-", " ")).join("; ")}`;

/** What the photo of the fluid measured beside white paper. */
function fluidPhotoText(unit: Unit, { photo }: EntryBodies["fluid"]): string {
  if (!photo) return "";
  const fresh = unit.fluid.freshLab;
  return fresh
    ? ` In the photo its colour is ΔE ${deltaE2000(fresh, photo.lab).toFixed(0)} ± ${photo.uncertaintyDeltaE.toFixed(0)} from fresh.`
    : ` Its colour in the photo: L* ${photo.lab[0].toFixed(0)}, a* ${photo.lab[1].toFixed(0)}, b* ${photo.lab[2].toFixed(0)}.`;
}

/** "Clearance of the pack 2.59 ± 0.08 mm (0.9 to 1.8), feeler gauge": with two standard uncertainties. */
function valueText(v: MeasuredValue, system: UnitSystem): string {
  const quantity = QUANTITIES[v.unit];
  const n = (x: number) => String(Number((quantity ? toDisplay(x, quantity, system) : x).toPrecision(3)));
  const limits = [v.from === undefined ? "" : `from ${n(v.from)}`, v.to === undefined ? "" : `to ${n(v.to)}`];
  return `${v.name} ${n(v.value)} ± ${n(2 * v.uncertainty)} ${quantity ? unitLabel(quantity, system) : v.unit} (${limits.filter(Boolean).join(" ")}), ${v.instrument.toLowerCase()}`;
}

/** Pairs of bars for the conditions that both drives met, at most eight, worst first. */
export function beforeAfterBars(comparison: Comparison, system: UnitSystem): BeforeAfterBar[] {
  return comparison.findings
    .flatMap((f) =>
      f.groups.map((g): BeforeAfterBar => {
        const before = formatQuantity(g.before, f.quantity, system);
        return {
          label: g.label,
          finding: f.title,
          before: g.before,
          after: g.after,
          limit: f.limit,
          beforeText: before.text,
          afterText: g.after === undefined ? "not driven" : formatQuantity(g.after, f.quantity, system).text,
          unit: before.unit,
        };
      }),
    )
    .filter((b) => b.unit === "rpm")
    .sort((a, b) => Math.abs(b.before) - Math.abs(a.before))
    .slice(0, 8);
}

/** What was chosen, what broke the unit and would again, and how it is driven at first. */
function benchParagraphs({ state, unit, system, causes = [] }: ReportInput): (string | false | undefined)[] {
  const parts = chosenParts(state);
  const cause = state.bench.find((e) => e.body.place === "cause");
  const named = cause?.body.looks.find((l) => l.id === "cause");
  const known = causes.find((c) => c.id === named?.outcome);
  const { breakInKm, watch } = aftercareOf(unit, state);
  return [
    state.bench.length > 0 &&
      `Measured and seen at ${state.bench.filter((e) => e.body.place !== "cause").length} places; every value stands in the build record.`,
    parts.length > 0 && `Chosen by measure: ${parts.map((p) => `${p.quantity} × ${p.name}`).join("; ")}.`,
    named &&
      (named.outcome === UNKNOWN_CAUSE
        ? "What broke it: can’t tell from what was found."
        : `What broke it: ${named.label}.${cause?.body.note ? ` ${cause.body.note}` : ""}`),
    known && `What would break it again: ${known.again}`,
    breakInKm !== undefined &&
      `Drive it gently for the first ${formatQuantity(breakInKm, "distance", system).text}: no full pedal, no towing.`,
    watch.length > 0 && `To be watched: ${watch.join("; ")}.`,
  ];
}

/** What the control unit had learned, and what a relearn has made of it. */
function relearnSection(
  { state, unit }: ReportInput,
  add: (id: string, title: string, paragraphs: (string | false | undefined)[], table?: ReportTable) => void,
): void {
  const last = state.relearns.at(-1)?.body;
  if (!last) return;
  const tries = state.relearns.filter((r) => r.body.procedureId === last.procedureId).length;
  const value = (v: number | undefined) => (v === undefined ? "–" : String(v));
  add(
    "relearn",
    "Relearn",
    [
      `${last.title}: ${last.say}.${last.outcome === "done" ? "" : ` ${last.next}`}`,
      tries > 1 && `Started ${tries} times.`,
      last.how === "typed" && "Done with another tool, values typed.",
    ],
    {
      columns: ["Learned value", "Before", "After", "Limits"],
      rows: (unit.adaptations ?? [])
        .filter((a) => last.before[a.id] !== undefined || last.after[a.id] !== undefined)
        .map((a) => [
          a.name,
          value(last.before[a.id]),
          value(last.after[a.id]),
          `${a.limits[0]} to ${a.limits[1]} ${a.unit}`,
        ]),
    },
  );
}

/** The report of a job: a view of its timeline and of what was computed from its logs. Pure; times come in as text. */
export function buildReport(input: ReportInput): Report {
  const { state, system, unit } = input;
  const sections: ReportSection[] = [];
  const add = (id: string, title: string, paragraphs: (string | false | undefined)[], table?: ReportTable) => {
    const kept = paragraphs.filter((p): p is string => Boolean(p));
    if (kept.length > 0 || (table && table.rows.length > 0)) sections.push({ id, title, paragraphs: kept, table });
  };
  const { intake, level, fluid } = state;
  if (intake) {
    const symptoms = intake.body.symptoms.map((s) => {
      const where = s.where.length > 0 ? ` in ${s.where.join(", ")}` : "";
      const load = s.load === "any" ? "" : `, ${s.load} load`;
      const temp = s.temperature === "any" ? "" : `, ${s.temperature}`;
      const speed = s.speedKmh ? `, ${formatRange(s.speedKmh[0], s.speedKmh[1], "vehicle-speed", system)}` : "";
      return `${SYMPTOM_WORDS[s.kind]}${where}${load}${temp}${speed}${s.since ? `, since ${s.since.replace(/^since\s+/i, "")}` : ""}`;
    });
    add("complaint", "Complaint", [
      `“${intake.body.complaint}”`,
      symptoms.length > 0 && `In detail: ${symptoms.join("; ")}.`,
      intake.body.doneAlready && `Done already: ${intake.body.doneAlready}`,
      intake.body.recentEvents && `Recent events: ${intake.body.recentEvents}`,
      happened("Before", intake.body.history),
      happened("Events", intake.body.events),
    ]);
  }
  const levelWords = { ok: "correct", low: "low", high: "overfilled", "not-readable": "not readable" } as const;
  add(
    "first-look",
    "First look",
    [
      level
        ? `Fluid level ${levelWords[level.body.state]}${level.body.litresFromFull ? ` (${formatQuantity(level.body.litresFromFull, "volume", system).text} from full)` : ""}, read by ${level.body.method}${level.body.fluidC === null ? "" : ` at ${formatQuantity(level.body.fluidC, "temperature", system).text}`}${level.body.engineRunning ? ", engine running" : ", engine off"}.`
        : "The fluid level was not recorded.",
      fluid && `Fluid ${fluid.body.colour}, smell: ${fluid.body.smell}.${fluidPhotoText(unit, fluid.body)}`,
      ...state.observations.map(({ body }) =>
        body.skipped
          ? `${body.title}: not looked at (${body.skipped}).`
          : `${body.title}: ${body.outcomeLabel}${body.sure === "sure" ? "" : ` (${body.sure})`}.`,
      ),
      state.codesRead && state.codes.length === 0 && "Codes read: none stored.",
    ],
    state.codes.length > 0
      ? {
          columns: ["Code", "Meaning", "Freeze frame", "Triage", "Reason"],
          rows: state.codes.map((c) => [
            c.body.module ? `${c.body.code}, ${c.body.module}` : c.body.code,
            c.body.text,
            Object.entries(c.body.freezeFrame ?? {})
              .map(([name, value]) => `${name} ${value}`)
              .join("; "),
            c.body.triage.replace("-", " "),
            c.body.reason,
          ]),
        }
      : undefined,
  );
  if (state.photos.length > 0)
    add("photos", "Photos", [], {
      columns: ["Photo of", "Caption", "Marked"],
      rows: state.photos.map(({ body }) => [body.about, body.caption, body.markers.map((m) => m.text).join("; ")]),
    });
  const { pan } = state;
  if (pan) {
    const seen = pan.body.debris.filter((d) => d.amount > 0);
    add("pan", "Pan", [
      pan.body.drainedL === null
        ? "The drained volume was not measured."
        : `Drained ${formatQuantity(pan.body.drainedL, "volume", system).text}.`,
      pan.body.debris.length > 0 &&
        (seen.length === 0
          ? "Looked for debris, found none."
          : `Debris: ${seen.map((d) => `${AMOUNTS[d.amount]} ${d.kind.replace("-", " ")}${d.sizeMm ? ` to ${formatQuantity(d.sizeMm, "length", system, system === "imperial" ? 2 : Number.isInteger(d.sizeMm) ? 0 : 1).text}` : ""}`).join(", ")}.`),
      pan.body.filter !== "not-opened" && `Filter cut open: ${pan.body.filter}.`,
    ]);
  }
  add(
    "road-test",
    "Road test without a log, felt and not measured",
    state.felt.map(
      ({ body }) =>
        `${body.by}${body.sure === "sure" ? "" : ` (${body.sure})`}: ${feltText(body.marks)}.${body.note ? ` ${body.note}` : ""}`,
    ),
  );
  const { fluidPlan } = state;
  if (fluidPlan) {
    const { way, times, litres, fresh, fluid: filled, consent } = fluidPlan.body;
    add("fluid-plan", "Fluid", [
      `${way === "exchange" ? "Exchange" : `${times} × drain and fill`} with ${formatQuantity(litres, "volume", system).text} of ${filled}: ${percent(fresh)} fresh afterwards.`,
      consent &&
        `The fluid was old and never changed. ${consent.by} agreed to ${consent.choice === "change" ? "change it, knowing that what slips already may slip more" : "leave it as it is"}.`,
    ]);
  }
  if (input.before) {
    add(
      "findings",
      "Findings before the repair",
      [input.before.findings.length === 0 && "No finding over a limit.", ...input.before.notes],
      {
        columns: ["Finding", "Conditions", "Measured", "Limit", "Sure"],
        rows: input.before.findings.map((f) => [
          f.title,
          conditionsText(f, system),
          measuresText(f, system),
          limitText(f, system),
          f.confidence.level,
        ]),
      },
    );
  }
  if (state.checks.length > 0) {
    add("checks", "Checks made", [], {
      columns: ["Check", "Result", "Minutes", "Numbers and note"],
      rows: state.checks.map((c) => [
        c.body.title,
        c.body.outcomeLabel,
        c.body.minutes === null ? "–" : String(c.body.minutes),
        [...(c.body.values ?? []).map((v) => valueText(v, system)), c.body.note].filter(Boolean).join("; "),
      ]),
    });
  }
  if (input.ranking) {
    const top = input.ranking.suspects.slice(0, 4);
    add("suspects", "Suspects", [input.ranking.poorlyExplained && "No single fault explains all that was seen."], {
      columns: ["Suspect", "Odds", "Speaks for", "Speaks against"],
      rows: top.map((s) => [
        s.title,
        percent(s.probability),
        s.speaksFor
          .slice(0, 3)
          .map((w) => w.label)
          .join("; "),
        s.speaksAgainst
          .slice(0, 2)
          .map((w) => w.label)
          .join("; "),
      ]),
    });
  }
  const { decision } = state;
  const agreed = agreedPrice(state);
  if (decision) {
    add("decision", "Decision", [
      `${decision.body.title}. ${decision.body.reason}`,
      `Odds at the decision: ${decision.body.odds.map((o) => `${o.title} ${percent(o.probability)}`).join(", ")}.`,
      agreed &&
        `Price ${agreed.net.toFixed(0)} ${input.currency}${agreed.withTax === undefined ? "" : `, with tax ${agreed.withTax.toFixed(0)} ${input.currency}`}${agreed.from === "estimate" ? ", as in the estimate" : ""}.`,
      !decision.body.levelKnown && "Decided without a recorded fluid level.",
    ]);
  }
  const approval = approvalNow(state);
  if (approval)
    sections.push({
      id: "approval",
      title: "Agreed",
      paragraphs: approvalLines(approval, input.currency),
      signature: approval.approval.body.signature,
    });
  add("bench", "On the bench", benchParagraphs(input));
  if (state.work.length > 0) {
    const parts = state.work.flatMap((w) => w.body.parts);
    const minutes = state.work.reduce((s, w) => s + w.body.minutes, 0);
    const cost = parts.reduce((s, p) => s + p.cost * p.quantity, 0);
    add(
      "work",
      "Work done",
      [
        ...state.work.map((w) => `${w.body.text} (${w.body.minutes} min)`),
        `Labour ${(minutes / 60).toFixed(1)} h; parts ${cost.toFixed(2)} ${input.currency}.`,
      ],
      parts.length > 0
        ? {
            columns: ["Part", "Quantity", `Each, ${input.currency}`],
            rows: parts.map((p) => [p.name, String(p.quantity), p.cost.toFixed(2)]),
          }
        : undefined,
    );
  }
  if (state.steps.length > 0) {
    const steps = state.steps.map((s) => s.body);
    const measured = steps.flatMap((s) => s.values.map((v) => [s.title, v.name, v.value]));
    add(
      "steps",
      "How it was done",
      [
        `${steps.length} ${steps.length === 1 ? "step" : "steps"} of the plan, ${Math.round(steps.reduce((sum, s) => sum + (s.minutes ?? 0), 0))} min taken.`,
        ...steps.filter((s) => s.trouble.length > 0).map((s) => `${s.title}: ${s.trouble.join(", ")}.`),
        ...steps.filter((s) => s.overridden).map((s) => `Hold overridden at “${s.title}”: ${s.overridden}`),
        ...steps.filter((s) => s.note).map((s) => `${s.title}: ${s.note}`),
      ],
      measured.length > 0 ? { columns: ["Step", "Measured", "Value"], rows: measured } : undefined,
    );
  }
  const against = estimateAgainst(state);
  if (against)
    add("against", "Estimate against actual", [], {
      columns: ["", "Estimated", "Actual"],
      rows: [
        ["Hours", against.estimatedH.toFixed(1), against.takenH.toFixed(1)],
        [`Parts, ${input.currency}`, against.estimatedParts.toFixed(2), against.usedParts.toFixed(2)],
      ],
    });
  if (state.emptied && state.filling.length > 0) {
    const f = fillState(
      input.unit,
      state.emptied.body,
      state.filling.map((x) => x.body),
    );
    const volume = (v: number) => formatQuantity(v, "volume", input.system).text;
    const read = state.filling.findLast((x) => ["overflow", "stick", "sight"].includes(x.body.deed))?.body;
    const leaks = state.filling.findLast((x) => x.body.deed === "leaks")?.body;
    add("filling", "How it was filled", [
      `${volume(f.pouredL)} poured${f.expectedL === undefined ? "; what came out was not measured" : `, ${volume(f.expectedL)} expected`}.`,
      read && read.fluidC !== null
        ? `Level read at ${formatQuantity(read.fluidC, "temperature", input.system).text}: ${f.levelRight ? "right" : "not set yet"}.`
        : "The level was not read.",
      ...(leaks ? [`Leaks: ${leaks.saw}.`] : []),
      ...(f.ask.deed === "done" ? [] : [`Left to do: ${f.ask.text}.`]),
      ...f.told,
    ]);
  }
  relearnSection(input, add);
  const { comparison } = input;
  if (comparison) {
    add(
      "proof",
      "Proof: the same drive, before and after",
      [
        comparison.sentence,
        ...(comparison.complaintNotDriven.length > 0
          ? [`Of the complaint itself not driven: ${comparison.complaintNotDriven.join("; ")}.`]
          : []),
        ...(state.proof?.body.notShown?.length ? [`Not signed off: ${state.proof.body.notShown.join("; ")}.`] : []),
        state.proof?.body.note,
      ],
      {
        columns: ["Finding", "Verdict", "Condition", "Before", "After", "Limit"],
        rows: comparison.findings.flatMap((f) =>
          f.groups.map((g, i) => [
            i === 0 ? f.title : "",
            i === 0 ? f.verdict : "",
            g.label,
            formatQuantity(g.before, f.quantity, system).text,
            g.after === undefined ? "not driven" : formatQuantity(g.after, f.quantity, system).text,
            f.limit === undefined ? "–" : formatQuantity(f.limit, f.quantity, system).text,
          ]),
        ),
      },
    );
  }
  const { felt = [] } = input;
  if (!comparison && state.roadTest && felt.length > 0)
    add(
      "proof",
      "Proof: a road test, felt and not measured",
      [feltSentence(felt), state.roadTest.body.note, state.proof?.body.note],
      {
        columns: ["Complaint", "Verdict", "Why"],
        rows: felt.map((f) => [f.complaint, `${f.verdict}, felt`, f.reason]),
      },
    );
  if (state.handover) {
    const { remarks, followUps } = state.handover.body;
    add("follow-ups", "Hand-over and follow-ups", [remarks], {
      columns: ["What", "Due on", "Due at"],
      rows: followUps.map((f) => [
        f.what,
        f.dueOn ?? "–",
        f.dueKm === null ? "–" : formatQuantity(f.dueKm, "distance", system).text,
      ]),
    });
  }
  return {
    title: `${input.shopName} · Job ${input.jobNumber}`,
    subtitle: [
      `${input.vehicle.name}${input.vehicle.plate ? ` (${input.vehicle.plate})` : ""}, ${input.vehicle.owner}`,
      `${unit.name}, unit file version ${unit.version}`,
      formatQuantity(input.odometerKm, "distance", system).text,
      `opened ${input.openedOn}`,
    ].join(" · "),
    sections,
    photos: shownPhotos(state.photos).map(({ body }) => ({
      photoId: body.photoId,
      caption: body.caption || body.about,
    })),
    bars: comparison ? beforeAfterBars(comparison, system) : [],
    caution: input.standingCaution,
  };
}
