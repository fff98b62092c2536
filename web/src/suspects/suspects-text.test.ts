// Guards: the sentence over the application chart says what the chart says, and no more.
import { expect, it } from "@jest/globals";
import { chartSentence, stuckSentence } from "./suspects-text.ts";

const unit = {
  elements: [
    { id: "HC", name: "High clutch" },
    { id: "LB", name: "Low brake" },
  ],
  solenoids: [{ id: "sol_HC", name: "Solenoid HC", feeds: "HC" }],
  nets: [{ id: "net_sol", name: "Solenoid supply", connects: ["sol_HC"] }],
} as never;
const say = (outcomes: Record<string, string>, explanations: string[][]) => {
  const { title, detail } = chartSentence(unit, {
    outcomes,
    reading: { cleared: [], accused: [], explanations },
  } as never);
  return `${title} | ${detail}`;
};

it.each([
  [{}, [], /^No gear has been judged yet/],
  [{ "1": "good", "2": "good" }, [], /^Every gear that was driven holds \| 1 and 2 held/],
  [
    { "1": "good", "4": "bad", "5": "bad" },
    [["HC"]],
    /^One part explains.*\| High clutch: 4 and 5 fail; 1 holds under/,
  ],
  [{ "4": "bad" }, [["HC"]], /High clutch: 4 fails; no other was driven hard enough/],
  [{ "1": "good", "2": "good", "4": "bad" }, [["HC"]], /High clutch: 4 fails; 1 and 2 hold under/],
  [{ "1": "bad", "4": "bad" }, [["HC", "LB"]], /^Two elements together.*High clutch and Low brake/],
  [{ "4": "bad" }, [["HC"], ["LB"]], /^2 explanations fit.*High clutch, or Low brake/],
  [{ "1": "good", "4": "bad" }, [], /^No one or two elements.*4 fails and 1 holds: look upstream/],
])("%j with %j", (outcomes, explanations, expected) => {
  expect(say(outcomes, explanations)).toMatch(expected);
});

it("what sticks is named with what to test before the unit is opened", () => {
  const four = {
    elements: [{ id: "DC", name: "Direct clutch" }],
    solenoids: [{ id: "sol_DC", name: "Solenoid DC" }],
  } as never;
  const chart = (stuck: unknown[]) => ({ stuck }) as never;
  const one = { stuck: { component: "DC", state: "released" }, solenoids: ["sol_DC"] };
  expect(stuckSentence(four, chart([one]))).toEqual({
    title: "Direct clutch stays released",
    detail: expect.stringMatching(/Before the unit is opened: Solenoid DC, its wire and its valve/),
  });
  expect(stuckSentence(four, chart([]))).toBeUndefined();
});
