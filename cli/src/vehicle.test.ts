// Guards: the simulated vehicle on its port, asked by a plain client that was written from the standards and knows none of our code.
import { connect, type Socket } from "node:net";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { run } from "./main.ts";
import { type RunningVehicle, startVehicle, takeTheWheel, vehicleDefinition } from "./vehicle.ts";

const sound = { unit: "brae-p6", faults: [], drive: "mixed", seed: 3, port: 0, speed: 4, device: {} };

/** Hears lines, sends lines, answers first frames with flow control: nothing else. */
class Plain {
  private readonly socket: Socket;
  private rest = "";
  private readonly lines: string[] = [];
  private wake: (() => void) | undefined;
  constructor(port: number) {
    this.socket = connect(port, "127.0.0.1");
    this.socket.setEncoding("latin1");
    this.socket.on("data", (d: string) => {
      this.rest += d;
      const parts = this.rest.split("\n");
      this.rest = parts.pop() ?? "";
      this.lines.push(...parts);
      this.wake?.();
    });
  }
  send(line: string): void {
    this.socket.write(`${line}\n`);
  }
  private async next(): Promise<string> {
    while (this.lines.length === 0)
      await new Promise<void>((resolve) => {
        this.wake = resolve;
      });
    return this.lines.shift() as string;
  }
  /** The message that comes from an identifier. */
  async message(from: string, to: string): Promise<string> {
    let whole = "";
    let length = 0;
    for (;;) {
      const m = /^\(\d+\.\d{6}\) can0 ([0-9A-F]{3})#([0-9A-F]{16})$/.exec(await this.next());
      if (!m || m[1] !== from) continue;
      const data = m[2] as string;
      switch (data[0]) {
        case "0":
          return data.slice(2, 2 + 2 * Number.parseInt(data[1] as string, 16));
        case "1":
          length = 2 * Number.parseInt(data.slice(1, 4), 16);
          whole = data.slice(4);
          this.send(`${to}#300000`);
          break;
        case "2":
          whole += data.slice(2);
          if (whole.length >= length) return whole.slice(0, length);
          // a block is over
          break;
      }
    }
  }
  close(): void {
    this.socket.destroy();
  }
}

let vehicle: RunningVehicle;
let plain: Plain;
beforeAll(async () => {
  vehicle = await startVehicle(sound);
  plain = new Plain(vehicle.port);
});
afterAll(async () => {
  plain.close();
  await vehicle.close();
});
const ask = (line: string, from = "7E8", to = "7E0") => {
  plain.send(line);
  return plain.message(from, to);
};

describe("the simulated vehicle", () => {
  it("tells everybody which data it has, and its number in three frames", async () => {
    expect(await ask("7DF#020100")).toMatch(/^4100[0-9A-F]{8}$/);
    const vin = await ask("(1.000000) can0 7E0#020902AAAAAAAAAA");
    expect(Buffer.from(vin.slice(6), "hex").toString()).toBe(vehicle.vin);
    expect(vehicle.vin).toHaveLength(17);
  });
  it("is driven meanwhile: the engine turns, the clock goes on", async () => {
    const rpm = async () => Number.parseInt((await ask("7E0#02010C")).slice(4, 8), 16) / 4;
    expect(await rpm()).toBeGreaterThan(400);
    const runs = async () => Number.parseInt((await ask("7E0#02011F")).slice(4, 8), 16);
    const before = await runs();
    for (let i = 0; i < 200 && (await runs()) <= before; i++) await new Promise((r) => setTimeout(r, 20));
    expect(await runs()).toBeGreaterThan(before);
  });
  it("holds every channel where its definition says", async () => {
    const turbine = vehicle.definition.channels.find((c) => c.channel === "turbine_rpm");
    const did = turbine?.did.slice(2) ?? "";
    expect(await ask(`7E1#0322${did}`, "7E9", "7E1")).toMatch(new RegExp(`^62${did}[0-9A-F]{4}$`));
    for (const c of vehicleDefinition("corran-w7").channels) expect(c.did).toMatch(/^0xA0[0-9A-F]{2}$/);
    // eight of them in one long question, answered in one long answer
    const asked = vehicle.definition.channels
      .filter((c) => c.ecu === "transmission")
      .slice(0, 8)
      .map((c) => c.did.slice(2));
    const data = `22${asked.join("")}`;
    plain.send(`7E1#10${(data.length / 2).toString(16).padStart(2, "0")}${data.slice(0, 12)}`);
    plain.send(`7E1#21${data.slice(12, 26)}`);
    plain.send(`7E1#22${data.slice(26)}`);
    const answer = await plain.message("7E9", "7E1");
    for (const d of asked) expect(answer).toContain(d);
  });
  it("refuses by the standard, says that it is simulated, and lets rubbish pass", async () => {
    expect(await ask("7E1#022701", "7E9", "7E1")).toBe("7F277F");
    expect(await ask("7E1#0322BEEF", "7E9", "7E1")).toBe("7F2231");
    plain.send("nonsense");
    plain.send("x".repeat(5000));
    plain.send("7E1#1F");
    const told = await ask("7E1#0322F1A0", "7E9", "7E1");
    expect(Buffer.from(told.slice(6), "hex").toString()).toBe("GEARSENSE SIMULATED VEHICLE");
  });
  it("with a fault stores its code, tells what stood then, and forgets it when it is cleared", async () => {
    const broken = await startVehicle({ ...sound, faults: ["sensor-dead@sen_output:1"], speed: 20, seed: 4 });
    const other = new Plain(broken.port);
    const tell = (line: string) => {
      other.send(line);
      return other.message("7E9", "7E1");
    };
    let codes = "";
    for (let i = 0; i < 600 && codes.length <= 4; i++) {
      codes = await tell("7E1#0103");
      await new Promise((r) => setTimeout(r, 50));
    }
    expect(codes).toMatch(/^430[1-9].*0722/);
    expect(await tell("7E1#03190208")).toMatch(/^5902FF.*07220009/);
    expect(await tell("7E1#06190407220001")).toMatch(/^590407220009010\d/);
    expect(await tell("7E1#0414FFFFFF")).toBe("54");
    other.close();
    await broken.close();
  });
});

describe("the command", () => {
  const call = async (...argv: string[]) => {
    const out: string[] = [];
    const err: string[] = [];
    const code = await run(
      ["vehicle", ...argv],
      (l) => out.push(l),
      (l) => err.push(l),
    );
    return { code, out: out.join("\n"), err: err.join("\n") };
  };
  it.each([
    [["--fault", "gremlins"], /"gremlins" isn’t a fault/],
    [["--unit", "no-such"], /no-such/],
    [["--drive", "moon"], /isn’t a drive/],
    [["--lost", "2"], /--lost needs a number from 0 to 1/],
    [["--speed", "0"], /--speed needs a number/],
  ])("refuses %j", async (flags, says) => {
    const { code, err } = await call("--port", "0", ...flags);
    expect(code).toBe(2);
    expect(err).toMatch(says);
  });
  it("names a port that is taken, and prints its definition", async () => {
    expect((await call("--port", String(vehicle.port))).err).toMatch(/is taken: name another/);
    expect(JSON.parse((await call("--definition")).out)).toMatchObject({ format: "gearsense-link", version: 1 });
  });
});

describe("somebody at the wheel", () => {
  it("says one thing at a time, and has the wheel from then on", () => {
    const live: Parameters<typeof takeTheWheel>[0] = { hands: undefined };
    expect(takeTheWheel(live, " brake off ")).toBe("brake off");
    expect(live.hands).toEqual({ range: "D", brake: false, pedal: 0 });
    takeTheWheel(live, "lever n");
    takeTheWheel(live, "pedal 25");
    expect(live.hands).toEqual({ range: "N", brake: false, pedal: 0.25 });
  });
  it.each(["", "brake", "brake half", "lever X", "pedal", "pedal 101", "pedal -1", "horn"])(
    '"%s" is refused with what can be said',
    (words) => {
      const live: Parameters<typeof takeTheWheel>[0] = { hands: undefined };
      expect(() => takeTheWheel(live, words)).toThrow(/say brake on, brake off, lever P, R, N or D, or pedal 0 to 100/);
      expect(live.hands).toBeUndefined();
    },
  );
  it("a learned value that cannot be read is refused", async () => {
    const said: string[] = [];
    const code = await run(
      ["vehicle", "--learned", "fill_TC"],
      (l) => said.push(l),
      (l) => said.push(l),
    );
    expect(code).toBe(2);
    expect(said.join()).toMatch(/write it as fill_TC=150/);
  });
});

it("a routine is asked for by a plain client: refused without session, begun, followed, its values changed", async () => {
  const vehicle = await startVehicle({ ...sound, drive: "as-told", speed: 20, learned: { fill_TC: 170 } });
  const plain = new Plain(vehicle.port);
  try {
    const ask = async (hex: string) => {
      plain.send(`7E1#${hex.padEnd(16, "0")}`);
      return plain.message("7E9", "7E1");
    };
    expect(await ask("0431010301")).toMatch(/^7F317F/);
    expect(await ask("021003")).toMatch(/^5003/);
    // a moment, until it idles
    await new Promise((r) => setTimeout(r, 300));
    expect(await ask("0431010301")).toBe("71010301");
    let status = "";
    for (let i = 0; i < 400 && !/^7103030102/.test(status); i++) {
      status = await ask("0431030301");
      await new Promise((r) => setTimeout(r, 20));
    }
    expect(status.slice(0, 14)).toBe("71030301020100");
    const did = vehicle.definition.channels.find((c) => c.channel === "adapt_fill_TC")?.did.slice(2) ?? "";
    const ms = Number.parseInt((await ask(`0322${did}`)).slice(6, 10), 16) / 10;
    expect(ms).toBeGreaterThan(70);
    expect(ms).toBeLessThan(140);
  } finally {
    plain.close();
    await vehicle.close();
  }
}, 60_000);
