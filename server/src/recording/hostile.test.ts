// Guards: whatever a device on the line does, the server goes on, says what is wrong, and keeps what was sound.
import { type AddressInfo, createServer, type Server, type Socket } from "node:net";
import { afterAll, afterEach, beforeAll, expect, it } from "@jest/globals";
import { type Agent, type Harness, newJob, startHarness } from "../testing/harness.ts";

let h: Harness;
let iona: Agent;
const servers: Server[] = [];
const sockets = new Set<Socket>();
beforeAll(async () => {
  h = await startHarness();
  iona = await h.signIn("iona");
});
afterAll(() => h.close());
afterEach(async () => {
  for (const s of sockets) s.destroy();
  await Promise.all(servers.map((s) => new Promise((r) => s.close(r))));
});

const time = () => (performance.now() / 1000).toFixed(6);
const line = (id: string, hex: string) => `(${time()}) can0 ${id}#${hex}\n`;
const answers = { "7E0": "7E8", "7E1": "7E9" } as Record<string, string>;

/** A device that answers each frame with what it likes. */
async function device(answer: (id: string, data: string) => string): Promise<number> {
  const made = createServer((socket) => {
    sockets.add(socket);
    socket.setEncoding("latin1");
    socket.on("error", () => undefined);
    socket.on("data", (text: string) => {
      for (const m of text.matchAll(/ (7E[01])#([0-9A-F]*)/g))
        if (!socket.destroyed) socket.write(answer(m[1] as string, m[2] as string), "latin1");
    });
  });
  servers.push(made);
  await new Promise<void>((r) => made.listen(0, "127.0.0.1", r));
  return (made.address() as AddressInfo).port;
}
const junk = (n: number) => Array.from({ length: n }, (_, i) => String.fromCharCode((i * 7919) % 256)).join("");

const DEVICES: readonly (readonly [string, (id: string, data: string) => string])[] = [
  ["garbage", () => junk(4000)],
  ["one endless line", () => "A".repeat(200_000)],
  ["a first frame of the largest length, and never more", (id) => line(answers[id] as string, "1FFF000000000000")],
  ["pending without end", (id, data) => line(answers[id] as string, `037F${data.slice(2, 4)}7800000000`)],
  ["frames of other units", () => line("123", "DEADBEEF") + line("7FF", "0102030405060708")],
  ["flow control that nobody asked for", (id) => line(answers[id] as string, "300000").repeat(50)],
  ["consecutive frames without a first", (id) => line(answers[id] as string, "2101020304050607").repeat(50)],
];

it("refuses every such link with a sentence, or tells nothing of it, and answers on meanwhile", async () => {
  const asked = DEVICES.map(async ([name, answer]) => {
    const { id } = (await iona.post("/api/jobs").send(newJob()).expect(200)).body;
    const at = { host: "127.0.0.1", port: await device(answer) };
    const [look, relearn] = await Promise.all([
      iona.get(`/api/jobs/${id}/link`).query(at),
      iona.post(`/api/jobs/${id}/relearn`).send({ ...at, procedureId: "fill-learn" }),
    ]);
    const { run } = (await iona.get(`/api/jobs/${id}/relearn`).expect(200)).body;
    return { name, look, relearn, run };
  });
  let settled = false;
  const all = Promise.all(asked).finally(() => {
    settled = true;
  });
  let answered = 0;
  while (!settled) {
    await iona.get("/api/health").expect(200);
    answered++;
    await new Promise((r) => setTimeout(r, 200));
  }
  expect(answered).toBeGreaterThan(5);
  for (const { name, look, relearn, run } of await all) {
    expect([name, [200, 502].includes(look.status), [409, 502].includes(relearn.status), run]).toEqual([
      name,
      true,
      true,
      null,
    ]);
    if (look.status === 200) expect(look.body).toMatchObject({ simulated: false, vin: null, codes: [] });
    else expect(look.body.error.message).toMatch(/The link cannot be used: .+ Look at address and port/);
  }
}, 120_000);
