// Guards: what a control unit answers: emission modes, data, codes with freeze frame, sessions, routines, refusals; what may be asked
// of a vehicle that is not the simulated one.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { ENGINE, TRANSMISSION } from "./addresses.ts";
import { Ecu, type EcuModel, type EcuRoutine } from "./ecu.ts";
import { hexOf } from "./frame.ts";
import { guardRequest, WriteRefused } from "./guard.ts";
import { readRoutineStatus, writeRoutineStatus } from "./routine.ts";
import {
  codeBytes,
  codeOf,
  emissionCodes,
  PIDS,
  pidMask,
  pidsIn,
  readResponse,
  refusalWords,
  SERVICE,
  statusCodes,
} from "./services.ts";

const bytes = (hex: string) => Uint8Array.from(hex.match(/../g) ?? [], (b) => Number.parseInt(b, 16));
function unit(address = TRANSMISSION, writes = false) {
  let cleared = 0;
  let running = false;
  let stopped = false;
  const routine: EcuRoutine = {
    id: 0x0210,
    needsSession: true,
    start: () => {
      if (running) return 0x22;
      running = true;
      return undefined;
    },
    stop: () => {
      stopped = true;
    },
    result: () => (running ? Uint8Array.from([stopped ? 0x03 : 0x01, 0x40]) : undefined),
  };
  const codes = [
    { code: "P0730", failureType: 0, status: 0x2f },
    { code: "U0100", failureType: 0x87, status: 0x04 },
  ];
  const values: Record<string, number> = {
    engine_rpm: 1726,
    vehicle_kmh: 50,
    pedal_pct: 20,
    supply_v: 13.8,
    coolant_c: 88,
  };
  const model: EcuModel = {
    address,
    value: (c) => values[c],
    data: (did) => (did === 0xa001 ? bytes("0C35") : did === 0xf190 ? bytes("534B") : undefined),
    codes: () => (cleared ? [] : codes),
    freezeFrame: (code) => (code === "P0730" ? [[0xa001, bytes("0102")]] : []),
    clearCodes: () => {
      cleared++;
    },
    ...(writes ? { write: (did, data) => (did === 0xa001 && data.length === 2 ? undefined : 0x31) } : {}),
    vin: "SKERROW0000000042",
    calibration: "SK-CAL-1",
    routines: [routine],
  };
  const ecu = new Ecu(model);
  const ask = (hex: string, functional = false, ms = 0) => {
    const a = ecu.answer(bytes(hex), functional, ms);
    return a && hexOf(a);
  };
  return { ask, ecu, stopped: () => stopped };
}

describe("emission modes", () => {
  it("tell what is known and each value by the formula of the standard", () => {
    const { ask } = unit(ENGINE);
    const mask = bytes(ask("0100") ?? "").subarray(2);
    // 01, 05, 0C, 0D and another mask behind it
    expect(pidsIn(0, mask)).toEqual([0x01, 0x05, 0x0c, 0x0d, 0x20]);
    expect(pidsIn(0x20, bytes(ask("0120") ?? "").subarray(2))).toEqual([0x40]);
    expect(pidsIn(0x40, bytes(ask("0140") ?? "").subarray(2))).toEqual([0x42, 0x49]);
    // 1726 rpm is 0x1AF8 quarters; 88 °C is 0x80
    expect(ask("010C")).toBe("410C1AF8");
    expect(ask("0105")).toBe("410580");
    expect(ask("010C0D")).toBe("410C1AF80D32");
    expect(ask("0142")).toBe("414235E8");
  });
  it("of a transmission leave out what is the engine's", () => {
    const { ask } = unit();
    expect(pidsIn(0, bytes(ask("0100") ?? "").subarray(2))).toEqual([0x01, 0x0c, 0x0d, 0x20]);
    expect(ask("0105")).toBeUndefined();
  });
  it("give codes, pending codes and the lamp, and clear them", () => {
    const { ask } = unit();
    expect(ask("0101")).toBe("410181000000");
    expect(ask("03")).toBe("43010730");
    expect(ask("07")).toBe("47020730C100");
    expect(ask("04")).toBe("44");
    expect(ask("03")).toBe("4300");
    expect(ask("0101")).toBe("410100000000");
  });
  it("tell vehicle, calibration and name; what is not known stays unanswered", () => {
    const { ask } = unit();
    expect(ask("0900")).toBe("490050400000");
    expect(ask("0902")).toBe(`490201${hexOf(new TextEncoder().encode("SKERROW0000000042"))}`);
    expect(ask("0904")).toMatch(/^490401534B2D43414C2D31/);
    expect(ask("0906")).toBeUndefined();
    expect(ask("01FF")).toBeUndefined();
    expect(ask("01")).toBeUndefined();
  });
  it("formulas come back within their step over the range that all of them have", () => {
    fc.assert(
      // the voltage has two bytes of millivolts: 65.535
      fc.property(fc.constantFrom(...PIDS), fc.double({ min: 0, max: 65.5, noNaN: true }), (p, v) => {
        const raw = p.write(v);
        expect(raw).toHaveLength(p.bytes);
        expect(Math.abs(p.read(Uint8Array.from(raw)) - v)).toBeLessThanOrEqual(0.51);
      }),
      { numRuns: 2000 },
    );
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 0x21, max: 0x40 })), (pids) => {
        expect(pidsIn(0x20, Uint8Array.from(pidMask(0x20, pids)))).toEqual([...pids].sort((a, b) => a - b));
      }),
    );
  });
});

describe("data and codes by ISO 14229", () => {
  it("one identifier or several; of several those that are known", () => {
    const { ask } = unit();
    expect(ask("22A001")).toBe("62A0010C35");
    expect(ask("22A001F190BEEF")).toBe("62A0010C35F190534B");
    expect(ask("22BEEF")).toBe("7F2231");
    expect(ask("22A0")).toBe("7F2213");
    expect(ask("22")).toBe("7F2213");
    expect(ask(`22${"A001".repeat(9)}`)).toBe("7F2213");
  });
  it("codes by status, their number, and what stood when they were set", () => {
    const { ask } = unit();
    expect(ask("190208")).toBe("5902FF0730002F");
    expect(ask("190204")).toBe("5902FF0730002FC1008704");
    expect(ask("190104")).toBe("5901FF010002");
    expect(ask("190407300001")).toBe("59040730002F0101A0010102");
    expect(ask("190407310001")).toBe("7F1931");
    expect(ask("1999")).toBe("7F1912");
    expect(statusCodes(bytes("02FF0730002FC1008704"))).toEqual([
      { code: "P0730", failureType: 0, status: 0x2f },
      { code: "U0100", failureType: 0x87, status: 0x04 },
    ]);
    expect(statusCodes(bytes("02FF0730"))).toBeUndefined();
    expect(emissionCodes(bytes("0107"))).toBeUndefined();
    expect(ask("14FFFFFF")).toBe("54");
    expect(ask("14123456")).toBe("7F1431");
    expect(ask("190208")).toBe("5902FF");
  });
  it("codes are two bytes and back", () => {
    expect(codeOf(0x07, 0x30)).toBe("P0730");
    expect(codeOf(0xc1, 0x00)).toBe("U0100");
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 0xffff }), (n) => {
        expect(codeBytes(codeOf(n >> 8, n & 0xff))).toEqual([n >> 8, n & 0xff]);
      }),
    );
    expect(() => codeBytes("P4000")).toThrow(/isn’t a trouble code/);
  });
});

describe("sessions and routines", () => {
  it("a routine needs the extended session, starts once, is asked for and stopped", () => {
    const { ask } = unit();
    expect(ask("31010210")).toBe("7F317F");
    expect(ask("1003")).toBe("5003003201F4");
    expect(ask("31030210")).toBe("7F3124");
    expect(ask("31010210")).toBe("71010210");
    expect(ask("31010210")).toBe("7F3122");
    expect(ask("31030210")).toBe("710302100140");
    expect(ask("31020210")).toBe("71020210");
    expect(ask("31030210")).toBe("710302100340");
    expect(ask("31010999")).toBe("7F3131");
    expect(ask("31050210")).toBe("7F3112");
    expect(ask("3101")).toBe("7F3113");
  });
  it("the session ends after five seconds of silence, not before", () => {
    const { ask } = unit();
    ask("1003", false, 0);
    expect(ask("31010210", false, 5000)).toBe("71010210");
    expect(ask("31030210", false, 10_001)).toBe("7F317F");
    const kept = unit();
    kept.ask("1003", false, 0);
    expect(kept.ask("3E80", false, 4000)).toBeUndefined();
    expect(kept.ask("3E00", false, 8000)).toBe("7E00");
    expect(kept.ask("31010210", false, 12_000)).toBe("71010210");
  });
  it("what is not offered is refused: unknown services, other sessions, security, writing", () => {
    const { ask } = unit();
    expect(ask("1101")).toBe("7F1111");
    expect(ask("1002")).toBe("7F1012");
    expect(ask("2701")).toBe("7F277F");
    ask("1003");
    expect(ask("2701")).toBe("7F2733");
    expect(ask("2EA0010000")).toBe("7F2E33");
    expect(ask("3E01")).toBe("7F3E12");
  });
  it("a routine that needs the session ends with it, by silence or by word", () => {
    const silent = unit();
    silent.ask("1003", false, 0);
    silent.ask("31010210", false, 0);
    silent.ecu.tick(5000);
    expect(silent.stopped()).toBe(false);
    silent.ecu.tick(5001);
    expect(silent.stopped()).toBe(true);
    const left = unit();
    left.ask("1003");
    left.ask("31010210");
    left.ask("1001");
    expect(left.stopped()).toBe(true);
  });
  it("what can be written is, in the extended session, and echoed", () => {
    const { ask } = unit(TRANSMISSION, true);
    expect(ask("2EA0010C35")).toBe("7F2E7F");
    ask("1003");
    expect(ask("2EA0010C35")).toBe("6EA001");
    expect(ask("2EA00155")).toBe("7F2E31");
    expect(ask("2EA001")).toBe("7F2E13");
    expect(readResponse(bytes("2EA0010C35"), bytes("6EA002")).kind).toBe("stray");
  });
  it("who asks everybody is not told by each that it does not know", () => {
    const { ask } = unit();
    expect(ask("1101", true)).toBeUndefined();
    expect(ask("22BEEF", true)).toBeUndefined();
    expect(ask("22A0", true)).toBe("7F2213");
    expect(ask("3E00", true)).toBe("7E00");
  });
  it("any bytes are answered or not, never thrown at", () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 40 }), fc.boolean(), (request, functional) => {
        const { ecu } = unit();
        const answer = ecu.answer(request, functional, 0);
        if (answer) expect(["positive", "refused", "stray"]).toContain(readResponse(request, answer).kind);
      }),
    );
  });
});

describe("the status of a routine", () => {
  it("goes into five bytes and comes back", () => {
    const states = ["running", "done", "stopped", "failed"] as const;
    fc.assert(
      fc.property(
        fc.record({
          state: fc.constantFrom(...states),
          code: fc.nat(255),
          lever: fc.constantFrom(undefined, "P" as const, "R" as const, "N" as const, "D" as const),
          progressPct: fc.nat(100),
          element: fc.nat(255),
        }),
        (s) => {
          expect(readRoutineStatus(writeRoutineStatus(s))).toEqual(s);
        },
      ),
    );
    expect(hexOf(writeRoutineStatus({ state: "failed", code: 0x21, lever: "D", progressPct: 40, element: 3 }))).toBe(
      "0421042803",
    );
    for (const bad of ["", "01000000", "0000000000", "0500000000", "0100050000"])
      expect(readRoutineStatus(bytes(bad))).toBeUndefined();
  });
});

describe("an answer", () => {
  it("is that of its question by its echo", () => {
    const kind = (request: string, message: string) => readResponse(bytes(request), bytes(message)).kind;
    expect(kind("22A001", "62A0010C35")).toBe("positive");
    expect(kind("22A001", "62A0020C35")).toBe("stray");
    // of several values those that a control unit has not are left out
    expect(kind("22A001A002", "62A0020C35")).toBe("positive");
    expect(kind("22A001A002", "62A0030C35")).toBe("stray");
    expect(kind("22A001A002", "62A0")).toBe("stray");
    expect(kind("010C0D", "410D55")).toBe("positive");
    expect(kind("010C0D", "410E55")).toBe("stray");
    expect(kind("1083", "5003")).toBe("positive");
    expect(kind("31010210", "71010211")).toBe("stray");
    expect(kind("22A001", "7F2278")).toBe("pending");
    expect(kind("22A001", "7F2231")).toBe("refused");
    expect(kind("22A001", "7F1931")).toBe("stray");
    expect(kind("22A001", "7F22")).toBe("stray");
    expect(kind("03", "43010730")).toBe("positive");
    expect(refusalWords(0x31)).toBe("it has no such value");
    expect(refusalWords(0x99)).toBe("refused with 0x99");
  });
});

describe("towards a vehicle that is not simulated", () => {
  it("only what reads is sent: of every service there is", () => {
    const reads = new Set<number>([
      SERVICE.currentData,
      SERVICE.storedCodes,
      SERVICE.pendingCodes,
      SERVICE.vehicleInformation,
      SERVICE.readData,
      SERVICE.readCodes,
      SERVICE.testerPresent,
    ]);
    for (let s = 0; s <= 0xff; s++) {
      const send = () => guardRequest(Uint8Array.from([s, 0x03, 0x02, 0x10]), false);
      if (reads.has(s)) expect(send).not.toThrow();
      else expect(send).toThrow(WriteRefused);
      expect(() => guardRequest(Uint8Array.from([s, 0x03]), true)).not.toThrow();
    }
    expect(() => guardRequest(bytes("1001"), false)).not.toThrow();
    expect(() => guardRequest(bytes("1003"), false)).toThrow(/changes something in the vehicle/);
    expect(() => guardRequest(new Uint8Array(), false)).toThrow(WriteRefused);
  });
});
