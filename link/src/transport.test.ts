// Guards: cutting messages into frames and putting them together: worked examples of the standard, any length, block and separation,
// each time-out just under and just over, what is lost or doubled.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type CanFrame, hexOf } from "./frame.ts";
import { separationByte, separationOf, TransportEndpoint, type TransportEvent } from "./transport.ts";

const bytes = (hex: string) => Uint8Array.from(hex.match(/../g) ?? [], (b) => Number.parseInt(b, 16));
const tester = (more: object = {}) => new TransportEndpoint({ sends: 0x7e0, hears: 0x7e8, ...more });
const unit = (more: object = {}) => new TransportEndpoint({ sends: 0x7e8, hears: 0x7e0, ...more });
const frames = (events: readonly TransportEvent[]) => events.flatMap((e) => (e.kind === "frame" ? [e.frame] : []));
const lines = (events: readonly TransportEvent[]) => frames(events).map((f) => hexOf(f.data));
const other = (events: readonly TransportEvent[]) => events.filter((e) => e.kind !== "frame");
const from = (id: number, hex: string): CanFrame => ({ id, data: bytes(hex) });

/** Lets two sides talk until nothing moves any more. */
function talk(
  a: TransportEndpoint,
  b: TransportEndpoint,
  message: Uint8Array,
  stepMs = 1,
): { got: Uint8Array[]; ended: TransportEvent[]; ms: number } {
  const got: Uint8Array[] = [];
  const ended: TransportEvent[] = [];
  let toB = frames(a.send(message, 0));
  let ms = 0;
  for (; ms < 60_000 && (toB.length > 0 || a.busy); ms += stepMs) {
    const toA: CanFrame[] = [];
    for (const f of toB)
      for (const e of b.hear(f, ms))
        e.kind === "frame" ? toA.push(e.frame) : e.kind === "message" ? got.push(e.data) : ended.push(e);
    const next: CanFrame[] = [];
    for (const f of toA) for (const e of a.hear(f, ms)) e.kind === "frame" ? next.push(e.frame) : ended.push(e);
    for (const e of a.tick(ms + stepMs)) e.kind === "frame" ? next.push(e.frame) : ended.push(e);
    toB = next;
  }
  return { got, ended, ms };
}

describe("worked examples", () => {
  it("a vehicle identification number: first frame, flow control, two consecutive frames", () => {
    const u = unit();
    const vin = bytes("490201314434475030305235344232333435");
    // 18 bytes here: 49 02 01 and fifteen of the number
    expect(lines(u.send(vin, 0))).toEqual(["1012490201314434"]);
    const rest = u.hear(from(0x7e0, "300000AAAAAAAAAA"), 1);
    expect(lines(rest)).toEqual(["2147503030523534", "224232333435AAAA"]);
    expect(other(rest)).toEqual([{ kind: "sent" }]);
  });
  it("a short question is one frame, filled up", () => {
    expect(lines(tester().send(bytes("010C"), 0))).toEqual(["02010CAAAAAAAAAA"]);
    expect(other(unit().hear(from(0x7e0, "02010C"), 0))).toEqual([{ kind: "message", data: bytes("010C") }]);
    expect(lines(tester().send(bytes("22F190F191F192"), 0))).toEqual(["0722F190F191F192"]);
    expect(lines(tester().send(bytes("22F190F191F192F1"), 0))).toEqual(["100822F190F191F1"]);
  });
  it("a block of two, then flow control again", () => {
    const t = tester({ blockSize: 2, separationMs: 5 });
    expect(lines(t.hear(from(0x7e8, "101C62F4000102030405".slice(0, 16)), 0))).toEqual(["300205AAAAAAAAAA"]);
    expect(lines(t.hear(from(0x7e8, "2106070809101112"), 6))).toEqual([]);
    expect(lines(t.hear(from(0x7e8, "2213141516171819"), 12))).toEqual(["300205AAAAAAAAAA"]);
    expect(other(t.hear(from(0x7e8, "2320212223242526"), 18))).toEqual([]);
    expect(other(t.hear(from(0x7e8, "2427AAAAAAAAAAAA"), 24))[0]).toMatchObject({ kind: "message" });
  });
  it("separation times: milliseconds, tenths, and what is reserved is the longest", () => {
    expect([0, 0x7f, 0x80, 0xf0, 0xf1, 0xf9, 0xfa, 0xff].map(separationOf)).toEqual([
      0, 127, 127, 127, 0.1, 0.9, 127, 127,
    ]);
    expect([0, 0.05, 0.1, 0.35, 1, 20, 500].map(separationByte)).toEqual([0, 0xf1, 0xf1, 0xf4, 1, 20, 0x7f]);
  });
});

describe("any message", () => {
  it("of any length comes through whole, whatever block and separation are asked for", () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 1, maxLength: 600 }),
        fc.integer({ min: 0, max: 20 }),
        fc.constantFrom(0, 0.3, 1, 7),
        (data, blockSize, separationMs) => {
          const { got, ended } = talk(tester(), unit({ blockSize, separationMs }), data);
          expect(got.map(hexOf)).toEqual([hexOf(data)]);
          expect(ended.filter((e) => e.kind === "failed")).toEqual([]);
        },
      ),
    );
  });
  it("of the longest length comes through, one byte more is refused on either side", () => {
    expect(talk(tester(), unit(), new Uint8Array(4095).fill(7)).got[0]).toHaveLength(4095);
    expect(tester().send(new Uint8Array(4096), 0)).toEqual([
      { kind: "failed", doing: "sending", why: "message too long" },
    ]);
    const refused = unit().hear(from(0x7e0, "1000000010000102"), 0);
    expect(lines(refused)).toEqual(["320000AAAAAAAAAA"]);
    expect(other(refused)).toEqual([{ kind: "failed", doing: "receiving", why: "message too long" }]);
  });
  it("keeps the separation that the other side asks for", () => {
    const { ms } = talk(tester(), unit({ separationMs: 20 }), new Uint8Array(6 + 7 * 10));
    expect(ms).toBeGreaterThanOrEqual(20 * 9);
  });
  it("is not sent into another, nor empty", () => {
    const t = tester();
    t.send(new Uint8Array(20), 0);
    expect(() => t.send(bytes("01"), 0)).toThrow(/already/);
    expect(() => unit().send(new Uint8Array(), 0)).toThrow(/at least one byte/);
  });
});

describe("time-outs", () => {
  it("no flow control: after a second, not before", () => {
    const t = tester();
    t.send(new Uint8Array(20), 0);
    expect(t.tick(1000)).toEqual([]);
    expect(t.tick(1001)).toEqual([{ kind: "failed", doing: "sending", why: "no flow control" }]);
    expect(t.busy).toBe(false);
  });
  it("no consecutive frame: after a second, not before", () => {
    const u = unit();
    u.hear(from(0x7e0, "1014010203040506"), 0);
    u.hear(from(0x7e0, "2107080910111213"), 900);
    expect(u.tick(1900)).toEqual([]);
    expect(u.tick(1901)).toEqual([{ kind: "failed", doing: "receiving", why: "no consecutive frame" }]);
  });
  it("the other side may say wait ten times, not eleven", () => {
    const t = tester();
    t.send(new Uint8Array(20), 0);
    for (let i = 1; i <= 10; i++) expect(t.hear(from(0x7e8, "310000"), i * 900)).toEqual([]);
    expect(t.tick(9900)).toEqual([]);
    expect(other(t.hear(from(0x7e8, "310000"), 9900))).toEqual([
      { kind: "failed", doing: "sending", why: "too many waits" },
    ]);
  });
});

describe("what should not be", () => {
  const receiving = () => {
    const u = unit();
    u.hear(from(0x7e0, "1014010203040506"), 0);
    return u;
  };
  it.each([
    ["a frame that is missing", "2207080910111213", "wrong sequence number"],
    ["no room", "", ""],
  ])("%s", (_what, hex, why) => {
    if (hex) expect(receiving().hear(from(0x7e0, hex), 1)).toEqual([{ kind: "failed", doing: "receiving", why }]);
    const t = tester();
    t.send(new Uint8Array(20), 0);
    expect(t.hear(from(0x7e8, "320000"), 1)).toEqual([
      { kind: "failed", doing: "sending", why: "the other side has no room" },
    ]);
    const s = tester();
    s.send(new Uint8Array(20), 0);
    expect(s.hear(from(0x7e8, "350000"), 1)).toEqual([
      { kind: "failed", doing: "sending", why: "unknown flow status" },
    ]);
  });
  it.each(["", "00", "08112233445566778", "0711", "1003112233445566", "10141122", "2107", "3000", "40AABB", "F0"])(
    "a frame %j of no sense is ignored",
    (hex) => {
      const u = unit();
      expect(u.hear(from(0x7e0, hex.length % 2 ? hex.slice(1) : hex), 0)).toEqual([]);
    },
  );
  it("frames of another identifier are not heard, flow control without a message neither", () => {
    expect(unit().hear(from(0x7e1, "02010C"), 0)).toEqual([]);
    expect(tester().hear(from(0x7e8, "300000"), 0)).toEqual([]);
  });
  it("a new message ends the one that was being received", () => {
    const u = receiving();
    expect(other(u.hear(from(0x7e0, "023E00"), 1))).toEqual([{ kind: "message", data: bytes("3E00") }]);
    expect(u.hear(from(0x7e0, "2107080910111213"), 2)).toEqual([]);
    expect(u.tick(5000)).toEqual([]);
  });
  it("any bytes at any time: it never throws, and ends by time", () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.uint8Array({ maxLength: 8 }), fc.nat(1500)), { maxLength: 60 }), (heard) => {
        const u = unit();
        let ms = 0;
        for (const [data, wait] of heard) {
          ms += wait;
          u.hear({ id: 0x7e0, data }, ms);
          u.tick(ms);
        }
        u.tick(ms + 1002);
        expect(u.receivingNow).toBe(false);
      }),
    );
  });
});
