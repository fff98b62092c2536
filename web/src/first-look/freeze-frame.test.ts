// Guards: a typed freeze frame keeps its names and values, and comes back as it was typed.
import { expect, it } from "@jest/globals";
import fc from "fast-check";
import { frameAsText, frameFromText } from "./freeze-frame.ts";

it.each([
  ["Engine speed: 2140 rpm\nFluid = 96 °C", { "Engine speed": "2140 rpm", Fluid: "96 °C" }],
  ["Time: 12:05:10", { Time: "12:05:10" }],
  ["no value\n: no name\nempty:", undefined],
  ["", undefined],
])("%j", (text, frame) => {
  expect(frameFromText(text)).toEqual(frame);
});
it("there and back is the same", () => {
  const word = fc.stringMatching(/^[A-Za-z][A-Za-z0-9 ]{0,18}[A-Za-z0-9]$/);
  fc.assert(
    fc.property(fc.dictionary(word, word, { minKeys: 1, maxKeys: 6 }), (frame) => {
      expect(frameFromText(frameAsText(frame))).toEqual({ ...frame });
    }),
  );
});
