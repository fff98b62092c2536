import { API } from "@gearsense/contract";
import type { Mount } from "../http/mount.ts";
import type { createJobService } from "./service.ts";

export function mountJobs(mount: Mount, jobs: ReturnType<typeof createJobService>): void {
  mount(API.jobs, ({ scope }) => jobs(scope).list());
  mount(API.vehicles, ({ scope }) => jobs(scope).vehicles());
  mount(API.openJob, ({ scope, body, who, writeKey }) => jobs(scope).open(body, who, undefined, writeKey));
  mount(API.job, ({ scope, params }) => jobs(scope).view(params.jobId));
  mount(API.addEntry, ({ scope, params, body, who, writeKey }) => jobs(scope).write(params.jobId, body, who, writeKey));
}
