import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { API } from "@gearsense/contract";
import { HttpError, notFound } from "../http/errors.ts";
import type { Mount } from "../http/mount.ts";
import type { createJobService } from "../jobs/service.ts";
import { type MakeSample, samplesOf } from "./samples.ts";
import type { LogService } from "./service.ts";

export function mountLogs(
  mount: Mount,
  logs: LogService,
  jobs: ReturnType<typeof createJobService>,
  sample: MakeSample,
): void {
  mount(API.samples, async ({ scope, params }) => samplesOf((await jobs(scope).record(params.jobId)).unit));
  mount(API.sample, async ({ scope, params, res }) => {
    const { unit } = await jobs(scope).record(params.jobId);
    const found = samplesOf(unit).find((s) => s.id === params.name);
    if (!found) throw notFound("sample");
    const bytes = Buffer.from(await sample({ unit, id: found.id }));
    res.attachment(found.fileName);
    res.setHeader("content-type", "application/octet-stream");
    res.end(bytes);
  });
  mount(API.uploadLog, async ({ scope, params, query, req, who }) => {
    const { fileName, role, label, bytes } = query;
    const stored = await logs(scope).upload(params.jobId, fileName, role, label, bytes, req, who);
    return { ...stored, job: await jobs(scope).view(params.jobId) };
  });
  mount(API.rawLog, async ({ scope, params, res }) => {
    const log = await logs(scope).find(params.jobId, params.logId);
    res.attachment(log.fileName);
    res.setHeader("content-type", "application/octet-stream");
    res.setHeader("content-length", log.bytes);
    await pipeline(Readable.from(logs(scope).chunks(log.id)), res);
  });
  mount(API.analyseLog, async ({ scope, params, body, who, signal, writeKey }) => {
    const asker = { signal, writeKey };
    const result = await logs(scope).analyse(params.jobId, params.logId, body, who, asker);
    return { result, job: await jobs(scope).view(params.jobId) };
  });
  mount(API.analyses, ({ scope, params }) => logs(scope).history(params.jobId, params.logId));
  mount(API.analyseAnew, async ({ scope, params, who, signal, writeKey }) => {
    const result = await logs(scope).analyseAnew(params.jobId, params.logId, who, { signal, writeKey });
    return { result, job: await jobs(scope).view(params.jobId) };
  });
  mount(API.analysis, async ({ scope, params }) => {
    await logs(scope).find(params.jobId, params.logId);
    const made = await logs(scope).latest(params.logId);
    if (!made)
      throw new HttpError(
        404,
        "not-analysed",
        "This log is stored and not analysed yet. Check its mapping table and analyse it.",
      );
    return made;
  });
}
