// Two processes that answer and two that work, on one database: what is lost with one of them is lost to nobody.
import { type ChildProcess, spawn } from "node:child_process";
import { once } from "node:events";
import type { JobView, WorkView } from "@gearsense/contract";
import { openLog, proposeMapping } from "@gearsense/core/log";
import { type APIRequestContext, expect, request, test } from "@playwright/test";
import { madeLog, unitFile, WORN_THIRD_CLUTCH } from "./support.ts";

const FIRST_PORT = 4181;
const LOGS = 4;

interface Started {
  readonly process: ChildProcess;
  readonly at: string;
  readonly said: string;
}

async function start(role: string, port: number): Promise<Started> {
  const process_ = spawn("scripts/e2e-server.sh", {
    env: {
      ...process.env,
      PORT: String(port),
      ROLE: role,
      GEARSENSE_DEMO: "0",
      ...(port === FIRST_PORT ? {} : { E2E_JOIN: `gearsense_e2e_${FIRST_PORT}` }),
    },
    stdio: ["ignore", "pipe", "inherit"],
  });
  let said = "";
  await new Promise<void>((ready, failed) => {
    process_.stdout.on("data", (d: Buffer) => {
      said += d.toString();
      if (said.includes("is ready")) ready();
    });
    process_.once("exit", (code) => failed(new Error(`${role} ended with ${code}: ${said}`)));
  });
  return { process: process_, at: `http://127.0.0.1:${port}`, said };
}

test("nothing is lost or done twice when one that works and one that answers are killed", async () => {
  const one = await start("web", FIRST_PORT);
  // what starts at the same time prepares the database one after another
  const [two, workerA, workerB] = await Promise.all(
    ["web", "worker", "worker"].map((role, i) => start(role, FIRST_PORT + 1 + i)),
  );
  if (!two || !workerA || !workerB) throw new Error("not started");
  const code = /with the code (\S+)\./.exec(one.said)?.[1] ?? "";
  const owner = { name: "Marl", signIn: "owner", password: "three words together" };
  const setUp = await request.newContext({ baseURL: one.at, extraHTTPHeaders: { "x-gearsense-client": "test" } });
  const shop = { name: "Harbour Road", currency: "EUR", hourlyRate: 70 };
  expect((await setUp.post("/api/setup", { data: { code, shop, owner } })).ok()).toBe(true);
  const clientOf = async (at: string): Promise<APIRequestContext> => {
    const client = await request.newContext({ baseURL: at, extraHTTPHeaders: { "x-gearsense-client": "test" } });
    const signedIn = await client.post("/api/session", { data: { signIn: owner.signIn, password: owner.password } });
    expect(signedIn.ok()).toBe(true);
    return client;
  };
  const [a, b] = [await clientOf(one.at), await clientOf(two.at)];
  const opened = await a.post("/api/jobs", {
    data: {
      vehicle: { name: "Ferry tug", plate: "", owner: "Skerrow Harbour" },
      unitId: "brae-p6",
      odometerKm: 1000,
      intake: { complaint: "It slips in third.", symptoms: [], doneAlready: "", recentEvents: "" },
    },
  });
  const job = (await opened.json()) as JobView;
  const bytes = Buffer.from(madeLog([WORN_THIRD_CLUTCH], { durationS: 1500 }).text);
  const mapping = proposeMapping(openLog(bytes).table, unitFile("brae-p6")).map(({ column, channel, unit }) => ({
    column,
    channel,
    unit,
  }));
  const logIds: string[] = [];
  for (let i = 0; i < LOGS; i++) {
    const stored = await a.post(`/api/jobs/${job.id}/logs?fileName=drive-${i}.csv&role=before&bytes=${bytes.length}`, {
      data: bytes,
      headers: { "content-type": "application/octet-stream" },
    });
    logIds.push(((await stored.json()) as { logId: string }).logId);
  }

  const analyse = (client: APIRequestContext, logId: string) =>
    client.post(`/api/jobs/${job.id}/logs/${logId}/analysis`, {
      data: { mapping },
      headers: { "idempotency-key": `key-of-${logId}` },
      timeout: 0,
    });
  const analysed = logIds.map((logId, i) => analyse(i % 2 ? a : b, logId).catch((error: unknown) => error));
  const work = async () => ((await (await b.get(`/api/jobs/${job.id}/work`)).json()) as { work: WorkView[] }).work;
  await expect
    .poll(async () => (await work()).filter((w) => w.state === "running").length, { intervals: [20] })
    .toBe(LOGS);
  workerA.process.kill("SIGKILL");
  one.process.kill("SIGKILL");
  const answers = await Promise.all(analysed);
  // who was answered by the one that is gone asks again, elsewhere
  for (const [i, logId] of logIds.entries()) {
    const answer = i % 2 ? await analyse(b, logId) : (answers[i] as Awaited<ReturnType<typeof analyse>>);
    expect(answer.status(), logId).toBe(200);
  }

  const { entries } = (await (await b.get(`/api/jobs/${job.id}`)).json()) as JobView;
  expect(entries.filter((e) => e.kind === "analysis").map((e) => e.body.logId)).toHaveLength(LOGS);
  for (const logId of logIds) {
    expect(entries.filter((e) => e.kind === "analysis" && e.body.logId === logId)).toHaveLength(1);
    const history = (await (await b.get(`/api/jobs/${job.id}/logs/${logId}/analyses`)).json()) as unknown[];
    expect(history).toHaveLength(1);
  }
  expect(await work()).toEqual([]);
  expect((await fetch(`${workerB.at}/api/health`)).status).toBe(200);
  expect((await fetch(`${workerB.at}/api/jobs`)).status).toBe(404);

  for (const left of [two, workerB]) {
    left.process.removeAllListeners("exit");
    const ended = once(left.process, "exit");
    left.process.kill("SIGTERM");
    expect((await ended)[0]).toBe(0);
  }
});
