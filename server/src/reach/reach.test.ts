// Guards: the shop's own certificate names what it is called by, is kept, and is made anew in time; a given one has to fit its key; only
// known names are answered; without TLS nothing but loopback is served.
import { createHash, X509Certificate } from "node:crypto";
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { createServer, request } from "node:https";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import express from "express";
import { pino } from "pino";
import supertest from "supertest";
import { errorHandler } from "../http/errors.ts";
import { isLoopback, namesOf } from "./addresses.ts";
import { certificateFor, givenCertificate, ownCertificate } from "./certificate.ts";
import { onlyCalled } from "./hosts.ts";

const NOW = new Date();
const DAY_MS = 24 * 3600 * 1000;
let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "gearsense-test-"));
});
afterAll(() => rmSync(folder, { recursive: true }));

describe("the shop’s own certificate", () => {
  it("names addresses and names, is kept for its owner alone, and is the same at the next start", async () => {
    const made = await ownCertificate(folder, ["192.0.2.7", "bay.local"], NOW);
    const x = new X509Certificate(made.cert);
    expect([x.checkIP("192.0.2.7"), x.checkHost("bay.local"), x.checkIP("192.0.2.8")]).toEqual([
      "192.0.2.7",
      "bay.local",
      undefined,
    ]);
    expect(made.fresh).toBe(true);
    expect(made.fingerprint).toMatch(/^([0-9A-F]{2}:){31}[0-9A-F]{2}$/);
    expect(statSync(join(folder, "key.pem")).mode & 0o777).toBe(0o600);
    const again = await ownCertificate(folder, ["192.0.2.7"], NOW);
    expect(again).toMatchObject({ fingerprint: made.fingerprint, fresh: false });
    const told = createHash("sha256").update(x.raw).digest("hex").toUpperCase();
    expect(made.fingerprint.replaceAll(":", "")).toBe(told);
  });
  it("is made anew for a new name, and within thirty days of its end", async () => {
    const first = await ownCertificate(folder, ["192.0.2.7"], NOW);
    const daysBefore = (days: number) => new Date(first.endsAt.getTime() - days * DAY_MS);
    expect((await ownCertificate(folder, ["192.0.2.7"], daysBefore(30.1))).fresh).toBe(false);
    expect((await ownCertificate(folder, ["192.0.2.7"], daysBefore(29.9))).fresh).toBe(true);
    expect((await ownCertificate(folder, ["192.0.2.9"], NOW)).fresh).toBe(true);
  });
  it("serves TLS to a device that trusts it, by its address", async () => {
    const { cert, key } = await ownCertificate(folder, ["127.0.0.1"], NOW);
    const server = createServer({ cert, key }, (_req, res) => res.end("in"));
    await new Promise<void>((r) => server.listen(0, "127.0.0.1", r));
    const { port } = server.address() as AddressInfo;
    const text = await new Promise((resolve, reject) => {
      request({ host: "127.0.0.1", port, ca: cert }, (res) => res.on("data", (d) => resolve(String(d))))
        .on("error", reject)
        .end();
    });
    expect(text).toBe("in");
    await new Promise((r) => server.close(r));
  });
});

describe("a given certificate", () => {
  it("is taken with its key; another’s key, and files that are none, are named", async () => {
    const at = (name: string) => join(folder, name);
    await ownCertificate(at("one"), ["bay.local"], NOW);
    await ownCertificate(at("two"), ["bay.local"], NOW);
    const [cert, key, other] = [at("one/certificate.pem"), at("one/key.pem"), at("two/key.pem")];
    const given = await givenCertificate(cert, key);
    expect(given.fingerprint).toBe(new X509Certificate(readFileSync(cert)).fingerprint256);
    await expect(givenCertificate(cert, other)).rejects.toThrow(/two\/key\.pem isn’t that of the certificate/);
    writeFileSync(at("text"), "no certificate");
    await expect(givenCertificate(at("text"), key)).rejects.toThrow(/aren’t a certificate and its key as PEM/);
    await expect(givenCertificate(at("nowhere"), key)).rejects.toThrow(/nowhere cannot be read \(ENOENT\)/);
  });
});

it("without a certificate only loopback is served", async () => {
  const asked = (host: string, tls?: { folder: string }) => certificateFor(host, tls, ["192.0.2.7"], NOW);
  expect(await asked("127.0.0.1")).toBeUndefined();
  for (const host of ["0.0.0.0", "192.0.2.7", "::"])
    await expect(asked(host)).rejects.toThrow(/passwords in the clear/);
  expect((await asked("0.0.0.0", { folder: join(folder, "bay") }))?.fresh).toBe(true);
});

describe("names", () => {
  it("are those given, then those of the machine where it listens everywhere", () => {
    expect(namesOf("127.0.0.1", [])).toEqual(["127.0.0.1"]);
    expect(namesOf("192.0.2.7", ["bay.local", "192.0.2.7"])).toEqual(["bay.local", "192.0.2.7"]);
    expect(namesOf("0.0.0.0", ["bay.local"]).length).toBeGreaterThan(1);
    expect(["127.0.0.1", "127.9.8.7", "localhost", "::1"].every(isLoopback)).toBe(true);
    expect(["0.0.0.0", "128.0.0.1", "10.127.0.0", "bay.local"].some(isLoopback)).toBe(false);
  });
  it.each([
    ["bay.local:4100", 200],
    ["BAY.local", 200],
    ["localhost:1", 200],
    ["[::1]:4100", 200],
    ["elsewhere.example", 421],
    ["bay.local.elsewhere.example", 421],
  ])("a request that calls it %s is answered %i", async (host, status) => {
    const app = express();
    app.use(onlyCalled(["bay.local"]));
    app.get("/", (_req, res) => void res.send("in"));
    app.use(errorHandler(pino({ level: "silent" })));
    const { body } = await supertest(app).get("/").set("host", host).expect(status);
    if (status === 421) expect(body.error.message).toMatch(/isn’t called .*--allow-host/);
  });
});
