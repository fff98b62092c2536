import { PAN_SEALS } from "@gearsense/core/unit";

/** How a field of a unit file is typed in. */
export interface FieldSpec {
  /** dotted path within the row or the file */
  readonly path: string;
  readonly label: string;
  readonly type: "text" | "long" | "number" | "choice" | "list" | "lines" | "node" | "positions" | "json";
  readonly options?: readonly string[];
  readonly optional?: boolean;
  /** share of the width */
  readonly wide?: boolean;
}

export interface RowsSpec {
  readonly path: string;
  readonly title: string;
  readonly hint: string;
  readonly columns: readonly FieldSpec[];
  readonly blank: unknown;
}

export interface SectionSpec {
  readonly id: string;
  readonly title: string;
  readonly fields?: readonly FieldSpec[];
  readonly rows?: readonly RowsSpec[];
  /** charts that are grids of their own */
  readonly grid?: "application" | "solenoidChart";
}

const text = (path: string, label: string, more: Partial<FieldSpec> = {}): FieldSpec => ({
  path,
  label,
  type: "text",
  ...more,
});
const num = (path: string, label: string, more: Partial<FieldSpec> = {}): FieldSpec => ({
  path,
  label,
  type: "number",
  ...more,
});
const choice = (path: string, label: string, options: readonly string[], more: Partial<FieldSpec> = {}): FieldSpec => ({
  path,
  label,
  type: "choice",
  options,
  ...more,
});
const opt = { optional: true } as const;

/** The parts of a unit file in the order in which one is written. */
export const SECTIONS: readonly SectionSpec[] = [
  {
    id: "identity",
    title: "Identity",
    fields: [
      text("id", "Id"),
      text("name", "Name"),
      choice("kind", "Kind", ["planetary", "dct-wet", "dct-dry"]),
      choice("layout", "Layout", ["longitudinal", "transverse"]),
      text("description", "Description", { type: "long", wide: true }),
      num("maxInputTorqueNm", "Largest input torque, N·m"),
      num("finalDrive", "Final drive"),
      num("tyreRadiusM", "Tyre radius, m"),
      text("neutral", "Applied in P and N", { type: "list", optional: true }),
      text("limp.gear", "Limp gear"),
      text("testPorts", "Test ports: line, converter, elements, or none", { type: "list", optional: true }),
      num("limp.linePressureKpa", "Line pressure in limp, kPa", opt),
    ],
  },
  {
    id: "train",
    title: "Gear train",
    rows: [
      {
        path: "gearTrain.sets",
        title: "Planetary sets",
        hint: "Members are named P1.sun, P1.ring, P1.carrier.",
        columns: [
          text("id", "Id"),
          choice("kind", "Planets", ["single", "double"]),
          num("sunTeeth", "Sun"),
          num("ringTeeth", "Ring"),
          num("planets", "Planets a set"),
        ],
        blank: { id: "", kind: "single", planets: 3 },
      },
      {
        path: "gearTrain.pairs",
        title: "Gear pairs",
        hint: "Two gears on parallel shafts, as in dual clutches.",
        columns: [
          text("id", "Id"),
          text("driver", "Driver", { type: "node" }),
          text("driven", "Driven", { type: "node" }),
          num("driverTeeth", "Driver teeth"),
          num("drivenTeeth", "Driven teeth"),
          choice("idler", "Idler", ["false", "true"], opt),
        ],
        blank: { id: "" },
      },
      {
        path: "gearTrain.links",
        title: "Permanent links",
        hint: "What is joined for good: input, output, case, or a member such as P1.sun.",
        columns: [text("0", "Node", { type: "node" }), text("1", "Node", { type: "node" })],
        blank: ["", ""],
      },
    ],
  },
  {
    id: "elements",
    title: "Elements",
    rows: [
      {
        path: "elements",
        title: "Friction elements and forks",
        hint: "What each joins when it is applied; a brake joins case.",
        columns: [
          text("id", "Id"),
          text("name", "Name", { wide: true }),
          choice("kind", "Kind", ["clutch", "brake", "band", "one-way-clutch", "dual-clutch", "fork"]),
          num("plates", "Plates", opt),
          text("joins.0", "Joins", { type: "node", optional: true }),
          text("joins.1", "with", { type: "node", optional: true }),
          text("positions", "Fork: gear: node, node", { type: "positions", optional: true, wide: true }),
          num("bench.clearanceMm.0", "Clearance from, mm", opt),
          num("bench.clearanceMm.1", "to, mm", opt),
          num("bench.frictionPlateMinMm", "Friction plate least, mm", opt),
          num("bench.steelPlateMinMm", "Steel plate least, mm", opt),
          num("bench.frictionPlateNewMm", "Friction plate new, mm", opt),
          num("bench.steelPlateNewMm", "Steel plate new, mm", opt),
          num("bench.steels", "Steels", opt),
          num("bench.depthMm", "Depth of the drum, mm", opt),
          num("bench.targetMm", "Clearance is set to, mm", opt),
          num("bench.taperMostMm", "Taper at most, mm", opt),
          num("bench.friction", "Friction coefficient", opt),
          num("bench.innerRadiusMm", "Lining, inner radius, mm", opt),
          num("bench.outerRadiusMm", "Lining, outer radius, mm", opt),
          num("bench.springFreeMm.0", "Return spring, free from, mm", opt),
          num("bench.springFreeMm.1", "Return spring, free to, mm", opt),
          text("bench.fixedPlates", "Apply and backing plates, JSON", { type: "json", optional: true, wide: true }),
          text("bench.selective", "Selective part, JSON", { type: "json", optional: true, wide: true }),
          num("apply.areaCm2", "Piston, cm²", opt),
          num("apply.returnSpringN", "Return spring, N", opt),
          num("apply.meanRadiusMm", "Mean radius, mm", opt),
        ],
        blank: { id: "", name: "", kind: "clutch" },
      },
    ],
  },
  {
    id: "gears",
    title: "Gears and chart",
    rows: [
      {
        path: "gears",
        title: "Gears",
        hint: "Ratio is input over output, reverse negative.",
        columns: [text("name", "Gear"), num("ratio", "Ratio")],
        blank: { name: "" },
      },
    ],
    grid: "application",
  },
  {
    id: "solenoids",
    title: "Solenoids",
    rows: [
      {
        path: "solenoids",
        title: "Solenoids",
        hint: "Feeds an element, converter-clutch, line-pressure or supply.",
        columns: [
          text("id", "Id"),
          text("name", "Name", { wide: true }),
          choice("kind", "Kind", ["on-off", "pressure-control"]),
          text("feeds", "Feeds"),
          num("resistanceOhmAt20C.0", "Ω from"),
          num("resistanceOhmAt20C.1", "Ω to"),
          choice("unpoweredState", "Without power", ["applied", "released"]),
        ],
        blank: { id: "", name: "", kind: "pressure-control", feeds: "", unpoweredState: "released" },
      },
    ],
    grid: "solenoidChart",
  },
  {
    id: "wiring",
    title: "Sensors and wiring",
    rows: [
      {
        path: "sensors",
        title: "Sensors",
        hint: "Gears in which the reading is valid, separated by commas; all when always.",
        columns: [
          text("id", "Id"),
          text("name", "Name", { wide: true }),
          text("channel", "Channel"),
          num("teeth", "Teeth", opt),
          text("shaft", "Shaft", { type: "node", optional: true }),
          text("validGears", "Valid gears", { type: "list" }),
        ],
        blank: { id: "", name: "", channel: "", validGears: "all" },
      },
      {
        path: "nets",
        title: "Nets",
        hint: "What hangs on one wire: ids of sensors and solenoids, separated by commas.",
        columns: [
          text("id", "Id"),
          text("name", "Name", { wide: true }),
          choice("kind", "Kind", ["supply", "ground", "signal"]),
          text("connects", "Connects", { type: "list", wide: true }),
          text("pins", "Pins"),
          text("wires", "Wires", opt),
          num("volts", "Volts of a supply", opt),
        ],
        blank: { id: "", name: "", kind: "signal", connects: [], pins: "" },
      },
      {
        path: "codes",
        title: "Codes",
        hint: "Which component each speaks of.",
        columns: [
          text("code", "Code"),
          text("text", "Meaning", { wide: true }),
          text("components", "Components", { type: "list", wide: true }),
          choice("ofSignal", "Speaks of the signal", ["false", "true"], opt),
          text("condition", "Set when", { optional: true, wide: true }),
        ],
        blank: { code: "", text: "", components: [] },
      },
    ],
  },
  {
    id: "converter",
    title: "Converter and limits",
    fields: [
      num("converter.stallTorqueRatio", "Stall torque ratio", opt),
      num("converter.stallRpm", "Stall speed, rpm", opt),
      num("converter.stallTorqueNm", "at engine torque, N·m", opt),
      num("converter.couplingSpeedRatio", "Coupling at speed ratio", opt),
      text("converter.clutchGears", "Clutch may apply in gears", { type: "list", optional: true }),
      choice("converter.strategy", "Strategy", ["locked", "controlled-slip"], opt),
      num("converter.targetSlipRpm", "Target slip, rpm", opt),
      choice("converter.clutchLining", "Lining", ["paper", "woven-carbon", "sintered"], opt),
      choice("converter.pumpDrive", "Pump driven by", ["hub", "chain"], opt),
      num("converter.capacityL", "Capacity, l", opt),
      num("converter.drainedL", "Drains, l", opt),
      num("converter.homeDepthMm.0", "Home: bell face to pads from, mm", opt),
      num("converter.homeDepthMm.1", "Home: bell face to pads to, mm", opt),
      num("converter.pullUpMm.0", "Comes forward to the flexplate from, mm", opt),
      num("converter.pullUpMm.1", "Comes forward to the flexplate to, mm", opt),
      text("converter.fit", "How the converter fits, JSON", { type: "json", optional: true, wide: true }),
      num("limits.slipRpm", "Slip limit, rpm", opt),
      num("limits.ratioTolerancePct", "Ratio tolerance, %", opt),
      num("limits.residualSlipRpm", "Residual slip limit, rpm", opt),
      num("limits.shudderPeakToPeakRpm", "Shudder limit, rpm", opt),
      num("limits.engagementDelayS", "Engagement, s", opt),
      num("limits.shiftDefault.inertiaS.0", "Inertia phase from, s", opt),
      num("limits.shiftDefault.inertiaS.1", "Inertia phase to, s", opt),
      num("limits.shiftDefault.flareRpm", "Flare limit, rpm", opt),
      num("limits.shiftDefault.delayS", "Shift delay limit, s", opt),
      text("limits.shifts", "Limits of single shifts, JSON", { type: "json", optional: true, wide: true }),
      text("usual", "Usual times of sound units, JSON", { type: "json", optional: true, wide: true }),
    ],
  },
  {
    id: "service",
    title: "Fluid and service",
    fields: [
      text("fluid.spec", "Fluid"),
      num("fluid.totalL", "Total, l"),
      num("fluid.panDrainL", "Pan drain, l"),
      choice("fluid.panSeal", "Pan is sealed by", [...PAN_SEALS], opt),
      num("fluid.converterL", "Converter, l", opt),
      num("fluid.coolerL", "Cooler and lines, l", opt),
      choice("fluid.level.method", "Level is read by", ["dipstick", "overflow", "sight-hole"]),
      num("fluid.level.referenceC", "Reference, °C"),
      num("fluid.level.windowC.0", "Window from, °C"),
      num("fluid.level.windowC.1", "Window to, °C"),
      num("fluid.level.toleranceL", "Tolerance, l"),
      num("fluid.level.stick.addToFullL", "Stick, lower to upper hot mark, l", opt),
      num("fluid.level.stick.coldMarkC", "Stick, cold mark is for, °C", opt),
      num("fluid.intervalKm", "Interval, km"),
      num("fluid.hotDrivingMin", "Driven hot before fluid is judged, min", opt),
      num("bench.breakInKm", "Break-in after new linings, km", opt),
      num("bench.springTolerancePct", "Valve springs, tolerance, %", opt),
      num("bench.plateWearMostMm", "Separator plate, wear at most, mm", opt),
      text("bench.endPlays", "End plays and washers, JSON", { type: "json", optional: true, wide: true }),
      text("bench.linePressure", "Line pressure by range, JSON", { type: "json", optional: true, wide: true }),
      text("bench.orifices", "Orifices, JSON", { type: "json", optional: true, wide: true }),
      text("bench.dualClutches", "Dual clutches on the bench, JSON", { type: "json", optional: true, wide: true }),
      text("bench.forkTravelMm", "Fork travel, JSON", { type: "json", optional: true, wide: true }),
      num("fluid.freshLab.0", "Fresh fluid, L*", opt),
      num("fluid.freshLab.1", "Fresh fluid, a*", opt),
      num("fluid.freshLab.2", "Fresh fluid, b*", opt),
      text("fluid.level.steps", "How the level is read", { type: "long", wide: true }),
      text("fluid.fillSteps", "Filling, one step a line", { type: "lines", optional: true, wide: true }),
    ],
    rows: [
      {
        path: "fasteners",
        title: "Fasteners",
        hint: "",
        columns: [
          text("id", "Id"),
          text("name", "Name", { wide: true }),
          text("thread", "Thread"),
          num("lengthMm", "Length, mm"),
          num("count", "Count"),
          num("torqueNm", "Torque, N·m"),
          num("angleDeg", "Angle, °", opt),
          choice("oneTime", "Use once", ["false", "true"], opt),
          text("positionsMm", "Positions in mm, JSON", { type: "json", optional: true, wide: true }),
          text("order", "Order, JSON", { type: "json", optional: true, wide: true }),
        ],
        blank: { id: "", name: "", thread: "" },
      },
      {
        path: "trays",
        title: "Trays",
        hint: "Small parts of what can be taken apart, each with its place",
        columns: [text("id", "Id"), text("name", "Name"), text("cells", "Cells, JSON", { type: "json", wide: true })],
        blank: { id: "", name: "", cells: [] },
      },
      {
        path: "adaptations",
        title: "Adaptation values",
        hint: "",
        columns: [
          text("id", "Id"),
          text("name", "Name", { wide: true }),
          text("component", "Component"),
          text("unit", "Unit"),
          num("newValue", "New"),
          num("limits.0", "From"),
          num("limits.1", "To"),
        ],
        blank: { id: "", name: "", component: "", unit: "" },
      },
      {
        path: "relearn",
        title: "Relearn procedures",
        hint: "One entry a line.",
        columns: [
          text("id", "Id"),
          text("name", "Name", { wide: true }),
          text("after", "After", { type: "lines", wide: true }),
          text("needs", "Only with", { type: "lines", wide: true }),
          text("steps", "Steps", { type: "lines", wide: true }),
          text("machine", "As a control unit goes through it, JSON", { type: "json", optional: true, wide: true }),
        ],
        blank: { id: "", name: "", after: [], needs: [], steps: [] },
      },
    ],
  },
];

/** The section in which a place of the file is typed. @param path - as the check names it */
export function sectionOf(path: string): SectionSpec | undefined {
  const within = (part: string) => path === part || path.startsWith(`${part}.`) || part.startsWith(`${path}.`);
  return SECTIONS.find(
    (s) => (s.grid && within(s.grid)) || s.rows?.some((r) => within(r.path)) || s.fields?.some((f) => within(f.path)),
  );
}
