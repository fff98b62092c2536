// Ranking and planning: a unit of some 150 faults with all their pairs and 60 pieces of evidence, against a plain
// enumeration in the same run; then the next check over 70 checks with look-ahead, against one that looks at nothing but
// its price. usage: npm run bench:judgement   Aims: ranking 50 ms or less, next check 300 ms or less.
import { readFileSync } from "node:fs";
import { parseKnowledge } from "@gearsense/contract";
import { believe, type Evidence, Planner, rankSuspects, SuspectModel } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";

const json = (path: string) => JSON.parse(readFileSync(new URL(`../library/${path}.json`, import.meta.url), "utf8"));
const knowledge = parseKnowledge({
  faults: json("knowledge/faults"),
  evidence: json("knowledge/evidence"),
  checks: json("knowledge/checks"),
  observations: json("knowledge/observations"),
  debris: json("knowledge/debris"),
  repairs: json("knowledge/repairs"),
  cautions: json("knowledge/cautions"),
  bench: json("knowledge/bench"),
});
const FAULTS = 150;
const EVIDENCE = 60;
const CHECKS = 70;
const ROUNDS = 21;

/** The ten-speed with brakes added until it has so many faults. */
function largeUnit(): Unit {
  let unit = json("units/crag-t10.unit") as Unit;
  for (let n = 0; new SuspectModel(unit, knowledge).sets.real < FAULTS; n++) {
    const element = { id: `X${n}`, name: `Extra brake ${n}`, kind: "brake" as const };
    unit = {
      ...unit,
      elements: [...unit.elements, element],
      solenoids: [
        ...unit.solenoids,
        {
          ...(unit.solenoids[0] as Unit["solenoids"][number]),
          id: `sol_X${n}`,
          name: `Solenoid X${n}`,
          feeds: element.id,
        },
      ],
    };
  }
  return unit;
}

const median = (work: () => void): number => {
  const times: number[] = [];
  for (let i = 0; i < ROUNDS; i++) {
    const start = performance.now();
    work();
    times.push(performance.now() - start);
  }
  return times.sort((a, b) => a - b)[ROUNDS >> 1] as number;
};

const unit = largeUnit();
const model = new SuspectModel(unit, knowledge);
const gears = unit.gears.map((g) => g.name).filter((g) => g !== "R");
const item = (table: string, outcome: string, subject: Evidence["subject"], abnormal: boolean): Evidence => ({
  id: `${table}:${outcome}:${JSON.stringify(subject)}`,
  table,
  subject,
  outcome,
  label: table,
  entryId: table,
  abnormal,
});
const evidence: Evidence[] = [
  ...gears.map((gear) =>
    item("gear", ["8", "9"].includes(gear) ? "slips" : "holds", { gear }, ["8", "9"].includes(gear)),
  ),
  ...gears.slice(1).map((g, i) => item("shift", "clean", { shift: `${gears[i]}-${g}` }, false)),
  ...unit.codes.map((c) =>
    item("code", c.code === "P0730" ? "present" : "absent", { code: c.code }, c.code === "P0730"),
  ),
  ...unit.sensors
    .filter((s) => s.channel.endsWith("_rpm"))
    .map((s) => item("sensor", "steady", { component: s.id }, false)),
  item("symptom", "slip", {}, true),
  item("limp", "none", {}, false),
  item("fluid-level", "ok", {}, false),
  item("fluid-smell", "burnt", {}, true),
  item("slip-pattern", "grows-with-torque", {}, true),
  item("converter-clutch", "holds", {}, false),
  item("shudder", "smooth", {}, false),
];
const checks = model.checks.filter((c) => c.kindId === "resistance" || c.kindId === "coil-insulation");
for (const c of checks)
  if (evidence.length < EVIDENCE)
    evidence.push({
      ...item("check", c.outcomes[0]?.id ?? "", { component: c.component }, false),
      id: `check:${c.id}`,
      checkId: c.id,
    });

/** Every set by itself, every piece of evidence by itself: no columns, no products of rows. */
function plainEnumeration(): number {
  let best = 0;
  let sum = 0;
  for (let k = 0; k < model.sets.count; k++) {
    const members = model.sets.membersOf(k);
    let w = model.priors[k] as number;
    for (const e of evidence) w *= model.column(e).of(members);
    sum += w;
    best = Math.max(best, w);
  }
  return best / sum;
}

const rank = median(() => {
  rankSuspects(model, evidence, believe(model, evidence));
});
const posterior = median(() => {
  believe(model, evidence);
});
const start = performance.now();
plainEnumeration();
const plain = performance.now() - start;
console.log(`${model.sets.real} faults, ${model.sets.count} sets, ${evidence.length} pieces of evidence`);
console.log(`posterior                       ${posterior.toFixed(1)} ms (median of ${ROUNDS})`);
console.log(`ranking, with what it rests on  ${rank.toFixed(1)} ms (aim: 50 or less)`);
console.log(`plain enumeration               ${plain.toFixed(1)} ms; ratio ${(plain / posterior).toFixed(1)}`);

const planner = new Planner(model, { hourlyRate: 72 });
// half of the evidence leaves more open, so that there is something to plan
const open = believe(model, evidence.slice(0, 24));
const informing = planner.space(open).checks.slice(0, CHECKS);
const standing = {
  done: new Set(model.checks.filter((c) => !informing.includes(c)).map((c) => c.id)),
  tried: new Set<string>(),
  opened: 0,
};
const next = median(() => {
  planner.advise(open, standing);
});
const options = median(() => {
  planner.options(open, standing);
});
console.log(`next check over ${informing.length} checks       ${next.toFixed(1)} ms (aim: 300 or less)`);
console.log(`repairs alone, without a check  ${options.toFixed(1)} ms; ratio ${(next / options).toFixed(1)}`);
