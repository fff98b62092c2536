import { readFileSync } from "node:fs";
import { EvidenceInput, type EvidenceInputFile } from "@gearsense/contract";
import {
  compareOrders,
  type Evidence,
  type Judgement,
  judge,
  mileageEvidence,
  type OrderCosts,
  openedBy,
  SuspectModel,
} from "@gearsense/core/suspect";
import { libraryKnowledge } from "./knowledge.ts";
import { unitFor } from "./units.ts";
import { UsageError } from "./usage-error.ts";

const SUSPECTS = 12;
const CHECKS = 8;
const REPAIRS = 8;

/** See docs/formats.md. */
export interface Diagnosis {
  readonly format: "gearsense-diagnosis";
  readonly version: 1;
  readonly unit: string;
  readonly modelVersion: number;
  readonly counted: number;
  readonly problems: readonly { readonly at: number; readonly evidence: string; readonly reason: string }[];
  readonly suspects: readonly { readonly id: string; readonly title: string; readonly probability: number }[];
  readonly explanations: readonly {
    readonly ids: readonly string[];
    readonly probability: number;
    readonly unexplained: readonly string[];
  }[];
  readonly poorlyExplained: boolean;
  readonly restsOn: readonly { readonly evidence: string; readonly leaderWithout: number; readonly flips: boolean }[];
  readonly act: "check" | "repair";
  readonly stop: string | null;
  readonly checks: readonly {
    readonly id: string;
    readonly title: string;
    readonly minutes: number;
    readonly cost: number;
    readonly expectedCost: number;
    readonly branches: Judgement["advice"]["checks"][number]["branches"];
  }[];
  readonly repairs: readonly {
    readonly id: string;
    readonly title: string;
    readonly cost: number;
    readonly cures: number;
    readonly expectedCost: number;
  }[];
  readonly orders: OrderCosts;
}

function readEvidence(path: string): EvidenceInputFile {
  let json: unknown;
  try {
    json = JSON.parse(readFileSync(path, "utf8"));
  } catch (error) {
    throw new UsageError(`${path} isn’t a readable evidence file: ${error instanceof Error ? error.message : error}`);
  }
  const parsed = EvidenceInput.safeParse(json);
  if (!parsed.success)
    throw new UsageError(
      parsed.error.issues.map((i) => `${path}: ${i.path.join(".") || "the file"}: ${i.message}`).join("\n"),
    );
  return parsed.data;
}

/** Judges a file of evidence as the application judges a job. @throws UsageError */
export function diagnoseFile(path: string, unitName: string): Diagnosis {
  const unit = unitFor(unitName);
  const input = readEvidence(path);
  const knowledge = libraryKnowledge();
  let model: SuspectModel;
  try {
    model = new SuspectModel(unit, knowledge, input.faults);
  } catch (error) {
    throw new UsageError(`${path}: ${(error as Error).message}`);
  }
  const tried = input.evidence.filter((e) => e.table === "tried");
  const late = input.evidence.findIndex((e) => (e.afterRepairs ?? 0) > tried.length);
  if (late >= 0)
    throw new UsageError(
      `${path}: evidence.${late}: afterRepairs is ${input.evidence[late]?.afterRepairs}, but the file tells of ${tried.length} repairs ("tried")`,
    );
  const evidence = input.evidence.map((e, i): Evidence => {
    const table = model.findTable({ table: e.table, checkId: e.of });
    const usual = table && Object.entries(table.otherwise).reduce((a, b) => (b[1] > a[1] ? b : a))[0];
    const { gear, shift, code, component, components } = e;
    const about = [e.of, gear, shift, code, component].filter((x) => x !== undefined).join(" ");
    return {
      id: `evidence.${i}`,
      table: e.table,
      checkId: e.of,
      subject: { gear, shift, code, component: component ?? partOf(e), components },
      outcome: e.outcome,
      label: e.label ?? `${e.table}${about ? ` ${about}` : ""}: ${e.outcome}`,
      entryId: `evidence.${i}`,
      abnormal: e.outcome !== usual,
      weight: e.weight,
      // repairs follow one another as they stand in the file
      afterRepairs: e.afterRepairs ?? (e.table === "tried" ? tried.indexOf(e) : undefined),
    };
  });
  const all = [...evidence, ...mileageEvidence(input.odometerKm, "odometerKm")];
  const done = [...input.done, ...input.evidence.flatMap((e) => (e.table === "check" && e.of ? [e.of] : []))];
  const standing = {
    done: new Set(done),
    tried: new Set(tried.flatMap((e) => e.of ?? [])),
    opened: openedBy(knowledge, input.opened),
  };
  const money = { hourlyRate: input.hourlyRate };
  const { ranking, advice, evidence: used, problems } = judge(model, all, standing, money);
  return {
    format: "gearsense-diagnosis",
    version: 1,
    unit: unit.id,
    modelVersion: ranking.modelVersion,
    counted: used.length,
    problems: problems.map((p) => ({
      at: all.findIndex((e) => e.id === p.evidenceId),
      evidence: p.label,
      reason: p.reason,
    })),
    suspects: ranking.suspects
      .slice(0, SUSPECTS)
      .map(({ faultId, title, probability }) => ({ id: faultId, title, probability })),
    explanations: ranking.explanations.map(({ faultIds, probability, unexplained }) => ({
      ids: faultIds,
      probability,
      unexplained,
    })),
    poorlyExplained: ranking.poorlyExplained,
    restsOn: ranking.leverage.map(({ label, leaderWithout, flips }) => ({ evidence: label, leaderWithout, flips })),
    act: advice.act,
    stop: advice.stop ?? null,
    checks: advice.checks.slice(0, CHECKS).map((c) => ({
      id: c.check.id,
      title: c.check.title,
      minutes: c.minutes,
      cost: c.cost,
      expectedCost: c.expectedCost,
      branches: c.branches,
    })),
    repairs: advice.options.slice(0, REPAIRS).map((o) => ({
      id: o.repair.id,
      title: o.repair.title,
      cost: o.cost,
      cures: o.cures,
      expectedCost: o.expectedCost,
    })),
    orders: compareOrders(model, all, standing, money),
  };
}

/** A check or a repair of a part names it behind the colon. */
const partOf = (e: EvidenceInputFile["evidence"][number]) =>
  e.table === "check" || e.table === "tried" ? (e.of?.split(":")[1] ?? "unit") : undefined;

const percent = (p: number) => `${(100 * p).toFixed(1).padStart(5)} %`;

/** The diagnosis as lines for a person. */
export function describeDiagnosis(d: Diagnosis): string {
  const lines = [`${d.unit}: ${d.counted} pieces of evidence counted`];
  for (const p of d.problems) lines.push(`Not counted: evidence ${p.at}, ${p.evidence}: ${p.reason}`);
  if (d.poorlyExplained) lines.push("Nothing here explains it well.");
  lines.push("Suspects:");
  for (const s of d.suspects.slice(0, 6)) lines.push(`  ${percent(s.probability)}  ${s.title}`);
  const [best] = d.explanations;
  if (best && best.ids.length > 1) lines.push(`Together: ${best.ids.join(" and ")} ${percent(best.probability)}`);
  const flips = d.restsOn.filter((r) => r.flips);
  if (flips.length > 0) lines.push(`The verdict turns without: ${flips.map((f) => f.evidence).join("; ")}`);
  const [check] = d.checks;
  const [repair] = d.repairs;
  if (d.act === "check" && check) {
    lines.push(
      `Next check: ${check.title} (${check.minutes} min, ${check.cost.toFixed(0)}), likely total ${check.expectedCost.toFixed(0)}`,
    );
    for (const b of check.branches) lines.push(`  ${b.label} ${percent(b.probability)}: then ${b.act.title}`);
  } else if (repair)
    lines.push(
      `Act: ${repair.title}, cures ${percent(repair.cures)}, ${repair.cost.toFixed(0)}, likely total ${repair.expectedCost.toFixed(0)}`,
    );
  lines.push(
    `To a right repair on average: ${d.orders.expectedCost.toFixed(0)} so, ${d.orders.cheapestFirst.toFixed(0)} cheapest check first, ${d.orders.likeliestFirst.toFixed(0)} straight to the likeliest`,
  );
  return lines.join("\n");
}
