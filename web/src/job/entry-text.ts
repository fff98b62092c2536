import type { Debris, Entry } from "@gearsense/core/job";
import { feltText } from "@gearsense/core/observe";
import { formatQuantity, type Quantity, type UnitSystem } from "@gearsense/core/quantity";
import { inSentence } from "@gearsense/core/unit";

const LEVEL = { low: "low", ok: "correct", high: "overfilled", "not-readable": "not readable" } as const;

const AMOUNTS = ["no", "a trace of", "some", "much"] as const;

function debrisText(debris: readonly Debris[], size: (mm: number) => string): string {
  const seen = debris.filter((d) => d.amount > 0);
  return seen.length === 0
    ? "no debris"
    : seen
        .map((d) => `${AMOUNTS[d.amount]} ${d.kind.replace("-", " ")}${d.sizeMm ? ` to ${size(d.sizeMm)}` : ""}`)
        .join(", ");
}

/** One line that says what an entry holds, in the units of measure of whoever reads it. */
const FILL_WORDS = {
  poured: "fill: poured",
  "let-out": "fill: let out",
  started: "fill: started, ranges cycled",
  temperature: "fill: fluid at",
  overflow: "fill: overflow plug",
  stick: "fill: stick, from full",
  sight: "fill: filler hole",
  drove: "fill: driven",
  leaks: "fill: leaks",
} as const;

export function entrySummary(e: Entry, system: UnitSystem): string {
  const show = (value: number, quantity: Quantity, decimals?: number) =>
    formatQuantity(value, quantity, system, decimals).text;
  // pieces are told to the millimetre, those under one to a tenth
  const size = (mm: number) => show(mm, "length", system === "imperial" ? 2 : Number.isInteger(mm) ? 0 : 1);
  switch (e.kind) {
    case "intake":
      return `complaint “${e.body.complaint}”`;
    case "identity":
      return `corrected: ${e.body.name}${e.body.plate ? `, ${e.body.plate}` : ""}, ${e.body.owner}; unit ${e.body.unitId}; ${show(e.body.odometerKm, "distance")} (${e.body.reason})`;
    case "level":
      return `fluid level ${LEVEL[e.body.state]}, ${e.body.method}${e.body.fluidC === null ? "" : ` at ${show(e.body.fluidC, "temperature")}`}`;
    case "fluid":
      return `fluid ${e.body.colour}, smell ${e.body.smell}`;
    case "observation":
      return e.body.skipped
        ? `${e.body.title}: skipped (${e.body.skipped})`
        : `${e.body.title}: ${e.body.outcomeLabel}${e.body.sure === "sure" ? "" : `, ${e.body.sure}`}`;
    case "pan":
      return `pan: ${e.body.drainedL === null ? "volume not measured" : `${show(e.body.drainedL, "volume")} drained`}, ${debrisText(e.body.debris, size)}`;
    case "photo":
      return `photo of ${e.body.about}${e.body.caption ? `: ${e.body.caption}` : ""}, hash ${e.body.sha256.slice(0, 4)}…${e.body.sha256.slice(-2)}${e.body.markers.length > 0 ? `, ${e.body.markers.length} marked` : ""}`;
    case "code":
      return `code ${e.body.code} ${e.body.text}, ${e.body.triage.replace("-", " ")}`;
    case "codes-read":
      return e.body.allModules ? "codes read in all modules" : "codes read";
    case "log":
      return `log "${e.body.fileName}" stored unchanged (${e.body.role} the repair), hash ${e.body.sha256.slice(0, 4)}…${e.body.sha256.slice(-2)}`;
    case "analysis":
      return `analysed: ${e.body.headline}`;
    case "felt":
      return `road test, ${e.body.by}: ${feltText(e.body.marks)}`;
    case "check":
      return `${e.body.title}: ${e.body.outcomeLabel}${e.body.note ? ` (${e.body.note})` : ""}`;
    case "tried":
      return `${e.body.title}: ${e.body.outcome === "better" ? "better, not gone" : "no change"}${e.body.note ? ` (${e.body.note})` : ""}`;
    case "fluid-plan":
      return `fluid plan: ${e.body.way === "exchange" ? "exchange" : `${e.body.times} × drain and fill`}, ${show(e.body.litres, "volume")}, ${Math.round(e.body.fresh * 100)} % fresh; next change in ${show(e.body.intervalKm, "distance")}`;
    case "sources":
      return (
        [
          ...(e.body.have.length > 0 ? [`there is: ${(e.body.titles ?? e.body.have).map(inSentence).join(", ")}`] : []),
          ...(e.body.also ?? []).map((a) => `compared as well: ${inSentence(a.title)}`),
        ].join("; ") || "no used or shelf part is there, no other repair is asked for"
      );
    case "estimate":
      return `estimate: ${e.body.title}, ${e.body.lines.length} lines`;
    case "decision":
      return `decided: ${e.body.title}. ${e.body.reason}`;
    case "plan":
      return `plan: ${[...e.body.ways, ...(e.body.extras ?? [])].join(", ") || "the usual ways"}`;
    case "tray":
      return e.body.full.length === 0 ? "tray empty" : `tray: ${e.body.full.length} cells full`;
    case "emptied":
      return e.body.dry
        ? "to be filled: a dry unit"
        : `to be filled: ${e.body.drainedL === null ? "drain not measured" : `${show(e.body.drainedL, "volume")} drained`}`;
    case "filling":
      return [
        FILL_WORDS[e.body.deed],
        e.body.litres === null ? "" : show(e.body.litres, "volume"),
        e.body.fluidC === null ? "" : show(e.body.fluidC, "temperature"),
        e.body.saw.replaceAll("-", " "),
        e.body.note,
      ]
        .filter(Boolean)
        .join(", ");
    case "supply":
      return `parts to come: ${e.body.parts.filter((p) => p.cameOn === null).length} of ${e.body.parts.length}`;
    case "promise":
      return `promised for ${e.body.at.replace("T", " ")}${e.body.odds === null ? "" : `, odds ${Math.round(e.body.odds * 100)} %`}`;
    case "step": {
      const { title, minutes, values, trouble, overridden } = e.body;
      return [
        `done: ${title}${minutes === null ? "" : ` (${minutes} min)`}`,
        ...values.map((v) => `${v.name} ${v.value}`),
        ...trouble,
        ...(overridden ? [`hold overridden: ${overridden}`] : []),
      ].join("; ");
    }
    case "bench":
      return [
        `bench: ${e.body.title}`,
        e.body.values.length > 0 ? `${e.body.values.length} measured` : "",
        ...e.body.looks.filter((l) => l.pass !== true).map((l) => `${l.name} ${l.label}`),
        ...e.body.chosen.map((c) => `chosen ${c.name}`),
      ]
        .filter(Boolean)
        .join(", ");
    case "learned":
      return `learned values read: ${Object.keys(e.body.values).length}`;
    case "relearn":
      return `relearn: ${e.body.title}, ${e.body.outcome}. ${e.body.say}`;
    case "break-in":
      return `break-in at ${show(e.body.odometerKm, "distance")}${e.body.inspected ? ": inspected" : ""}`;
    case "comeback":
      return `came back: ${e.body.what}`;
    case "work":
      return `work: ${e.body.text} (${e.body.minutes} min)`;
    case "road-test":
      return `road test, felt: ${e.body.drives.map((d) => `${d.where === "" ? "anywhere" : d.where.includes("-") ? `shift ${d.where}` : `gear ${d.where}`} ${d.felt} of ${d.times} times`).join(", ")}`;
    case "proof":
      return `proof accepted: ${e.body.sentence}`;
    case "assigned":
      return e.body.to === "" ? "in nobody’s hands" : `for ${e.body.to}`;
    case "approval":
      return `${e.body.by} ${e.body.how === "signed" ? "signed" : "agreed"}: ${e.body.title}${e.body.deposit ? `, deposit ${e.body.deposit}` : ""}`;
    case "handover":
      return `handed over${e.body.remarks ? `: ${e.body.remarks}` : ""}`;
    case "caution":
      return `caution read: ${e.body.text}`;
    case "note":
      return e.body.text;
    case "retraction":
      return `took back an entry${e.body.reason ? `: ${e.body.reason}` : ""}`;
  }
}
