// Guards: a log is stored unchanged or not at all; bad files are refused with place and remedy; analysis, suspects,
// proof and report rest on it.
import { createHash } from "node:crypto";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { connect as socket } from "node:net";
import type { ProofView, SuspectsView } from "@gearsense/contract";
import type { Report } from "@gearsense/core/report";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import {
  type Agent,
  analysedLog,
  type Harness,
  madeLog,
  openJob,
  startHarness,
  storeLog,
  WORN_THIRD_CLUTCH,
} from "../testing/harness.ts";
import { pdfPages, squeezed } from "../testing/pdf-text.ts";

let h: Harness;
let iona: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
afterAll(() => h.close());

const logsOf = async (jobId: string) => Number((await h.db("log").where({ job_id: jobId }).count("* as n").first())?.n);

describe("storing", () => {
  it("keeps every byte, over several pieces, with its hash", async () => {
    const job = await openJob(iona);
    const text = Buffer.from(`time_s,engine_rpm\r\n${"0.1,1000\r\n".repeat(300_000)}`);
    const { body } = await storeLog(iona, job.id, text);
    expect(body.sha256).toBe(createHash("sha256").update(text).digest("hex"));
    const back = await iona
      .get(`/api/jobs/${job.id}/logs/${body.logId}/raw`)
      .buffer(true)
      .parse((res, done) => {
        const parts: Buffer[] = [];
        res.on("data", (p: Buffer) => parts.push(p));
        res.on("end", () => done(null, Buffer.concat(parts)));
      });
    expect(Buffer.compare(back.body as Buffer, text)).toBe(0);
    expect(Number((await h.db("log_chunk").where({ log_id: body.logId }).count("* as n").first())?.n)).toBeGreaterThan(
      2,
    );
  });
  it.each([
    ["an empty file", Buffer.alloc(0), 0, 422, /0 bytes/],
    [
      "a picture named .csv",
      Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 1, 2, 3]),
      undefined,
      422,
      /PNG picture/,
    ],
    ["a file over the limit, before it is sent", Buffer.from("a,b\n1,2\n"), 300 * 1048576, 413, /300 MB; up to 100 MB/],
    ["fewer bytes than announced", Buffer.from("a,b\n1,2\n"), 5000, 400, /8 of 5000 bytes/],
  ])("refuses %s and leaves no trace", async (_name, bytes, announced, status, words) => {
    const job = await openJob(iona);
    const response = await iona
      .post(`/api/jobs/${job.id}/logs`)
      .query({ fileName: "x.csv", role: "before", bytes: announced ?? bytes.length })
      .set("content-type", "application/octet-stream")
      .send(bytes);
    expect(response.status).toBe(status);
    expect(response.body.error.message).toMatch(words);
    expect(await logsOf(job.id)).toBe(0);
    expect((await iona.get(`/api/jobs/${job.id}`)).body.entries).toHaveLength(1);
  });
  it("leaves no trace of an upload whose connection breaks", async () => {
    const job = await openJob(iona);
    const server = createServer(h.app);
    await new Promise<void>((r) => server.listen(0, "127.0.0.1", r));
    const { port } = server.address() as AddressInfo;
    // sign in over the socket as well: a cookie belongs to a host
    const login = await fetch(`http://127.0.0.1:${port}/api/session`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ signIn: "iona", password: "a test password" }),
    });
    const cookie = login.headers.get("set-cookie")?.split(";")[0];
    await new Promise<void>((resolve) => {
      const s = socket(port, "127.0.0.1", () => {
        s.write(
          `POST /api/jobs/${job.id}/logs?fileName=a.csv&role=before&bytes=5000000 HTTP/1.1\r\nHost: x\r\nCookie: ${cookie}\r\nContent-Type: application/octet-stream\r\nContent-Length: 5000000\r\n\r\n`,
        );
        s.write("time_s,engine_rpm\n".repeat(100_000));
        setTimeout(() => s.destroy(), 300);
      });
      s.on("close", () => resolve());
    });
    await new Promise((r) => setTimeout(r, 500));
    expect(await logsOf(job.id)).toBe(0);
    server.closeAllConnections();
    await new Promise((r) => server.close(r));
  });
});

describe("analysing", () => {
  it("refuses a log of another kind of unit, keeps the file, and says which unit fits", async () => {
    const job = await openJob(iona, { unitId: "corran-w7" });
    const log = madeLog(h.unit, []);
    const { body } = await storeLog(iona, job.id, log.text);
    const response = await iona
      .post(`/api/jobs/${job.id}/logs/${body.logId}/analysis`)
      .send({ mapping: log.mapping })
      .expect(422);
    expect(response.body.error.message).toMatch(/does not suit Corran W7.*fit Brae P6/);
    expect(await logsOf(job.id)).toBe(1);
    const { body: view } = await iona.get(`/api/jobs/${job.id}`);
    expect(view.entries.map((e: { kind: string }) => e.kind)).toEqual(["intake", "log"]);
    await iona.get(`/api/jobs/${job.id}/logs/${body.logId}/analysis`).expect(404);
  });
  it("refuses a mapping without time", async () => {
    const job = await openJob(iona);
    const log = madeLog(h.unit, []);
    const { body } = await storeLog(iona, job.id, log.text);
    const mapping = log.mapping.map((m) => (m.channel === "time_s" ? { ...m, channel: null } : m));
    const response = await iona.post(`/api/jobs/${job.id}/logs/${body.logId}/analysis`).send({ mapping }).expect(422);
    expect(response.body.error.code).toBe("no-time");
  });
});

const note = (agent: Agent, jobId: string, entry: object) =>
  agent.post(`/api/jobs/${jobId}/entries`).send(entry).expect(200);

describe("from a log to the report", () => {
  it("names the worn clutch, moves with a check, and proves the repair, in HTML data and PDF alike", async () => {
    const job = await openJob(iona);
    const before = madeLog(h.unit, [WORN_THIRD_CLUTCH], 9, "mixed", 420);
    await analysedLog(iona, job.id, before);
    const suspects = async (): Promise<SuspectsView> =>
      (await iona.get(`/api/jobs/${job.id}/suspects`).expect(200)).body;
    const first = await suspects();
    expect(first.ranking.suspects[0]?.component).toBe("TC");
    expect(first.chart.reading.explanations).toEqual([["TC"]]);
    expect(first.levelKnown).toBe(false);
    await note(iona, job.id, {
      kind: "level",
      body: { state: "ok", method: "overflow", fluidC: 40, litresFromFull: null, engineRunning: true, note: "" },
      baseSeq: 0,
    });
    const check = {
      checkId: "element-pressure:sol_TC",
      component: "sol_TC",
      title: "Apply pressure",
      outcome: "low",
      outcomeLabel: "Stays below",
      abnormal: true,
      minutes: 30,
      note: "",
    };
    await note(iona, job.id, { kind: "check", body: check, baseSeq: 0 });
    const second = await suspects();
    const odds = (s: SuspectsView, id: string) => s.ranking.suspects.find((x) => x.faultId === id)?.probability ?? 0;
    expect(odds(second, "element-leak:TC")).toBeGreaterThan(odds(first, "element-leak:TC"));
    expect(second.previous["element-leak:TC"]).toBeLessThan(odds(second, "element-leak:TC"));
    expect(second.movedBy?.label).toMatch(/Apply pressure/);
    expect(second.advice.checks.some((c) => c.check.id === check.checkId)).toBe(false);

    const option = second.advice.options[0];
    await note(iona, job.id, {
      kind: "decision",
      body: {
        repairId: option?.repair.id,
        title: option?.repair.title,
        reason: "it is the clutch",
        expectedCost: 1,
        cures: 0.9,
        modelVersion: 1,
        odds: [],
        levelKnown: true,
      },
      baseSeq: 0,
    });
    await note(iona, job.id, {
      kind: "work",
      body: { text: "Clutch renewed", minutes: 720, parts: [{ name: "Seal kit", quantity: 2, cost: 48.5 }] },
      baseSeq: 0,
    });
    await analysedLog(iona, job.id, madeLog(h.unit, [], 10, "mixed", 900), "after");
    const proof: ProofView = (await iona.get(`/api/jobs/${job.id}/proof`).expect(200)).body;
    const slips = proof.comparison?.findings.filter((f) => f.findingId.startsWith("slip:")) ?? [];
    expect(slips.length).toBeGreaterThan(0);
    for (const f of slips) expect(f.verdict).toBe("gone");

    const report: Report = (await iona.get(`/api/jobs/${job.id}/report`).query({ system: "metric" }).expect(200)).body;
    const text = JSON.stringify(report);
    for (const words of [
      "It slips in fourth.",
      "Slip in gear 3",
      "Clutch renewed",
      "Seal kit",
      "12.0 h; parts 97.00 EUR",
      "unit file",
      "gone",
    ])
      expect(text).toContain(words);
    expect(report.caution).toMatch(/never replace the vehicle maker/);
    const peak = Math.round(Math.max(...before.truth.slips.map((s) => s.peakRpm)));
    const told = [...text.matchAll(/highest slip (\d+)/g)].map((m) => Number(m[1]));
    expect(Math.abs(Math.max(...told) - peak)).toBeLessThan(20);
    const imperial: Report = (await iona.get(`/api/jobs/${job.id}/report`).query({ system: "imperial" }).expect(200))
      .body;
    expect(JSON.stringify(imperial)).toMatch(/lbf·ft/);

    const pdf = await iona
      .get(`/api/jobs/${job.id}/report.pdf`)
      .query({ system: "metric" })
      .buffer(true)
      .parse((res, done) => {
        const parts: Buffer[] = [];
        res.on("data", (p: Buffer) => parts.push(p));
        res.on("end", () => done(null, Buffer.concat(parts)));
      });
    expect(pdf.headers["content-type"]).toBe("application/pdf");
    const words = squeezed((await pdfPages(pdf.body as Buffer)).join(" "));
    for (const s of report.sections) expect(words).toContain(squeezed(s.title));
    expect(words).toContain("Itslipsinfourth.");
    expect(words).toContain(`highestslip${Math.max(...told)}rpm`);
  });
});
