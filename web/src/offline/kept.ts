import type { ApiName, JobView } from "@gearsense/contract";
import { ROUTES } from "@gearsense/contract/routes";

/** Where the service worker keeps answers of the server for times without a network. */
export const ANSWERS = "gearsense-answers";
/** Told to a service worker that waits to take over. */
export const SAYS_GO_ON = "go on";

/** True of one moment only, of nobody in particular, or too large. */
const NEVER: readonly ApiName[] = [
  "health",
  "setup",
  "certificate",
  "copies",
  "copy",
  "backup",
  "moneyLines",
  "work",
  "recording",
  "relearn",
  "link",
  "samples",
  "sample",
];
const pattern = (path: string) => new RegExp(`^${path.replace(/:\w+/g, "[^/]+")}$`);
const never = NEVER.map((name) => pattern(ROUTES[name].path));

/** Whether an answer of the API is kept on the device. */
export const keepsAnswer = (path: string): boolean => path.startsWith("/api/") && !never.some((p) => p.test(path));

/** A write was answered with the job as it is now: that is what is shown should the network go. */
export async function keepJob(job: JobView): Promise<void> {
  if (!globalThis.navigator?.serviceWorker?.controller) return;
  const cache = await caches.open(ANSWERS);
  const headers = { "content-type": "application/json", date: new Date().toUTCString() };
  const path = ROUTES.job.path.replace(":jobId", job.id);
  await cache.put(path, new Response(JSON.stringify(job), { headers }));
}
