// Guards: which answers a device keeps: jobs and knowledge, never backups, links or what is true of one moment only.
import { expect, it } from "@jest/globals";
import { keepsAnswer } from "./kept.ts";

it.each(["/api/jobs", "/api/jobs/1", "/api/jobs/1/suspects", "/api/knowledge", "/api/session", "/api/week"])(
  "%s is kept",
  (path) => expect(keepsAnswer(path)).toBe(true),
);
it.each([
  "/api/health",
  "/api/setup",
  "/api/certificate",
  "/api/backup",
  "/api/copies",
  "/api/copies/a.tar",
  "/api/money.csv",
  "/api/jobs/1/work",
  "/api/jobs/1/recording",
  "/api/jobs/1/relearn",
  "/jobs/1",
])("%s is not", (path) => expect(keepsAnswer(path)).toBe(false));
