import type { JobView } from "@gearsense/contract";
import type { JobState } from "@gearsense/core/job";
import { createContext, useContext } from "react";

export interface JobContextValue {
  readonly job: JobView;
  readonly state: JobState;
  /** the person may write and the job is open */
  readonly mayEdit: boolean;
  /** why not, in words; empty when they may */
  readonly whyNot: string;
}

export const JobContext = createContext<JobContextValue | undefined>(undefined);

export function useJob(): JobContextValue {
  const value = useContext(JobContext);
  if (!value) throw new Error("useJob outside a job");
  return value;
}
