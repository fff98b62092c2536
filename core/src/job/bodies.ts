import type {
  BenchChosen,
  BenchValue,
  Debris,
  DutyKind,
  EstimateLine,
  EventKind,
  FeltMark,
  HistoryKind,
  LogRole,
  MeasuredValue,
  PhotoPatch,
  Sureness,
  Symptom,
  Wish,
} from "./vocabulary.ts";

/** What an entry of each kind says. */
export interface EntryBodies {
  intake: {
    readonly complaint: string;
    readonly symptoms: readonly Symptom[];
    readonly doneAlready: string;
    readonly recentEvents: string;
    readonly history?: readonly { readonly kind: HistoryKind; readonly what: string }[] | undefined;
    readonly events?: readonly { readonly kind: EventKind; readonly what: string }[] | undefined;
    readonly duty?: readonly DutyKind[] | undefined;
    /** what it is worth, in the shop's money */
    readonly vehicleValue?: number | null | undefined;
    readonly wish?: Wish | undefined;
    /** how long it is to be kept, and what a day that it stands costs the owner, money */
    readonly keepYears?: number | null | undefined;
    readonly downtimeADay?: number | null | undefined;
  };
  /** vehicle, unit and mileage set right on an open job; earlier ones stay on the timeline */
  identity: {
    readonly name: string;
    readonly plate: string;
    readonly owner: string;
    readonly vin: string;
    readonly unitId: string;
    readonly odometerKm: number;
    readonly reason: string;
  };
  level: {
    readonly state: "low" | "ok" | "high" | "not-readable";
    readonly method: string;
    readonly fluidC: number | null;
    readonly litresFromFull: number | null;
    readonly engineRunning: boolean;
    readonly otherSideL?: number | null | undefined;
    readonly rangesCycled?: boolean | undefined;
    readonly minutesSinceFilling?: number | null | undefined;
    readonly onLevelGround?: boolean | undefined;
    readonly minutes?: number | null | undefined;
    readonly note: string;
  };
  fluid: {
    readonly colour: "fresh" | "amber" | "brown" | "black" | "milky";
    readonly smell: "none" | "varnish" | "burnt";
    readonly cloudiness?: "clear" | "hazy" | "milky" | "foamy" | undefined;
    /** a drop on blotting paper */
    readonly blot?: "even" | "dark-core" | "water-rim" | "not-done" | undefined;
    /** from a photo, balanced by white paper */
    readonly photo?:
      | {
          readonly photoId: string;
          readonly fluid: PhotoPatch;
          readonly white: PhotoPatch;
          readonly lab: readonly [number, number, number];
          readonly uncertaintyDeltaE: number;
        }
      | undefined;
    readonly note: string;
  };
  /** one quick check of the first look, or why it was skipped */
  observation: {
    readonly rung: string;
    readonly title: string;
    readonly outcome: string;
    readonly outcomeLabel: string;
    readonly abnormal: boolean;
    readonly method: string;
    readonly sure: Sureness;
    /** numbers and choices behind the outcome, by name: "restV", "P", "cylinder-3" */
    readonly values: Readonly<Record<string, number | string>>;
    readonly minutes: number | null;
    /** why it was not looked at; the outcome is then "skipped" */
    readonly skipped: string;
    readonly note: string;
  };
  pan: {
    readonly drainedL: number | null;
    readonly drainedC: number | null;
    readonly spiltL?: number | null | undefined;
    readonly linesOpened?: boolean | undefined;
    readonly converterDrained?: boolean | undefined;
    readonly kmSinceService: number | null;
    readonly filter: "not-opened" | "clean" | "lining" | "metal" | "blocked";
    readonly debris: readonly Debris[];
    readonly sure: Sureness;
    readonly note: string;
  };
  photo: {
    readonly photoId: string;
    readonly sha256: string;
    readonly widthPx: number;
    readonly heightPx: number;
    readonly about: "fluid" | "pan" | "magnet" | "filter" | "leak" | "connector" | "other";
    readonly caption: string;
    /** places in the picture, in shares of its width and height */
    readonly markers: readonly {
      readonly x: number;
      readonly y: number;
      readonly text: string;
      /** what it shows, as the odds know it: "debris:brass"; absent: words only */
      readonly shows?: string | undefined;
    }[];
  };
  code: {
    readonly code: string;
    readonly text: string;
    readonly module: string;
    readonly triage: "complaint" | "earlier-work" | "unclear";
    readonly reason: string;
    readonly status?: "stored" | "pending" | "permanent" | undefined;
    /** as the scan tool gave it: name and value */
    readonly freezeFrame?: Readonly<Record<string, string>> | undefined;
  };
  "codes-read": { readonly allModules: boolean; readonly note: string };
  log: {
    readonly logId: string;
    readonly fileName: string;
    readonly bytes: number;
    readonly sha256: string;
    readonly role: LogRole;
    /** what the drive was for: "cold", "hot" */
    readonly label?: string | undefined;
  };
  analysis: { readonly logId: string; readonly findings: number; readonly headline: string };
  /** a road test without a log: what each gear, shift, range and situation did, in one person's words */
  felt: {
    /** whose words: "Driver", "Owner", a name */
    readonly by: string;
    readonly sure: Sureness;
    readonly marks: readonly FeltMark[];
    readonly note: string;
  };
  check: {
    readonly checkId: string;
    readonly component: string;
    readonly title: string;
    readonly outcome: string;
    readonly outcomeLabel: string;
    readonly abnormal: boolean;
    readonly minutes: number | null;
    readonly note: string;
    /** numbers behind the outcome */
    readonly values?: readonly MeasuredValue[] | undefined;
    /** how far the numbers bear it out, over 0 to 1; absent: it was seen, not measured */
    readonly weight?: number | undefined;
  };
  /** a repair that was done, here or elsewhere, and what came of it */
  tried: {
    readonly repairId: string;
    readonly title: string;
    readonly outcome: "no-change" | "better";
    readonly note: string;
  };
  /** how the fluid is to be renewed, and when it is looked at again */
  "fluid-plan": {
    readonly way: "drain-and-fill" | "exchange";
    readonly times: number;
    readonly litres: number;
    /** share of fresh fluid afterwards, 0…1 */
    readonly fresh: number;
    readonly minutes: number;
    readonly cost: number;
    readonly fluid: string;
    readonly intervalKm: number;
    readonly reasons: readonly string[];
    readonly followUps: readonly {
      readonly what: string;
      readonly dueOn: string | null;
      readonly dueKm: number | null;
      readonly why: string;
    }[];
    readonly note: string;
    /** old fluid that was never changed: what the owner agreed to, and who that was */
    readonly consent?: { readonly choice: "change" | "leave"; readonly by: string } | undefined;
  };
  /** what the options are compared with: parts that are there, of those that are counted only then (ids of options), and repairs that the odds do not speak for */
  sources: {
    readonly have: readonly string[];
    /** what those options are called, in the same order */
    readonly titles?: readonly string[] | undefined;
    readonly also?: readonly { readonly repairId: string; readonly title: string }[] | undefined;
  };
  /** lines of an option as the shop offers them; its price everywhere */
  estimate: {
    readonly optionId: string;
    readonly title: string;
    readonly lines: readonly EstimateLine[];
    readonly taxPercent: number;
    readonly validDays: number;
    /** working days until the part is there, as quoted; absent or null: as the library has it */
    readonly leadDays?: number | null | undefined;
    readonly note: string;
  };
  decision: {
    readonly repairId: string;
    readonly title: string;
    readonly reason: string;
    readonly expectedCost: number;
    readonly cures: number;
    readonly modelVersion: number;
    readonly odds: readonly { readonly title: string; readonly probability: number }[];
    readonly levelKnown: boolean;
    /** where the part comes from */
    readonly source?: string | undefined;
    /** price of this work alone: likely, and from best to worst */
    readonly price?: readonly [number, number, number] | undefined;
    /** of all that it may cost: one in ten, half, nine in ten; with the seed of the draws */
    readonly spread?: readonly [number, number, number] | undefined;
    readonly seed?: number | undefined;
  };
  work: {
    readonly text: string;
    readonly minutes: number;
    readonly parts: readonly { readonly name: string; readonly quantity: number; readonly cost: number }[];
  };
  /** a drive after the work without a log: what was felt, complaint by complaint */
  "road-test": {
    readonly drives: readonly {
      /** gear "4" or shift "2-3"; empty: anywhere */
      readonly where: string;
      readonly times: number;
      readonly felt: number;
      readonly load: Symptom["load"];
      readonly temperature: Symptom["temperature"];
    }[];
    readonly note: string;
  };
  /** which ways to their ends were chosen, by the ids of procedures; and what is done besides */
  plan: {
    readonly ways: readonly string[];
    readonly extras?: readonly string[] | undefined;
    /** what the ways are compared on */
    readonly rust?: "none" | "light" | "heavy" | "rotten" | undefined;
    readonly ageYears?: number | undefined;
    readonly helper?: boolean | undefined;
    readonly crane?: boolean | undefined;
  };
  /** what lies in the tray of a step: cells by their ids */
  tray: { readonly step: string; readonly full: readonly string[] };
  /** what had left the unit before it is filled */
  emptied: {
    readonly drainedL: number | null;
    readonly drainedC: number | null;
    readonly spiltL: number;
    readonly linesOpened: boolean;
    readonly converterDrained: boolean;
    readonly dry: boolean;
    readonly prefilledL: number;
  };
  /** one thing that was done or seen while filling */
  filling: {
    readonly deed:
      | "poured"
      | "let-out"
      | "started"
      | "temperature"
      | "overflow"
      | "stick"
      | "sight"
      | "drove"
      | "leaks";
    readonly litres: number | null;
    readonly fluidC: number | null;
    readonly saw: string;
    readonly note: string;
  };
  /** parts that have to come */
  supply: {
    readonly parts: readonly {
      readonly name: string;
      readonly quantity: number;
      /** days until it is there once it is ordered; null: nobody knows */
      readonly leadDays: number | null;
      readonly orderedOn: string | null;
      /** the supplier's word; null: by the lead time */
      readonly dueOn: string | null;
      readonly cameOn: string | null;
    }[];
  };
  /** when the owner was told that it is ready, local time "2026-11-30T16:30"; the odds as they stood then, 0…1 */
  promise: { readonly at: string; readonly odds: number | null; readonly note: string };
  /** what was measured, seen and chosen at one place of the bench; a later word on the place stands for all of it */
  bench: {
    /** "pack:TC", "converter-fit", "cause" … */
    readonly place: string;
    readonly title: string;
    readonly values: readonly BenchValue[];
    readonly looks: readonly {
      readonly id: string;
      readonly name: string;
      readonly outcome: string;
      readonly label: string;
      /** null: it is told, not judged */
      readonly pass: boolean | null;
    }[];
    readonly chosen: readonly BenchChosen[];
    /** full-load torque of the engine, [rpm, N·m] */
    readonly curve?: readonly (readonly [number, number])[] | undefined;
    readonly note: string;
  };
  /** a step of the plan that is done */
  step: {
    /** "procedure/step" */
    readonly step: string;
    readonly title: string;
    /** as it really took; null: not taken */
    readonly minutes: number | null;
    readonly values: readonly { readonly id: string; readonly name: string; readonly value: string }[];
    /** what went wrong on the way: seized, broke, missing … */
    readonly trouble: readonly string[];
    readonly note: string;
    /** why its hold was overridden though its value does not open it; empty: it was not overridden */
    readonly overridden: string;
  };
  /** learned values of the control unit as they were read */
  learned: {
    /** by the ids of the unit file */
    readonly values: Readonly<Record<string, number>>;
    readonly how: "link" | "typed";
    readonly note: string;
  };
  /** a relearn that was gone through, to whichever end */
  relearn: {
    readonly procedureId: string;
    readonly title: string;
    readonly how: "link" | "typed";
    readonly outcome: "done" | "aborted" | "failed";
    /** what happened, and what is to be done */
    readonly say: string;
    readonly next: string;
    readonly ends: "done" | "again" | "repair";
    readonly code: number | null;
    /** id of the element that it is about */
    readonly element: string | null;
    /** words of the stage in which it ended */
    readonly stage: string;
    readonly before: Readonly<Record<string, number>>;
    readonly after: Readonly<Record<string, number>>;
    readonly note: string;
  };
  /** on the way through the first kilometres of a build, and what was looked at after them */
  "break-in": {
    readonly odometerKm: number;
    readonly inspected: {
      readonly level: "ok" | "low" | "high";
      readonly leaks: boolean;
      /** more than grey paste on the magnet */
      readonly metal: boolean;
    } | null;
    readonly note: string;
  };
  /** a job that was handed over is open again */
  comeback: {
    readonly what: string;
    readonly odometerKm: number;
    /** the repair that did not last; null: another trouble */
    readonly repairId: string | null;
  };
  proof: {
    /** null: no log, it rests on the road test */
    readonly beforeLogId: string | null;
    readonly afterLogId: string | null;
    readonly sentence: string;
    /** what is signed off, and what was not shown or not driven, in words */
    readonly signedOff?: readonly string[] | undefined;
    readonly notShown?: readonly string[] | undefined;
    readonly note: string;
  };
  /** who has it in hand; empty: nobody */
  assigned: { readonly to: string };
  /** the customer's word on the estimate: who agreed to what, signed on the screen or told by telephone */
  approval: {
    readonly optionId: string;
    readonly title: string;
    /** money without tax and with it, as it was shown */
    readonly net: number;
    readonly withTax: number;
    readonly by: string;
    readonly how: "signed" | "told";
    /** strokes of the hand, each x, y, x, y … in thousandths of the width of the field; empty when it was told */
    readonly signature: readonly (readonly number[])[];
    /** money that was paid beforehand */
    readonly deposit: number | null;
    /** the shop's terms as they were shown */
    readonly terms: string;
    readonly note: string;
  };
  handover: {
    readonly remarks: string;
    readonly followUps: readonly {
      readonly what: string;
      readonly dueOn: string | null;
      readonly dueKm: number | null;
    }[];
  };
  caution: { readonly about: string; readonly text: string };
  note: {
    readonly text: string;
    /** a span of a log that it speaks of */
    readonly span?: { readonly logId: string; readonly startS: number; readonly endS: number } | undefined;
  };
  retraction: { readonly entryId: string; readonly reason: string };
}
