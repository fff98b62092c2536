// Guards: a fresh server is set up once, by who sees its code; of two at once one wins; what is wrong is told by the field.
import { afterAll, beforeAll, expect, it } from "@jest/globals";
import { agentOf, applicationOn, freshDatabase } from "../testing/harness.ts";
import { createAccountStore } from "./store.ts";

let fresh: Awaited<ReturnType<typeof freshDatabase>>;
let application: Awaited<ReturnType<typeof applicationOn>>;
beforeAll(async () => {
  fresh = await freshDatabase();
  application = await applicationOn(fresh.db, fresh.url);
});
afterAll(async () => {
  await application.close();
  await fresh.drop();
});

const codeOf = async () => (await createAccountStore(fresh.db).setupCode()) as string;
const typed = async (more: object = {}) => ({
  code: await codeOf(),
  shop: { name: "Tolm Gearboxes", currency: "EUR", hourlyRate: 64 },
  owner: { name: "Una Fell", signIn: "una", password: "three words together" },
  ...more,
});
const send = async (body: object) => agentOf(application.app).post("/api/setup").send(body);

it("waits for its code, the same for every process and start", async () => {
  expect(await codeOf()).toMatch(/^[A-HJ-NP-Z2-9]{4}-[A-HJ-NP-Z2-9]{4}$/);
  expect(await codeOf()).toBe(await codeOf());
  expect((await agentOf(application.app).get("/api/setup")).body).toEqual({ open: true });
});

it.each([
  [{ code: "AAAA-AAAA" }, 403, "code", /isn’t the code/],
  [{ shop: { name: " ", currency: "EUR", hourlyRate: 1 } }, 400, "shop.name", /is needed/],
  [{ owner: { name: "U", signIn: "una", password: "nine char" } }, 400, "owner.password", /at least 10/],
  [{ owner: { name: "U", signIn: "unaunauna1", password: "UNAunauna1" } }, 400, "owner.password", /the name itself/],
])("refuses %j", async (more, status, field, says) => {
  const answer = await send(await typed(more));
  expect(answer.status).toBe(status);
  expect(answer.body.error.fields[field]).toMatch(says);
  expect(await createAccountStore(fresh.db).anyShop()).toBe(false);
});

it("of two at once one is the owner and signed in; afterwards nobody sets it up, and the code is gone", async () => {
  const body = await typed();
  const [a, b] = [agentOf(application.app), agentOf(application.app)];
  const both = await Promise.all(
    [a, b].map((agent) => agent.post("/api/setup").send({ ...body, code: body.code.toLowerCase() })),
  );
  expect(both.map((r) => r.status).sort()).toEqual([200, 409]);
  const winner = both[0]?.status === 200 ? a : b;
  expect((await winner.get("/api/session").expect(200)).body).toMatchObject({
    account: { signIn: "una", role: "owner" },
    shop: { name: "Tolm Gearboxes", hourlyRate: 64 },
  });
  expect((await send(body)).body.error.code).toBe("set-up");
  expect((await agentOf(application.app).get("/api/setup")).body).toEqual({ open: false });
  expect(await fresh.db("setting").where({ name: "setup-code" })).toEqual([]);
  expect(await createAccountStore(fresh.db).setupCode()).toBeUndefined();
});
