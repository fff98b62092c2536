import type { SuspectsView } from "@gearsense/contract";
import type { Entry } from "@gearsense/core/job";

type Evidence = SuspectsView["evidence"][number];

/** Finding of a log that a piece of evidence rests on: its id without the log. */
function findingOf(e: Evidence): string | undefined {
  if (!e.abnormal) return undefined;
  const { gear, shift, component } = e.subject;
  switch (e.table) {
    case "gear":
      // what never holds is a slip in the log, what stands is not
      return e.outcome === "blocked" || / does not drive$/.test(e.label) ? `no-drive:${gear}` : `slip:${gear}`;
    case "shift":
      return e.outcome === "fails"
        ? `failed-shift:${shift}`
        : e.outcome === "late"
          ? `late-shift:${shift}`
          : `flare:${shift}`;
    case "sensor":
      return `${e.outcome === "ripples" ? "sensor-ripple" : "drop-out"}:${component}`;
    case "shudder":
    case "limp":
    case "power-loss":
    case "engine-pull":
    case "idle":
    case "neutral-pull":
    case "cool-down":
    case "gear-hunting":
    case "load-reversal":
      return e.table;
    case "line-pressure":
      return "pressure:line";
    case "clutch-pressure":
      return `pressure:${component}`;
    case "converter-clutch":
      return "converter-slip";
    case "open-oscillation":
      return "oscillation:engine";
    case "road-oscillation":
      return `oscillation:${e.outcome}`;
    default:
      return undefined;
  }
}

const STOP_OF_DRIVE = { before: "scan", after: "proof", "break-in": "relearn" } as const;
const STOP_OF: Partial<Record<Entry["kind"], string>> = {
  intake: "intake",
  level: "first-look",
  fluid: "first-look",
  observation: "first-look",
  code: "first-look",
  "codes-read": "first-look",
  felt: "scan?way=felt",
  pan: "pan",
};

/**
 * Where a piece of evidence comes from, as an address within the application.
 * @returns undefined for what stands on this very view: checks and repairs that were made
 */
export function sourceOf(jobId: string, entries: readonly Entry[], e: Evidence): string | undefined {
  const entry = entries.find((x) => x.id === e.entryId);
  if (!entry) return undefined;
  if (entry.kind === "analysis" || entry.kind === "log") {
    const finding = findingOf(e);
    const { logId } = entry.body;
    const log = entries.find((x) => x.kind === "log" && x.body.logId === logId);
    return `/jobs/${jobId}/${STOP_OF_DRIVE[log?.kind === "log" ? log.body.role : "before"]}?log=${logId}${finding ? `&finding=${encodeURIComponent(finding)}` : ""}`;
  }
  const stop = STOP_OF[entry.kind];
  return stop && `/jobs/${jobId}/${stop}`;
}
