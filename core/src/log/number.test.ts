// Guards: the fast way to read a number gives what the language gives, to the last bit, and leaves all else alone.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { plainNumber } from "./number.ts";

const POINT = ".".charCodeAt(0);
const COMMA = ",".charCodeAt(0);

describe("plainNumber", () => {
  it("equals Number for plain decimals, sign of zero included", () => {
    const plain = fc
      .tuple(fc.constantFrom("", "-"), fc.stringMatching(/^\d{1,9}$/), fc.stringMatching(/^\d{0,5}$/))
      .map(([sign, whole, part]) => sign + whole + (part ? `.${part}` : ""));
    fc.assert(
      fc.property(plain, (text) => {
        fc.pre(text.length <= 15);
        expect(Object.is(plainNumber(text, POINT), Number(text))).toBe(true);
        expect(Object.is(plainNumber(text.replace(".", ","), COMMA), Number(text))).toBe(true);
      }),
      { numRuns: 2000 },
    );
  });
  it.each(["", "-", ".", "1.", ".5", "1e3", "0x1f", " 1", "1 ", "1,5", "--1", "1.2.3", "1234567890123456", "n/a"])(
    "leaves %j to others",
    (text) => {
      expect(plainNumber(text, POINT)).toBeNaN();
    },
  );
});
