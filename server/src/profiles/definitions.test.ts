// Guards: a shop keeps its own definitions of a link by name, for itself; one that cannot be used is refused with its place.
import { afterAll, beforeAll, expect, it } from "@jest/globals";
import { type Agent, type Harness, startHarness } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
afterAll(() => h.close());

const channel = { channel: "turbine_rpm", ecu: "transmission", did: "0xA123", bytes: 2, scale: 1, offset: 0 };
const file = (name: string, more: object = {}) => ({
  format: "gearsense-link",
  version: 1,
  name,
  channels: [{ ...channel, ...more }],
});
const PATH = "/api/link-definitions";
const kept = async (agent = iona) => (await agent.get(PATH).expect(200)).body.definitions;

it("is kept, replaced by one of the same name, seen by nobody else, and forgotten", async () => {
  await iona.post(PATH).send(file("adapter / bay 2")).expect(200);
  const { body } = await iona
    .post(PATH)
    .send(file("adapter / bay 2", { scale: 0.25 }))
    .expect(200);
  expect(body.definitions).toEqual([file("adapter / bay 2", { scale: 0.25 })]);
  const odda = await h.signIn("odda");
  expect(await kept(odda)).toEqual([]);
  await odda.delete(`${PATH}/${encodeURIComponent("adapter / bay 2")}`).expect(404);
  const fenn = await h.signIn("fenn");
  expect(await kept(fenn)).toHaveLength(1);
  await fenn.post(PATH).send(file("mine")).expect(403);
  await iona.delete(`${PATH}/${encodeURIComponent("adapter / bay 2")}`).expect(200);
  expect(await kept()).toEqual([]);
});

it("that gives an identifier twice or no channel is refused, with what and where", async () => {
  const twice = { ...file("ours"), channels: [channel, { ...channel, channel: "output_rpm" }] };
  expect((await iona.post(PATH).send(twice).expect(422)).body.error.message).toMatch(
    /channels\.1\.did: 0xA123 of the transmission is given twice/,
  );
  expect(
    (
      await iona
        .post(PATH)
        .send({ ...file(" ") })
        .expect(400)
    ).body.error.fields.name,
  ).toMatch(/is needed/);
  expect(await kept()).toEqual([]);
});
