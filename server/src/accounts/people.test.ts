// Guards: owners add, change and remove people; the last owner stays; passwords have rules and sign out elsewhere; two owners who change
// one price are told apart.
import type { PersonView } from "@gearsense/contract";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { type Agent, type Harness, newJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let marl: Agent;
beforeAll(async () => {
  h = await startHarness(50);
  marl = await h.signIn("marl");
});
afterAll(() => h.close());

const GOOD = "three words together";
const people = async (): Promise<PersonView[]> => (await marl.get("/api/people").expect(200)).body.people;
const idOf = async (signIn: string) => (await people()).find((p) => p.signIn === signIn)?.id ?? "";
const add = (more: object = {}) =>
  marl.post("/api/people").send({ name: "Una Fell", signIn: "una", role: "technician", password: GOOD, ...more });
const change = async (signIn: string, body: object) => marl.post(`/api/people/${await idOf(signIn)}`).send(body);
const signIn = (name: string, password: string) => h.anyone().post("/api/session").send({ signIn: name, password });

describe("people", () => {
  it("are added by an owner, sign in, work by their role, and are seen by no other shop", async () => {
    expect((await add().expect(200)).body.people).toContainEqual(
      expect.objectContaining({ signIn: "una", role: "technician" }),
    );
    await signIn("una", GOOD).expect(200);
    const una = await h.signIn("una", GOOD);
    await una.post("/api/jobs").send(newJob()).expect(200);
    await una.get("/api/people").expect(403);
    await una.post("/api/shop").send({}).expect(403);
    const odda = await h.signIn("odda");
    const theirs = (await odda.get("/api/people")).body.people ?? [];
    expect(theirs.map((p: PersonView) => p.signIn)).not.toContain("una");
    await odda.delete(`/api/people/${await idOf("una")}`).expect(odda ? 404 : 403);
  });
  it.each([
    [{ password: "nine char" }, "password", /at least 10 letters/],
    [{ signIn: "una-fellows", name: "X", password: "UNA-fellows" }, "password", /is the name itself/],
    [{ signIn: " " }, "signIn", /is needed/],
    [{ name: "" }, "name", /is needed/],
  ])("with %j are refused by the field", async (more, field, says) => {
    const { body } = await add(more);
    expect(body.error.fields[field]).toMatch(says);
  });
  it("a password of just ten letters will do; a name that is taken, in capitals too, will not", async () => {
    await add({ signIn: "ten", name: "Ten", password: "0123456789" }).expect(200);
    const { error } = (await add({ signIn: " TEN ", name: "Other" }).expect(409)).body;
    expect(error).toMatchObject({ code: "name-taken", fields: { signIn: "is taken" } });
  });
  it("lose their sessions with a new password, and with the account", async () => {
    const ten = await h.signIn("ten", "0123456789");
    expect((await change("ten", { password: GOOD })).status).toBe(200);
    await ten.get("/api/session").expect(401);
    const again = await h.signIn("ten", GOOD);
    expect((await change("ten", { role: "viewer", name: "Ten of Skerrow" })).status).toBe(200);
    expect((await again.get("/api/session").expect(200)).body.account).toMatchObject({
      role: "viewer",
      name: "Ten of Skerrow",
    });
    await marl.delete(`/api/people/${await idOf("ten")}`).expect(200);
    await again.get("/api/session").expect(401);
    await signIn("ten", GOOD).expect(401);
    await marl.delete("/api/people/11111111-1111-4111-8111-111111111111").expect(404);
  });
  it("keep one owner: the last is neither removed nor made less, of two who take each other's role one stays", async () => {
    const me = await idOf("marl");
    expect((await marl.delete(`/api/people/${me}`).expect(409)).body.error.code).toBe("last-owner");
    expect((await change("marl", { role: "technician" })).body.error.message).toMatch(
      /Make somebody else an owner first/,
    );
    await change("una", { role: "owner" });
    const una = await h.signIn("una", GOOD);
    const both = await Promise.all([
      marl.post(`/api/people/${await idOf("una")}`).send({ role: "technician" }),
      una.post(`/api/people/${me}`).send({ role: "technician" }),
    ]);
    expect(both.filter((r) => r.status === 200)).toHaveLength(1);
    const owners = await h
      .db("account")
      .where({ role: "owner", shop_id: (await h.db("account").where({ id: me }).first()).shop_id });
    expect(owners).toHaveLength(1);
    await h.db("account").where({ id: me }).update({ role: "owner" });
  });
});

describe("one's own password", () => {
  it("is changed with the one of now; this session stays, others end", async () => {
    const [here, elsewhere] = [await h.signIn("iona"), await h.signIn("iona")];
    const to = (current: string, password: string) => here.post("/api/session/password").send({ current, password });
    const { error } = (await to("wrong", GOOD).expect(422)).body;
    expect(error.fields.current).toMatch(/isn’t your current password/);
    expect((await to("a test password", "short").expect(400)).body.error.fields.password).toMatch(/at least 10/);
    await to("a test password", GOOD).expect(204);
    await here.get("/api/session").expect(200);
    await elsewhere.get("/api/session").expect(401);
    await signIn("iona", "a test password").expect(401);
    await signIn("iona", GOOD).expect(200);
  });
});

it("two owners who change one price: the second is told, nothing is lost", async () => {
  const shop = (await marl.get("/api/shop").expect(200)).body;
  const save = (more: object) =>
    marl.post("/api/shop").send({
      name: shop.name,
      currency: "EUR",
      hourlyRate: 80,
      taxPercent: 21.5,
      terms: " Twelve months. ",
      ownOdds: false,
      baseVersion: shop.version,
      ...more,
    });
  expect((await save({}).expect(200)).body).toMatchObject({ hourlyRate: 80, version: shop.version + 1 });
  expect((await marl.get("/api/session").expect(200)).body.shop).toMatchObject({
    hourlyRate: 80,
    taxPercent: 21.5,
    terms: "Twelve months.",
  });
  expect((await save({ hourlyRate: 90 }).expect(409)).body.error.code).toBe("stale");
  await save({ hourlyRate: 90, baseVersion: shop.version + 1 }).expect(200);
  for (const wrong of [
    { hourlyRate: -1 },
    { currency: "euro" },
    { name: " " },
    { taxPercent: 60.1 },
    { taxPercent: -0.1 },
  ])
    await save(wrong).expect(400);
});
