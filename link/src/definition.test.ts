// Guards: values as the bytes of an identifier and back, no reading, ranges; what is wrong with a definition by its place.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import {
  checkLinkDefinition,
  decodeChannel,
  didOf,
  encodeChannel,
  type LinkChannel,
  usualDefinition,
} from "./definition.ts";

const channel = (more: Partial<LinkChannel> = {}): LinkChannel => ({
  ...{ channel: "turbine_rpm", ecu: "transmission", did: "0xA001", bytes: 2, scale: 0.25, offset: 0 },
  ...more,
});

describe("a value in its bytes", () => {
  it("is worked by hand", () => {
    // 1000 rpm are 4000 quarters, 0x0FA0
    expect([...encodeChannel(channel(), 1000)]).toEqual([0x0f, 0xa0]);
    expect(decodeChannel(channel(), Uint8Array.from([0x0f, 0xa0]))).toBe(1000);
    expect([...encodeChannel(channel({ scale: 0.1, offset: -60 }), -20)]).toEqual([0x01, 0x90]);
    expect([...encodeChannel(channel({ signed: true, scale: 1 }), -2)]).toEqual([0xff, 0xfe]);
    expect(decodeChannel(channel({ signed: true, scale: 1 }), Uint8Array.from([0xff, 0xfe]))).toBe(-2);
    expect(decodeChannel(channel(), Uint8Array.from([1]))).toBeUndefined();
  });
  it("comes back within half a step, and at the ends of its range beyond them", () => {
    fc.assert(
      fc.property(
        fc.constantFrom<1 | 2 | 4>(1, 2, 4),
        fc.boolean(),
        fc.integer({ min: -400, max: 400 }),
        (bytes, signed, v) => {
          const c = channel({ bytes, signed, scale: 0.5, offset: -3 });
          const least = (signed ? -(2 ** (8 * bytes - 1)) : 0) * 0.5 - 3;
          const most = (signed ? 2 ** (8 * bytes - 1) - 1 : 2 ** (8 * bytes) - 1) * 0.5 - 3;
          const back = decodeChannel(c, encodeChannel(c, v)) as number;
          expect(Math.abs(back - Math.min(most, Math.max(least, v)))).toBeLessThanOrEqual(0.25);
        },
      ),
    );
  });
  it("of no reading stays without one", () => {
    const c = channel({ invalid: 0x7fff });
    expect([...encodeChannel(c, Number.NaN)]).toEqual([0x7f, 0xff]);
    expect(decodeChannel(c, Uint8Array.from([0x7f, 0xff]))).toBeNaN();
  });
});

describe("a definition", () => {
  it("of the simulated vehicle is sound, with an identifier each", () => {
    const d = usualDefinition("Brae P6", [
      "engine_rpm",
      "turbine_rpm",
      "fluid_c",
      "sol_TC",
      "adapt_fill_TC",
      "gear_commanded",
    ]);
    expect(checkLinkDefinition(d)).toEqual([]);
    expect(d.channels.map(didOf)).toEqual([0xa000, 0xa001, 0xa002, 0xa003, 0xa004, 0xa005]);
    expect(d.channels.map((c) => c.ecu)).toEqual(["engine", ...Array(5).fill("transmission")]);
  });
  it.each([
    [[channel({ did: "A001" })], "channels.0.did"],
    [[channel({ scale: 0 })], "channels.0.scale"],
    [[channel({ offset: Number.NaN })], "channels.0.offset"],
    [[channel(), channel({ did: "0xA002" })], "channels.1.channel"],
    [[channel(), channel({ channel: "output_rpm", did: "0xa001" })], "channels.1.did"],
    [[], "channels"],
  ])("is refused by its place: %#", (channels, path) => {
    expect(
      checkLinkDefinition({ format: "gearsense-link", version: 1, name: "x", channels }).map((p) => p.path),
    ).toEqual([path]);
  });
});
