// Guards: a session with the simulated vehicle over its port: who is there, codes, batches of values, a recording without a hole, a link
// that is cut, a vehicle that is not simulated is only read from.
import { createServer, type Socket } from "node:net";
import {
  batchesOf,
  LinkError,
  LinkSession,
  LogText,
  type RecordedRow,
  Recorder,
  readAllCodes,
  readVin,
  TRANSMISSION,
  tcpWire,
  WriteRefused,
} from "@gearsense/link";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { type RunningVehicle, startVehicle } from "./vehicle.ts";

let vehicle: RunningVehicle;
beforeAll(async () => {
  vehicle = await startVehicle({ unit: "brae-p6", faults: [], drive: "mixed", seed: 3, port: 0, speed: 4, device: {} });
});
afterAll(() => vehicle.close());
const open = async (port = vehicle.port) => LinkSession.open(await tcpWire("127.0.0.1", port));
const wait = (ms: number) => new Promise((r) => setTimeout(r, ms));

describe("a session", () => {
  it("knows the simulated vehicle and its number, reads codes", async () => {
    const session = await open();
    expect(session.isSimulated).toBe(true);
    expect(await readVin(session)).toBe(vehicle.vin);
    expect(await readAllCodes(session)).toEqual([]);
    await expect(session.request(TRANSMISSION, Uint8Array.from([0x22, 0xbe, 0xef]))).rejects.toThrow(
      /The transmission refused: it has no such value/,
    );
    session.close();
    await expect(session.request(TRANSMISSION, Uint8Array.from([0x3e, 0]))).rejects.toThrow(LinkError);
  });
  it("asks for channels in batches of eight, each control unit for its own", () => {
    const all = vehicle.definition.channels.map((c) => c.channel);
    const batches = batchesOf(vehicle.definition, all);
    expect(batches.every((b) => b.channels.length <= 8 && b.channels.every((c) => c.ecu === b.address.name))).toBe(
      true,
    );
    expect(batches.flatMap((b) => b.channels.map((c) => c.channel)).sort()).toEqual([...all].sort());
  });
  it("records rows in the order of time until it is stopped; a pause is a gap", async () => {
    const session = await open();
    const channels = ["engine_rpm", "engine_torque_nm", "turbine_rpm", "output_rpm", "gear_commanded", "fluid_c"];
    const rows: RecordedRow[] = [];
    const recorder = new Recorder(session, vehicle.definition, channels, (r) => rows.push(r));
    await wait(1500);
    expect(recorder.state.rateHz).toBeGreaterThan(3);
    recorder.pause(true);
    await wait(400);
    const before = rows.length;
    await wait(400);
    expect(rows.length).toBe(before);
    recorder.pause(false);
    await wait(700);
    await recorder.stop();
    session.close();
    expect(rows.length).toBeGreaterThan(before);
    for (const [i, r] of rows.entries()) expect(r.timeS).toBeGreaterThanOrEqual(rows[i - 1]?.timeS ?? 0);
    expect(new Set(rows.flatMap((r) => [...r.values.keys()]))).toEqual(new Set(channels));
    const text = new LogText(channels);
    expect(text.head).toBe(`time_s,${channels.join(",")}\n`);
    expect(
      text.line({
        timeS: 1.2345,
        values: new Map([
          ["turbine_rpm", 1000.25],
          ["fluid_c", Number.NaN],
        ]),
      }),
    ).toBe("1.234,,,1000.25,,,\n".replace("1.234", (1.2345).toFixed(3)));
  });
  it("over a device that loses frames, is busy and slow goes on, with what was missed counted", async () => {
    const bad = await startVehicle({
      unit: "brae-p6",
      faults: [],
      drive: "town",
      seed: 5,
      port: 0,
      speed: 1,
      device: { lost: 0.03, busy: 0.1, slow: 0.05 },
    });
    const session = await open(bad.port);
    const rows: RecordedRow[] = [];
    const recorder = new Recorder(session, bad.definition, ["engine_rpm", "turbine_rpm", "output_rpm"], (r) =>
      rows.push(r),
    );
    await wait(4000);
    await recorder.stop();
    session.close();
    await bad.close();
    expect(rows.length).toBeGreaterThan(5);
  });
  it("that is cut ends what was asked, in words", async () => {
    const short = await startVehicle({
      unit: "brae-p6",
      faults: [],
      drive: "town",
      seed: 5,
      port: 0,
      speed: 1,
      device: { ignitionOff: true },
    });
    const wire = await tcpWire("127.0.0.1", short.port);
    const opening = LinkSession.open(wire);
    await wait(50);
    await short.close();
    await expect(opening).rejects.toThrow(/link|ended/);
    await expect(tcpWire("127.0.0.1", short.port)).rejects.toThrow(/nobody listens there/);
  });
});

describe("a vehicle that is not simulated", () => {
  it("is only read from: nothing that changes something leaves this side", async () => {
    const sent: string[] = [];
    const sockets: Socket[] = [];
    const server = createServer((s) => {
      sockets.push(s);
      s.setEncoding("latin1");
      // answers every single question with a refusal: it knows nothing
      s.on("data", (d: string) => {
        sent.push(d);
        for (const m of d.matchAll(/7E([01])#0[1-7]([0-9A-F]{2})/g))
          s.write(`(${performance.now().toFixed(6)}) can0 7E${Number(m[1]) + 8}#037F${m[2]}11\n`);
      });
    });
    const port = await new Promise<number>((resolve) =>
      server.listen(0, "127.0.0.1", () => resolve((server.address() as { port: number }).port)),
    );
    const session = await open(port);
    expect(session.isSimulated).toBe(false);
    sent.length = 0;
    for (const request of [[0x04], [0x14, 0xff, 0xff, 0xff], [0x31, 1, 2, 0x10], [0x10, 3], [0x2e, 1, 2, 3], [0x11, 1]])
      await expect(session.request(TRANSMISSION, Uint8Array.from(request))).rejects.toThrow(WriteRefused);
    expect(sent).toEqual([]);
    await expect(session.request(TRANSMISSION, Uint8Array.from([0x22, 0xa0, 0x00]))).rejects.toThrow(
      /does not know this service/,
    );
    expect(sent.join("")).toMatch(/7E1#0322A000/);
    session.close();
    for (const s of sockets) s.destroy();
    await new Promise((r) => server.close(r));
  });
});
