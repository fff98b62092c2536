// Guards: nothing uncertain is shown as certain.
import { expect, it } from "@jest/globals";
import { percent } from "./percent.ts";

it.each([
  [0, "0 %"],
  [0.001, "< 1 %"],
  [0.01, "1 %"],
  [0.496, "50 %"],
  [0.99, "99 %"],
  [0.9999, "> 99 %"],
  [1, "100 %"],
])("%d is shown as %s", (p, text) => {
  expect(percent(p).replaceAll("\u00a0", " ")).toBe(text);
});
