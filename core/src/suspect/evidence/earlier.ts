import type { JobState } from "../../job/index.ts";
import { inSentence } from "../../unit/index.ts";
import type { Evidence } from "./evidence.ts";

/** Work of an earlier job on the same vehicle. */
export interface EarlierWork {
  readonly jobId: string;
  readonly number: string;
  readonly openedAt: string;
  readonly odometerKm: number;
  /** repairs that were decided, ids joined by "+"; empty when none was */
  readonly repairId: string;
  readonly title: string;
  readonly parts: readonly string[];
  /** the proof that was accepted; empty when there is none */
  readonly proof: string;
}

/** What an earlier job says for its vehicle's next one. @returns undefined when nothing was done in it */
export function earlierWork(
  job: Pick<EarlierWork, "jobId" | "number" | "openedAt" | "odometerKm">,
  { decision, work, proof }: Pick<JobState, "decision" | "work" | "proof">,
): EarlierWork | undefined {
  if (work.length === 0) return undefined;
  return {
    ...job,
    repairId: decision?.body.repairId ?? "",
    title: decision?.body.title ?? work[0]?.body.text ?? "",
    parts: [...new Set(work.flatMap((w) => w.body.parts.map((p) => p.name)))],
    proof: proof?.body.sentence ?? "",
  };
}

/**
 * What was renewed here before is less likely what is wrong now: a piece for each repair of each earlier job.
 * @param entryId - of the intake: it is known from the start
 */
export const fittedEvidence = (earlier: readonly EarlierWork[], entryId: string): Evidence[] =>
  earlier.flatMap((job) =>
    job.repairId
      .split("+")
      .filter((id) => id !== "" && id !== "leave" && id !== "sell")
      .map(
        (id): Evidence => ({
          id: `fitted:${id}`,
          table: "fitted",
          checkId: id,
          subject: { component: id.split(":")[1] ?? "unit" },
          outcome: "fitted",
          label: `Done in job ${job.number}: ${inSentence(job.title)}`,
          entryId,
          abnormal: false,
        }),
      ),
  );
