// Guards: gears and shifts as people write them.
import { expect, it } from "@jest/globals";
import { parseWhere } from "./intake-model.ts";

it.each([
  ["4", ["4"], []],
  ["4, 5,6", ["4", "5", "6"], []],
  ["2-3; 3-4", ["2-3", "3-4"], []],
  ["r  1-r", ["R", "1-R"], []],
  ["fourth 4", ["4"], ["fourth"]],
  ["2-", [], ["2-"]],
  ["  ", [], []],
])("%j", (text, where, wrong) => {
  expect(parseWhere(text)).toEqual({ where, wrong });
});
