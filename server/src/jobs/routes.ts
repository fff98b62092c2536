import { API } from "@gearsense/contract";
import type { Mount } from "../http/mount.ts";
import type { createJobService } from "./service.ts";

export function mountJobs(mount: Mount, jobs: ReturnType<typeof createJobService>): void {
  mount(API.jobs, ({ scope, query }) => jobs(scope).list(query));
  mount(API.vehicles, ({ scope, query }) => jobs(scope).vehicles(query));
  mount(API.openJob, ({ scope, body, who, writeKey }) => jobs(scope).open(body, who, undefined, writeKey));
  mount(API.job, ({ scope, params }) => jobs(scope).view(params.jobId));
  mount(API.addEntry, ({ scope, params, body, who, writeKey }) => jobs(scope).write(params.jobId, body, who, writeKey));
}
