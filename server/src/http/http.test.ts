// Guards: what every answer carries, and that no error is bare.
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import request from "supertest";
import { readConfig } from "../config.ts";
import { type Agent, type Harness, startHarness } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
afterAll(() => h.close());

describe("every answer", () => {
  it("forbids foreign scripts and framing, and does not name its server", async () => {
    const { headers } = await request(h.app).get("/api/health").expect(200);
    expect(headers["content-security-policy"]).toMatch(/script-src 'self'(;|$)/);
    expect(headers["content-security-policy"]).toMatch(/frame-ancestors 'self'/);
    expect(headers["x-content-type-options"]).toBe("nosniff");
    expect(headers["x-powered-by"]).toBeUndefined();
  });
  it("names the application and library that it came from: the same each time", async () => {
    const version = async () => (await request(h.app).get("/api/health").expect(200)).headers["x-gearsense-version"];
    expect(await version()).toMatch(/^[0-9a-f]{16}$/);
    expect(await version()).toBe(await version());
  });
});

describe("errors", () => {
  it("an unknown address of the API says where the description is", async () => {
    const { body } = await iona.get("/api/nonsense").expect(404);
    expect(body.error).toMatchObject({ code: "not-found", message: expect.stringMatching(/openapi/) });
  });
  it("a body that isn’t JSON, or too large, is refused by name", async () => {
    const post = (text: string) => iona.post("/api/jobs").set("content-type", "application/json").send(text);
    expect((await post("{not json").expect(400)).body.error.message).toMatch(/not valid JSON/);
    expect((await post(JSON.stringify({ x: "y".repeat(1_200_000) })).expect(413)).body.error.code).toBe("too-large");
  });
  it("an unforeseen failure gets a number that stands in the log, and shows nothing of the inside", async () => {
    await h.db.schema.renameTable("vehicle", "vehicle_away");
    try {
      const { body } = await iona.get("/api/jobs").expect(500);
      expect(body.error.code).toBe("unexpected");
      expect(body.error.message).toContain(body.error.id);
      expect(JSON.stringify(body)).not.toMatch(/vehicle|relation|select/);
    } finally {
      await h.db.schema.renameTable("vehicle_away", "vehicle");
    }
    await iona.get("/api/jobs").expect(200);
  });
});

describe("figures of the process", () => {
  it("are for who brings the token, by route and answer, and hold no id of anybody", async () => {
    const watched = await startHarness(5, { metricsToken: "a token of the shop" });
    const agent = await watched.signIn("iona");
    const id = "11111111-2222-4333-8444-555555555555";
    await agent.get("/api/jobs").expect(200);
    await agent.get(`/api/jobs/${id}`).expect(404);
    const ask = (token?: string) =>
      request(watched.app)
        .get("/api/metrics")
        .set(token ? { authorization: `Bearer ${token}` } : {});
    await ask().expect(404);
    await ask("a token of the shoP").expect(404);
    // as many letters, more bytes
    await ask("a token of the sh\u00f6p").expect(404);
    const { text } = await ask("a token of the shop").expect(200);
    expect(text).toMatch(/gearsense_request_seconds_count\{method="GET",route="\/api\/jobs",status="200"\} 1/);
    expect(text).toMatch(/route="\/api\/jobs\/:jobId",status="404"\} 1/);
    expect(text).toMatch(/gearsense_database_connections\{state="used"\} \d/);
    expect(text).not.toContain(id);
    await watched.close();
    // nobody set one: nobody has one
    await request(h.app).get("/api/metrics").set("authorization", "Bearer ").expect(404);
  });
  it("every request has a number; a proxy's own is kept where it is one", async () => {
    const of = async (given?: string) =>
      (
        await request(h.app)
          .get("/api/health")
          .set(given ? { "x-request-id": given } : {})
      ).headers["x-request-id"];
    expect(await of()).toMatch(/^[0-9a-f-]{36}$/);
    expect(await of("proxy-0000-0001")).toBe("proxy-0000-0001");
    expect(await of("short")).not.toBe("short");
    expect(await of("spaces are none of it")).not.toContain(" ");
  });
});

describe("configuration", () => {
  it("needs the database and says how to start", () => {
    expect(() => readConfig({})).toThrow(/gearsense start/);
  });
  it("listens on loopback unless it is asked for by our own name", () => {
    const env = { DATABASE_URL: "postgres://x", PORT: "4321", HOST: "0.0.0.0", GEARSENSE_DEMO: "0" };
    expect(readConfig(env)).toMatchObject({ host: "127.0.0.1", port: 4321, demo: false, tls: undefined });
    const bay = {
      ...env,
      GEARSENSE_HOST: "0.0.0.0",
      TLS_FOLDER: "tls",
      ALLOWED_HOSTS: " bay.local, ,b",
      BACKUP_FOLDER: "",
    };
    expect(readConfig(bay)).toMatchObject({
      host: "0.0.0.0",
      tls: { folder: "tls" },
      allowedHosts: ["bay.local", "b"],
      backupFolder: undefined,
    });
    expect(readConfig({ ...bay, TLS_CERT: "c", TLS_KEY: "k" }).tls).toEqual({ certPath: "c", keyPath: "k" });
  });
});
