import type { JobView, LogAnalysisView } from "@gearsense/contract";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { keys, takeJob } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";

/** Has the server judge a log once more, and puts what comes back in place. */
export function useJudging(logId: string) {
  const { job } = useJob();
  const client = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | undefined>();
  const judge = async (work: () => Promise<{ result: LogAnalysisView; job: JobView }>) => {
    setBusy(true);
    setProblem(undefined);
    try {
      const made = await work();
      client.setQueryData(keys.analysis(job.id, logId), made.result);
      void client.invalidateQueries({ queryKey: keys.analyses(job.id, logId) });
      await takeJob(client, made.job);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
    setBusy(false);
  };
  return { judge, busy, problem };
}
