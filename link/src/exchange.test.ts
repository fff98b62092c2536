// Guards: questions to control units over a line that loses, doubles, mixes up and delays: none hangs, none is answered wrongly,
// every one that fails says why; devices that want to do harm.
import { describe, expect, it } from "@jest/globals";
import { ENGINE, TRANSMISSION } from "./addresses.ts";
import { InOrder, LineClock } from "./bus-side.ts";
import { Device } from "./device.ts";
import type { EcuModel } from "./ecu.ts";
import { type CanFrame, hexOf, readFrame, writeFrame } from "./frame.ts";
import { Requester } from "./requester.ts";

/** mulberry32 */
function seeded(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Data of an identifier: as long as its low byte says, its bytes follow from it. */
const dataOf = (did: number): Uint8Array =>
  Uint8Array.from({ length: 1 + (did & 0x7f) }, (_, i) => (did * 31 + i * 7) & 0xff);
const model = (address: typeof ENGINE): EcuModel => ({
  address,
  value: (c) => (c === "engine_rpm" ? 1726 : c === "vehicle_kmh" ? 50 : undefined),
  data: (did) => (did >= 0xa000 && did < 0xb000 ? dataOf(did) : undefined),
  codes: () => [],
  freezeFrame: () => [],
  clearCodes: () => undefined,
  vin: "SKERROW0000000042",
  calibration: "SK-CAL-1",
  routines: [],
});

interface Line {
  readonly lose: number;
  readonly double: number;
  /** frames that come late, past others, and by how much at most */
  readonly late: number;
  readonly delayMs: number;
}

/** A line between tester and device on a clock of its own: what goes in comes out later, not at all, or twice. */
class BadLine {
  private queue: { atMs: number; line: string }[] = [];
  private readonly clock = new LineClock();
  private readonly order = new InOrder();
  private readonly how: Line;
  private readonly random: () => number;
  constructor(how: Line, random: () => number) {
    this.how = how;
    this.random = random;
  }
  put(frames: readonly CanFrame[], nowMs: number): void {
    for (const f of frames) {
      const line = writeFrame(f, this.clock.next(nowMs));
      if (this.random() < this.how.lose) continue;
      this.queue.push({ atMs: nowMs + (this.random() < this.how.late ? this.random() * this.how.delayMs : 0), line });
      if (this.random() < this.how.double) this.queue.push({ atMs: nowMs + this.random() * this.how.delayMs, line });
    }
  }
  take(nowMs: number): CanFrame[] {
    const due = this.queue.filter((q) => q.atMs <= nowMs).sort((a, b) => a.atMs - b.atMs);
    this.queue = this.queue.filter((q) => q.atMs > nowMs);
    return due.flatMap(({ line }) => {
      const read = readFrame(line);
      return read && this.order.takes(read.frame, read.timeS) ? [read.frame] : [];
    });
  }
}

function exchanges(count: number, how: Line, faults: object, seed: number) {
  const random = seeded(seed);
  const device = new Device([model(ENGINE), model(TRANSMISSION)], random, faults);
  const there = new BadLine(how, random);
  const back = new BadLine(how, random);
  const askers = [ENGINE, TRANSMISSION].map((a) => new Requester(a));
  const tally = { answered: 0, refused: 0, failed: 0, wrong: 0, unnamed: 0, hung: 0 };
  let ms = 0;
  for (let n = 0; n < count; n++) {
    const asker = askers[n % 2] as Requester;
    const did = 0xa000 + Math.floor(random() * 0x1100);
    const request = Uint8Array.from([0x22, did >> 8, did & 0xff]);
    const began = ms;
    there.put(asker.ask(request, ms), ms);
    while (asker.asking && ms - began < 70_000) {
      ms += 2;
      for (const f of there.take(ms)) back.put(device.hear(f, ms), ms);
      back.put(device.tick(ms), ms);
      for (const f of back.take(ms)) for (const a of askers) there.put(a.hear(f, ms), ms);
      there.put(asker.tick(ms), ms);
    }
    const { outcome } = asker;
    if (!outcome) tally.hung++;
    else if (outcome.kind === "answer") {
      tally.answered++;
      const right =
        did < 0xb000 && hexOf(outcome.data) === hexOf(Uint8Array.from([did >> 8, did & 0xff, ...dataOf(did)]));
      if (!right) tally.wrong++;
    } else if (outcome.kind === "refused") {
      tally.refused++;
      if (did < 0xb000 && outcome.code === 0x31) tally.wrong++;
      if (!outcome.words) tally.unnamed++;
    } else {
      tally.failed++;
      if (outcome.why.length < 10) tally.unnamed++;
    }
  }
  return tally;
}

describe("exchanges", () => {
  it("over a sound line are all answered or refused rightly", () => {
    const t = exchanges(1000, { lose: 0, double: 0, late: 0, delayMs: 0 }, {}, 1);
    expect(t).toMatchObject({ failed: 0, wrong: 0, unnamed: 0, hung: 0 });
    expect(t.answered).toBeGreaterThan(900);
    expect(t.refused).toBeGreaterThan(20);
  });
  it("a hundred thousand over lines that lose, double, mix up and delay: none hangs, none is answered wrongly, all failures have a name", () => {
    const sum = { answered: 0, refused: 0, failed: 0, wrong: 0, unnamed: 0, hung: 0 };
    const lines: readonly (readonly [Line, object])[] = [
      [{ lose: 0.003, double: 0.01, late: 0.005, delayMs: 6 }, {}],
      [{ lose: 0.01, double: 0.03, late: 0.01, delayMs: 15 }, { busy: 0.05 }],
      [
        { lose: 0.005, double: 0.02, late: 0.01, delayMs: 400 },
        { busy: 0.02, slow: 0.02 },
      ],
      [{ lose: 0.02, double: 0.1, late: 0.02, delayMs: 3 }, { lost: 0.02 }],
    ];
    lines.forEach(([how, faults], i) => {
      const t = exchanges(25_000, how, faults, 100 + i);
      for (const k of Object.keys(sum) as (keyof typeof sum)[]) sum[k] += t[k];
    });
    expect(sum).toMatchObject({ wrong: 0, unnamed: 0, hung: 0 });
    expect(sum.answered + sum.refused + sum.failed).toBe(100_000);
    expect(sum.answered).toBeGreaterThan(60_000);
    expect(sum.failed).toBeGreaterThan(1000);
  });
});

describe("a device that means harm", () => {
  const ask = (respond: (request: CanFrame, ms: number) => readonly CanFrame[]) => {
    const r = new Requester(ENGINE);
    let out = r.ask(Uint8Array.from([0x22, 0xf1, 0x90]), 0);
    let ms = 0;
    for (; r.asking && ms < 100_000; ms += 10) {
      const answers = out.flatMap((f) => respond(f, ms));
      out = answers.flatMap((f) => r.hear(f, ms));
      out.push(...r.tick(ms));
    }
    return { outcome: r.outcome, ms };
  };
  const from = (hex: string): CanFrame => ({
    id: 0x7e8,
    data: Uint8Array.from(hex.match(/../g) ?? [], (b) => Number.parseInt(b, 16)),
  });
  it("never answers: it is asked three times and given up", () => {
    const { outcome, ms } = ask(() => []);
    expect(outcome).toEqual({ kind: "failed", why: "the control unit did not answer, asked 3 times" });
    expect(ms).toBeLessThan(3000);
  });
  it("asks for time for ever: it is given up after thirty times, or when it falls silent", () => {
    let last = 0;
    const again = ask((_f, ms) => {
      last = ms;
      return [from("037F2278")];
    });
    expect(again.outcome?.kind).toBe("failed");
    const r = new Requester(ENGINE);
    r.ask(Uint8Array.from([0x22, 0xf1, 0x90]), 0);
    let ms = 0;
    for (; r.asking && ms < 100_000; ms += 100) {
      r.hear(from("037F2278"), ms);
      r.tick(ms);
    }
    expect(r.outcome).toEqual({ kind: "failed", why: "the control unit asks for more time again and again" });
    expect(last).toBeLessThan(100_000);
  });
  it("announces more than is read, breaks off, sends rubbish: each with its sentence", () => {
    expect(ask(() => [from("1000FFFFFFFFFFFF")]).outcome).toEqual({
      kind: "failed",
      why: "the answer is longer than any that is read",
    });
    expect(ask((f) => (f.data[0] === 3 ? [from("1FFF62F190000000")] : [])).outcome).toMatchObject({
      kind: "failed",
      why: expect.stringMatching(/broke off, asked 3 times/),
    });
    expect(ask(() => [from("FFFFFFFFFFFFFFFF"), from("00"), from("0562F1910000")]).outcome).toMatchObject({
      kind: "failed",
      why: expect.stringMatching(/did not answer/),
    });
  });
  it("answers another question: that is not taken", () => {
    expect(ask(() => [from("0462F1910100"), from("0462F1900700")]).outcome).toEqual({
      kind: "answer",
      data: Uint8Array.from([0xf1, 0x90, 0x07]),
    });
  });
});
