import { checkLimp, checkTrain } from "./check-train.ts";
import { meanRadiusMm } from "./friction.ts";
import { nodesOf } from "./train.ts";
import { gearCode, SHIFT_VALVES, type Unit } from "./unit.ts";

export interface UnitProblem {
  /** place in the file, as a dotted path */
  readonly path: string;
  readonly reason: string;
}

/**
 * What a schema cannot see: every reference names something that exists, every gear is distinct and reachable.
 * @returns all problems found; empty when the unit is consistent
 */
export function checkUnit(unit: Unit): UnitProblem[] {
  const problems: UnitProblem[] = [];
  const say = (path: string, reason: string) => problems.push({ path, reason });
  const gearNames = unit.gears.map((g) => g.name);
  const elementIds = new Set(unit.elements.map((e) => e.id));
  const solenoidIds = new Set(unit.solenoids.map((s) => s.id));
  const componentIds = new Set([...elementIds, ...solenoidIds, ...unit.sensors.map((s) => s.id)]);

  const seen = new Set<string>();
  for (const [list, name] of [
    [unit.elements, "elements"],
    [unit.solenoids, "solenoids"],
    [unit.sensors, "sensors"],
    [unit.nets, "nets"],
  ] as const) {
    list.forEach((c, i) => {
      if (seen.has(c.id)) say(`${name}.${i}.id`, `"${c.id}" is used twice`);
      seen.add(c.id);
    });
  }
  unit.gears.forEach((g, i) => {
    if (gearCode(g.name) === 0) say(`gears.${i}.name`, `"${g.name}" is neither a forward gear number nor R`);
    if ((g.name === "R") !== g.ratio < 0) say(`gears.${i}.ratio`, "reverse is negative, forward gears positive");
    if (!unit.application[g.name]?.length) say(`application.${g.name}`, "no element is applied in this gear");
    if (!unit.solenoidChart[g.name]) say(`solenoidChart.${g.name}`, "this gear has no row in the solenoid chart");
  });
  const forward = unit.gears.filter((g) => g.ratio > 0);
  forward.forEach((g, i) => {
    const before = forward[i - 1];
    if (before && before.ratio <= g.ratio) say(`gears.${g.name}.ratio`, "forward ratios fall from gear to gear");
  });
  const patterns = new Map<string, string>();
  for (const [gear, applied] of Object.entries(unit.application)) {
    if (!gearNames.includes(gear)) say(`application.${gear}`, "no such gear");
    for (const a of applied) {
      if (!elementIds.has(a.element)) say(`application.${gear}`, `no element "${a.element}"`);
    }
    const pattern = applied
      .map((a) => `${a.element}>${a.towards ?? ""}`)
      .sort()
      .join("+");
    const twin = patterns.get(pattern);
    if (twin) say(`application.${gear}`, `applies the same elements as gear ${twin}`);
    patterns.set(pattern, gear);
  }
  const states = new Map<string, string>();
  for (const [gear, row] of Object.entries(unit.solenoidChart)) {
    const pattern = Object.keys(row)
      .sort()
      .map((id) => `${id}=${row[id]}`)
      .join();
    // the lever's own valve makes reverse: it may share its states with a forward gear
    const key = `${gear === "R" ? "backwards" : "forward"}: ${pattern}`;
    const twin = states.get(key);
    if (twin) say(`solenoidChart.${gear}`, `has the same states as gear ${twin}`);
    states.set(key, gear);
  }
  for (const [gear, row] of Object.entries(unit.solenoidChart)) {
    for (const id of Object.keys(row)) {
      if (!solenoidIds.has(id)) say(`solenoidChart.${gear}.${id}`, "no such solenoid");
    }
  }
  unit.elements.forEach((e, i) => {
    for (const reason of packProblems(e)) say(`elements.${i}.bench`, reason);
  });
  for (const [i, c] of (unit.bench?.dualClutches ?? []).entries())
    if (!elementIds.has(c.clutch)) say(`bench.dualClutches.${i}.clutch`, `no element "${c.clutch}"`);
  for (const fork of Object.keys(unit.bench?.forkTravelMm ?? {}))
    if (!elementIds.has(fork)) say(`bench.forkTravelMm.${fork}`, `no element "${fork}"`);
  unit.neutral?.forEach((id, i) => {
    if (!elementIds.has(id)) say(`neutral.${i}`, `no element "${id}"`);
  });
  if (!gearNames.includes(unit.limp.gear)) say("limp.gear", `no gear "${unit.limp.gear}"`);
  unit.solenoids.forEach((s, i) => {
    if (!elementIds.has(s.feeds) && !["converter-clutch", "line-pressure", "supply", SHIFT_VALVES].includes(s.feeds)) {
      say(`solenoids.${i}.feeds`, `"${s.feeds}" isn’t an element`);
    }
  });
  const nodes = unit.gearTrain && nodesOf(unit.gearTrain);
  unit.sensors.forEach((s, i) => {
    if (s.shaft !== undefined && !nodes?.includes(s.shaft))
      say(
        `sensors.${i}.shaft`,
        nodes ? `the train has no node "${s.shaft}"` : "names a node of a train that is not given",
      );
    for (const g of Object.keys(s.perInput ?? {}))
      if (!gearNames.includes(g)) say(`sensors.${i}.perInput.${g}`, `no gear "${g}"`);
    if (s.validGears === "all") return;
    for (const g of s.validGears) if (!gearNames.includes(g)) say(`sensors.${i}.validGears`, `no gear "${g}"`);
  });
  unit.nets.forEach((n, i) => {
    for (const c of n.connects) if (!componentIds.has(c)) say(`nets.${i}.connects`, `nothing is called "${c}"`);
  });
  const referable = new Set([
    ...componentIds,
    ...unit.nets.map((n) => n.id),
    "converter-clutch",
    "line-pressure",
    "controller",
    "fluid",
  ]);
  unit.codes.forEach((c, i) => {
    for (const id of c.components) if (!referable.has(id)) say(`codes.${i}.components`, `nothing is called "${id}"`);
  });
  for (const f of ["joins", "positions"] as const)
    if (!unit.gearTrain && unit.elements.some((e) => e[f]))
      say("gearTrain", "elements join nodes of a train that is not given");
  const shafts =
    unit.kind === "planetary" ? ["turbine_rpm", "middle_rpm", "output_rpm"] : ["k1_rpm", "k2_rpm", "output_rpm"];
  if (!unit.sensors.some((x) => shafts.includes(x.channel)))
    say(
      "sensors",
      `no sensor reads one of ${shafts.join(", ")}: without a shaft speed this kind of unit can't be judged`,
    );
  checkTrain(unit, say);
  checkLimp(unit, say);
  (unit.fasteners ?? []).forEach((f, i) => {
    if (f.positionsMm && f.positionsMm.length !== f.count)
      say(`fasteners.${i}.positionsMm`, `${f.positionsMm.length} positions for ${f.count} bolts`);
    const order = [...(f.order ?? [])].sort((a, b) => a - b);
    if (f.order && order.some((n, k) => n !== k)) say(`fasteners.${i}.order`, "must name every position once");
  });
  (unit.trays ?? []).forEach((t, i) => {
    const ids = t.cells.map((c) => c.id);
    const twice = ids.find((id, k) => ids.indexOf(id) !== k);
    if (twice !== undefined) say(`trays.${i}.cells`, `two cells are called "${twice}"`);
  });
  (unit.adaptations ?? []).forEach((a, i) => {
    if (!referable.has(a.component)) say(`adaptations.${i}.component`, `nothing is called "${a.component}"`);
    if (a.newValue < a.limits[0] || a.newValue > a.limits[1])
      say(`adaptations.${i}.newValue`, `${a.newValue} lies outside its own limits`);
  });
  checkRelearn(unit, say);
  for (const name of Object.keys(unit.usual?.shifts ?? {}))
    if (!name.split("-").every((g) => unit.gears.some((x) => x.name === g)))
      say(`usual.shifts.${name}`, `there is no shift "${name}"`);
  if (unit.kind === "planetary" && !unit.converter) say("converter", "a planetary unit needs a converter");
  return problems;
}

/** Channels that any vehicle tells, and what a routine tells of itself; the rest are the unit's own sensors and learned values. */
const RELEARN_CHANNELS: ReadonlySet<string> = new Set([
  "engine_rpm",
  "vehicle_kmh",
  "range",
  "pedal_pct",
  "brake_on",
  "fluid_c",
  "clutch_c",
  "gear_commanded",
  "gear_reported",
  "supply_v",
  "codes",
  "routine_state",
  "routine_lever",
  "routine_progress_pct",
]);

/** A procedure can be gone through: its channels can be read, its stages have what they need, its shifts and repairs exist. */
function checkRelearn(unit: Unit, say: (path: string, reason: string) => void): void {
  const channels = new Set([...RELEARN_CHANNELS, ...unit.sensors.map((s) => s.channel)]);
  const forward = unit.gears.filter((g) => g.ratio > 0).map((g) => g.name);
  (unit.relearn ?? []).forEach(({ machine: m }, i) => {
    if (!m) return;
    const at = `relearn.${i}.machine`;
    const known = (path: string, conditions: readonly { readonly channel: string }[]) =>
      conditions.forEach((c, k) => {
        if (!channels.has(c.channel)) say(`${path}.${k}.channel`, `"${c.channel}" is not a channel that can be read`);
      });
    known(`${at}.preconditions`, m.preconditions);
    known(`${at}.guards`, m.guards);
    if (m.kind !== "write-back" && m.routine === undefined) say(`${at}.routine`, "needs the identifier of its routine");
    if (!m.results.some((r) => r.ends === "done")) say(`${at}.results`, "no result says that it is done");
    const codes = m.results.map((r) => r.code);
    codes.forEach((c, k) => {
      if (codes.indexOf(c) !== k) say(`${at}.results.${k}.code`, `${c} is given twice`);
    });
    m.stages.forEach((s, k) => {
      const path = `${at}.stages.${k}`;
      known(`${path}.until`, s.until ?? []);
      if (m.stages.findIndex((o) => o.id === s.id) !== k) say(`${path}.id`, `"${s.id}" is given twice`);
      const waits = s.do === "shift" || s.do === "hold" || s.do === "wait";
      if (waits && !s.until?.length) say(`${path}.until`, "never ends: say what it waits for");
      if ((s.do === "drive") !== (s.windows !== undefined))
        say(`${path}.windows`, "belongs to a drive, and a drive needs it");
      s.windows?.forEach((w, n) => {
        const [from, to] = w.shift.split("-");
        if (w.shift !== "stop" && !(forward.includes(from as string) && forward.includes(to as string)))
          say(`${path}.windows.${n}.shift`, `there is no shift "${w.shift}"`);
      });
    });
  });
}

/** New plates and the middle selective part may leave a clearance so far outside its window, mm: castings differ. */
const BUILT_MM = 0.15;
/** Radii and mean radius of a file agree within this share. */
const RADIUS_SHARE = 0.01;

/** What of a pack's bench data does not go together. */
function packProblems({ bench: b, apply, plates }: Unit["elements"][number]): string[] {
  if (!b) return [];
  const problems: string[] = [];
  if (b.clearanceMm[0] >= b.clearanceMm[1]) problems.push("the clearance window runs from the smaller to the larger");
  if (b.frictionPlateNewMm !== undefined && b.frictionPlateNewMm <= b.frictionPlateMinMm)
    problems.push("a new friction plate is thicker than the least one");
  if (b.steelPlateNewMm !== undefined && b.steelPlateNewMm < b.steelPlateMinMm)
    problems.push("a new steel is not thinner than the least one");
  if (b.targetMm !== undefined && (b.targetMm < b.clearanceMm[0] || b.targetMm > b.clearanceMm[1]))
    problems.push("the target lies inside the clearance window");
  const { innerRadiusMm: inner, outerRadiusMm: outer } = b;
  if (inner !== undefined && outer !== undefined) {
    if (outer <= inner) problems.push("the outer radius is larger than the inner one");
    else if (apply) {
      const mean = meanRadiusMm(inner, outer);
      if (Math.abs(mean / apply.meanRadiusMm - 1) > RADIUS_SHARE)
        problems.push(`its radii give a mean radius of ${mean.toFixed(1)} mm, the file says ${apply.meanRadiusMm}`);
    }
  }
  if (
    b.depthMm !== undefined &&
    b.frictionPlateNewMm !== undefined &&
    b.steelPlateNewMm !== undefined &&
    b.selective &&
    plates
  ) {
    const stack =
      plates * b.frictionPlateNewMm +
      (b.steels ?? plates) * b.steelPlateNewMm +
      (b.fixedPlates ?? []).reduce((s, f) => s + f.thicknessMm, 0);
    const left = b.selective.sizesMm.map((s) => (b.depthMm as number) - stack - s);
    if (!left.some((c) => c >= b.clearanceMm[0] - BUILT_MM && c <= b.clearanceMm[1] + BUILT_MM))
      problems.push("with new plates no selective part brings the clearance into its window");
  }
  return problems;
}
