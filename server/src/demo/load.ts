import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { Readable } from "node:stream";
import { type NewJobInput, type Role, TypedBodies } from "@gearsense/contract";
import { benchPlaces, packSummary, placeOf } from "@gearsense/core/bench";
import { type EntryBodies, foldJob, type LogRole } from "@gearsense/core/job";
import { openLog, proposeMapping } from "@gearsense/core/log";
import { limitOf, type PlanStep, planOf } from "@gearsense/core/procedure";
import { decidedOption } from "@gearsense/core/report";
import { dayNumber, dayOf, type ShopSetup, weekday } from "@gearsense/core/schedule";
import { checkEntry, chosenOption, decisionEntry, generateChecks } from "@gearsense/core/suspect";
import type { Converter, Unit } from "@gearsense/core/unit";
import {
  captureDefinition,
  DIALECTS,
  type DialectName,
  type ExportStyle,
  exportLog,
  PLAIN_STYLE,
  type ProfileName,
  type SimulatedFault,
  simulateDrive,
  writeLog,
} from "@gearsense/simulator";
import type { Knex } from "knex";
import sharp from "sharp";
import { createAccountStore } from "../accounts/store.ts";
import { createServices } from "../app.ts";
import { ShopScope } from "../db/shop-scope.ts";
import type { Library } from "../library/load.ts";
import { preparePicture } from "../photos/picture.ts";
import { createPhotoStore } from "../photos/store.ts";
import { createPlanningStore } from "../planning/store.ts";
import type { Threads } from "../threads/pool.ts";

type Step = { readonly by: string; readonly afterMinutes: number } & (
  | {
      readonly do: "entry";
      readonly kind:
        | "level"
        | "fluid"
        | "observation"
        | "pan"
        | "fluid-plan"
        | "code"
        | "codes-read"
        | "work"
        | "step"
        | "plan"
        | "supply"
        | "promise"
        | "emptied"
        | "filling"
        | "felt"
        | "estimate"
        | "approval"
        | "handover";
      readonly body: unknown;
    }
  | {
      readonly do: "log";
      readonly role: LogRole;
      readonly fileName: string;
      readonly simulate: {
        seed: number;
        vehicleSeed?: number;
        profile: ProfileName;
        durationS: number;
        rateHz: number;
        startFluidC: number;
        faults: SimulatedFault[];
      };
      /** another converter than the unit file’s is in it by then */
      readonly converter?: Partial<Converter>;
      readonly style: Partial<ExportStyle>;
      /** as this scan tool writes it, instead; a capture comes with its definition */
      readonly dialect?: DialectName;
    }
  | {
      readonly do: "bench";
      readonly place: string;
      readonly readings?: Readonly<Record<string, readonly number[]>>;
      readonly looks?: Readonly<Record<string, string>>;
      /** takes the selective part that the readings call for */
      readonly choose?: boolean;
      readonly curve?: readonly (readonly [number, number])[];
      /** of the place of the cause */
      readonly cause?: string;
      readonly note?: string;
    }
  | {
      readonly do: "check";
      readonly checkId: string;
      readonly outcome: string;
      readonly minutes: number;
      readonly note: string;
    }
  | {
      readonly do: "photo";
      /** a drawing in `library/demo/` that stands for the photo */
      readonly file: string;
      readonly about: EntryBodies["photo"]["about"];
      readonly caption: string;
    }
  | { readonly do: "decide"; readonly repairId: string; readonly reason: string }
  /** steps of the plan one after another until this one is done, with minutes about those of the plan */
  | { readonly do: "ticks"; readonly until: string }
  | { readonly do: "proof"; readonly note: string }
);

interface Scenario {
  readonly password: string;
  readonly shops: readonly {
    readonly name: string;
    readonly currency: string;
    readonly hourlyRate: number;
    readonly setup?: ShopSetup;
    readonly accounts: readonly { readonly name: string; readonly signIn: string; readonly role: Role }[];
    readonly jobs: readonly (Omit<NewJobInput, "intake"> & {
      readonly number: string;
      readonly hoursAgo: number;
      readonly intake: NewJobInput["intake"];
      readonly steps: readonly Step[];
    })[];
  }[];
}

const readScenario = (): Scenario =>
  JSON.parse(readFileSync(new URL("../../../library/demo/scenario.json", import.meta.url), "utf8"));

/** Sign-ins of the demo, for the start command to print. */
export function demoSignIns(): { signIn: string; role: Role; shop: string; password: string }[] {
  const { shops, password } = readScenario();
  return shops.flatMap((s) => s.accounts.map((a) => ({ signIn: a.signIn, role: a.role, shop: s.name, password })));
}

/**
 * Loads the demo scenario once: into an empty database only. The jobs go the way a person's would, through the same
 * services, with a clock that is set back. An interrupted load is taken away and begun anew.
 * @returns false when there are shops already
 */
export async function loadDemo(db: Knex, library: Library, threads: Threads, nowMs: number): Promise<boolean> {
  if (await createAccountStore(db).anyShop()) return false;
  await db.transaction(async (trx) => {
    const accounts = createAccountStore(trx);
    const { shops, password } = readScenario();
    for (const s of shops) {
      const shop = await accounts.createShop({ name: s.name, currency: s.currency, hourlyRate: s.hourlyRate });
      for (const a of s.accounts) await accounts.createAccount({ ...a, shopId: shop.id }, password);
      if (s.setup) await createPlanningStore(new ShopScope(trx, shop.id)).save(s.setup, 0, s.name, new Date(nowMs));
      for (const j of s.jobs)
        await loadJob(
          new ShopScope(trx, shop.id),
          j,
          s.hourlyRate,
          s.accounts[0]?.name ?? s.name,
          library,
          threads,
          nowMs,
        );
    }
  });
  return true;
}

/** "{day+2}" as the second working day from now. */
function dated(body: unknown, nowMs: number): unknown {
  const text = JSON.stringify(body).replace(/\{day([+-]\d+)\}/g, (_, by: string) => {
    let day = dayNumber(new Date(nowMs).toISOString().slice(0, 10));
    const step = Number(by) < 0 ? -1 : 1;
    for (let left = Math.abs(Number(by)); left > 0; ) {
      day += step;
      if (weekday(day) < 5) left--;
    }
    return dayOf(day);
  });
  return JSON.parse(text);
}

/** What somebody would have written down at a step: the middle of its limits, the first of a choice. */
const valuesOf = (unit: Unit, step: PlanStep) =>
  (step.record ?? []).map(({ id, name, quantity, options, limit }) => {
    const l = limit === undefined ? undefined : limitOf(unit, limit);
    const { least, most } = l ?? {};
    const middle = least !== undefined && most !== undefined ? (least + most) / 2 : (most ?? least ?? 1) * 0.75;
    return { id, name, value: quantity === "choice" ? (options?.[0] ?? "") : String(Math.round(middle * 100) / 100) };
  });

/** What somebody would have written down at a place of the bench: its own windows and usual instruments. */
function benchBody(
  unit: Unit,
  { bench, instruments }: Library["knowledge"],
  step: Extract<Step, { do: "bench" }>,
): EntryBodies["bench"] {
  const place = placeOf(benchPlaces(unit, bench), step.place);
  if (!place) throw new Error(`demo: ${unit.name} has no place "${step.place}"`);
  const values = place.measures.flatMap((m) => {
    const readings = step.readings?.[m.id];
    if (!readings) return [];
    const by = instruments.find((i) => i.id === m.instrument) ?? { name: "Maker’s data", percent: 1, fixed: 0 };
    return [
      {
        ...{
          id: m.id,
          name: m.name,
          unit: m.unit,
          readings,
          instrument: by.name,
          percent: by.percent,
          fixed: by.fixed,
        },
        ...(m.copper ? { temperatureC: 22 } : {}),
        ...(m.from === undefined ? {} : { from: m.from }),
        ...(m.to === undefined ? {} : { to: m.to }),
      },
    ];
  });
  const looks = place.looks.flatMap((l) => {
    const option = l.options.find((o) => o.id === step.looks?.[l.id]);
    return option ? [{ id: l.id, name: l.name, outcome: option.id, label: option.label, pass: option.pass }] : [];
  });
  const cause = bench.causes.find((c) => c.id === step.cause);
  const element = unit.elements.find((e) => e.id === place.about);
  const selection = step.choose && element ? packSummary(element, values).selection : undefined;
  const part = element?.bench?.selective;
  if (step.choose && (!part || !selection || selection.kind === "none"))
    throw new Error(`demo: nothing fits at ${step.place}`);
  return {
    place: place.id,
    title: place.title,
    values,
    looks: cause ? [{ id: "cause", name: place.title, outcome: cause.id, label: cause.title, pass: null }] : looks,
    chosen:
      part && element && selection && selection.kind !== "none"
        ? [
            {
              id: "selective",
              name: `${part.kind[0]?.toUpperCase()}${part.kind.slice(1)} ${selection.best.sizesMm.map((s) => s.toFixed(2)).join(" and ")} mm, ${element.name}`,
              sizeMm: selection.best.sizesMm[0] ?? null,
              quantity: selection.best.sizesMm.length,
              costEach: part.costEach,
              why: `${selection.best.clearanceMm.toFixed(2)} mm`,
            },
          ]
        : [],
    ...(step.curve ? { curve: step.curve } : {}),
    note: step.note ?? "",
  };
}

async function loadJob(
  scope: ShopScope,
  demo: Scenario["shops"][number]["jobs"][number],
  hourlyRate: number,
  opener: string,
  library: Library,
  threads: Threads,
  nowMs: number,
): Promise<void> {
  let clockMs = nowMs - demo.hoursAgo * 3_600_000;
  const services = createServices(library, threads, () => new Date(clockMs));
  const jobs = services.jobs(scope);
  const logs = services.logs(scope);
  const { number, hoursAgo: _h, steps, ...input } = demo;
  const { id, unit } = await jobs.open(input, { name: opener }, number);
  for (const step of steps) {
    clockMs += step.afterMinutes * 60_000;
    const author = { name: step.by };
    switch (step.do) {
      case "entry": {
        const typed = dated(step.body, nowMs) as object;
        const { decision } = foldJob(await jobs.entries(id));
        // an estimate, and the word on it, are of what was decided
        const offered =
          (step.kind === "estimate" || step.kind === "approval") && decision
            ? { optionId: decidedOption(decision.body), title: decision.body.title }
            : {};
        const body = TypedBodies[step.kind].parse({ ...typed, ...offered }) as EntryBodies[typeof step.kind];
        await jobs.append(id, author, step.kind, body, "typed", undefined);
        break;
      }
      case "log": {
        const driven =
          step.converter && unit.converter ? { ...unit, converter: { ...unit.converter, ...step.converter } } : unit;
        const { columns } = simulateDrive({ unit: driven, ...step.simulate });
        const style = step.dialect ? DIALECTS[step.dialect] : { ...PLAIN_STYLE, ...step.style };
        const bytes = step.dialect
          ? Buffer.from(exportLog(columns, style))
          : Buffer.from(writeLog(columns, style), "utf8");
        const definition = style.layout === "capture" ? captureDefinition(columns) : undefined;
        const { logId } = await logs.upload(
          id,
          step.fileName,
          step.role,
          undefined,
          bytes.length,
          Readable.from([bytes]),
          author,
        );
        await logs.analyse(
          id,
          logId,
          {
            mapping: proposeMapping(openLog(bytes, definition ? { definition } : {}).table, unit),
            ...(definition ? { definition } : {}),
          },
          author,
        );
        break;
      }
      case "bench": {
        const body = TypedBodies.bench.parse(benchBody(unit, library.knowledge, step)) as EntryBodies["bench"];
        await jobs.append(id, author, "bench", body, "typed", undefined);
        break;
      }
      case "photo": {
        const drawing = readFileSync(new URL(`../../../library/demo/${step.file}`, import.meta.url));
        const picture = await preparePicture(await sharp(drawing).png().toBuffer());
        const { content: _content, ...kept } = picture;
        const photoId = randomUUID();
        await createPhotoStore(scope).insert(photoId, id, picture, new Date(clockMs));
        const body = { photoId, ...kept, about: step.about, caption: step.caption, markers: [] };
        await jobs.append(id, author, "photo", body, "file", 0);
        break;
      }
      case "check": {
        const check = generateChecks(unit, library.knowledge).find((c) => c.id === step.checkId);
        if (!check) throw new Error(`demo job ${number}: no check "${step.checkId}"`);
        await jobs.append(
          id,
          author,
          "check",
          checkEntry(check, step.outcome, step.minutes, step.note),
          "typed",
          undefined,
        );
        break;
      }
      case "decide": {
        const { ranking, advice, levelKnown } = await services
          .judgement(scope)
          .suspects(id, { hourlyRate, ownOdds: false });
        const option = advice.options.find((o) => o.repair.id === step.repairId);
        if (!option)
          throw new Error(
            `demo job ${number}: no repair "${step.repairId}" among ${advice.options.map((o) => o.repair.id).join(", ")}`,
          );
        await jobs.append(
          id,
          author,
          "decision",
          decisionEntry(ranking, chosenOption(option), step.reason, levelKnown),
          "typed",
          undefined,
        );
        break;
      }
      case "ticks": {
        const state = foldJob(await jobs.entries(id));
        const repairs = (state.decision?.body.repairId ?? "").split("+");
        const { ways = [], extras = [] } = state.plan?.body ?? {};
        const { plan } = planOf(library.procedures, unit, repairs, ways, extras);
        const at = plan?.steps.findIndex((s) => s.key === step.until) ?? -1;
        if (!plan || at < 0) throw new Error(`demo job ${number}: no step "${step.until}"`);
        for (const [i, s] of plan.steps.slice(0, at + 1).entries()) {
          const minutes = Math.round(s.minutes[1] * (0.8 + 0.1 * ((i * 7) % 6)));
          clockMs += minutes * 60_000;
          await jobs.append(
            id,
            author,
            "step",
            { step: s.key, title: s.title, minutes, values: valuesOf(unit, s), trouble: [], note: "", overridden: "" },
            "typed",
            undefined,
          );
        }
        break;
      }
      case "proof": {
        const { before, after, comparison } = await services.judgement(scope).proof(id);
        if (!comparison) throw new Error(`demo job ${number}: nothing to compare`);
        await jobs.append(
          id,
          author,
          "proof",
          {
            beforeLogId: before.at(-1)?.logId ?? "",
            afterLogId: after.at(-1)?.logId ?? "",
            sentence: comparison.sentence,
            note: step.note,
          },
          "typed",
          undefined,
        );
        break;
      }
    }
  }
}
