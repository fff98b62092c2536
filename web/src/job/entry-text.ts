import type { Debris, Entry } from "@gearsense/core/job";
import { feltText } from "@gearsense/core/observe";

const LEVEL = { low: "low", ok: "correct", high: "overfilled", "not-readable": "not readable" } as const;

const AMOUNTS = ["no", "a trace of", "some", "much"] as const;

function debrisText(debris: readonly Debris[]): string {
  const seen = debris.filter((d) => d.amount > 0);
  return seen.length === 0
    ? "no debris"
    : seen
        .map((d) => `${AMOUNTS[d.amount]} ${d.kind.replace("-", " ")}${d.sizeMm ? ` to ${d.sizeMm} mm` : ""}`)
        .join(", ");
}

/** One line that says what an entry holds. */
export function entrySummary(e: Entry): string {
  switch (e.kind) {
    case "intake":
      return `complaint “${e.body.complaint}”`;
    case "identity":
      return `corrected: ${e.body.name}${e.body.plate ? `, ${e.body.plate}` : ""}, ${e.body.owner}; unit ${e.body.unitId}; ${Math.round(e.body.odometerKm)} km (${e.body.reason})`;
    case "level":
      return `fluid level ${LEVEL[e.body.state]}, ${e.body.method}${e.body.fluidC === null ? "" : ` at ${e.body.fluidC} °C`}`;
    case "fluid":
      return `fluid ${e.body.colour}, smell ${e.body.smell}`;
    case "observation":
      return e.body.skipped
        ? `${e.body.title}: skipped (${e.body.skipped})`
        : `${e.body.title}: ${e.body.outcomeLabel}${e.body.sure === "sure" ? "" : `, ${e.body.sure}`}`;
    case "pan":
      return `pan: ${e.body.drainedL === null ? "volume not measured" : `${e.body.drainedL} l drained`}, ${debrisText(e.body.debris)}`;
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
      return `fluid plan: ${e.body.way === "exchange" ? "exchange" : `${e.body.times} × drain and fill`}, ${e.body.litres.toFixed(1)} l, ${Math.round(e.body.fresh * 100)} % fresh; next change in ${e.body.intervalKm} km`;
    case "sources":
      return e.body.have.length === 0 ? "no used or shelf part is there" : `there is: ${e.body.have.join(", ")}`;
    case "estimate":
      return `estimate: ${e.body.title}, ${e.body.lines.length} lines`;
    case "decision":
      return `decided: ${e.body.title}. ${e.body.reason}`;
    case "work":
      return `work: ${e.body.text} (${e.body.minutes} min)`;
    case "road-test":
      return `road test, felt: ${e.body.drives.map((d) => `${d.where === "" ? "anywhere" : d.where.includes("-") ? `shift ${d.where}` : `gear ${d.where}`} ${d.felt} of ${d.times} times`).join(", ")}`;
    case "proof":
      return `proof accepted: ${e.body.sentence}`;
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
