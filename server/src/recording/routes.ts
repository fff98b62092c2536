import { API } from "@gearsense/contract";
import type { Mount } from "../http/mount.ts";
import type { createRecordingService } from "./service.ts";

/** The link to a vehicle, and what is recorded from it. */
export function mountRecording(mount: Mount, recordings: ReturnType<typeof createRecordingService>["of"]): void {
  mount(API.link, ({ scope, params, query }) => recordings(scope).look(params.jobId, query));
  mount(API.recording, async ({ scope, params }) => ({ recording: await recordings(scope).state(params.jobId) }));
  mount(API.startRecording, async ({ scope, params, body, who }) => ({
    recording: await recordings(scope).start(params.jobId, body, who),
  }));
  mount(API.markRecording, async ({ scope, params, body }) => ({
    recording: await recordings(scope).mark(params.jobId, body),
  }));
  mount(API.endRecording, async ({ scope, params, body }) => ({
    recording: await recordings(scope).end(params.jobId, body.wanted),
  }));
}
