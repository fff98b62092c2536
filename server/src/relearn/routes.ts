import { API } from "@gearsense/contract";
import type { Mount } from "../http/mount.ts";
import type { createRelearnService } from "./service.ts";

/** Relearns at a link, and what the control unit has learned over the visits of a vehicle. */
export function mountRelearn(mount: Mount, relearns: ReturnType<typeof createRelearnService>["of"]): void {
  mount(API.learned, ({ scope, params, signal }) => relearns(scope).learned(params.jobId, signal));
  mount(API.relearn, async ({ scope, params }) => ({ run: await relearns(scope).state(params.jobId) }));
  mount(API.startRelearn, async ({ scope, params, body, who }) => ({
    run: await relearns(scope).start(params.jobId, body, who),
  }));
  mount(API.beginRelearn, async ({ scope, params }) => ({ run: await relearns(scope).begin(params.jobId) }));
  mount(API.endRelearn, async ({ scope, params }) => ({ run: await relearns(scope).end(params.jobId) }));
}
