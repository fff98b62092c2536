// Guards: every piece of evidence leads to where it was seen.
import type { SuspectsView } from "@gearsense/contract";
import { BODY, madeEntry } from "@gearsense/core/testing";
import { describe, expect, it } from "@jest/globals";
import { sourceOf } from "./sources.ts";

const LOG = "11111111-1111-4111-8111-111111111111";
const entries = [
  madeEntry(1, "intake", BODY.intake),
  madeEntry(2, "level", BODY.level("low")),
  madeEntry(3, "analysis", BODY.analysis(LOG)),
  madeEntry(4, "check", BODY.check),
];
const evidence = (seq: number, patch: object): SuspectsView["evidence"][number] => ({
  id: "x",
  table: "gear",
  subject: { gear: "4" },
  outcome: "slips",
  label: "",
  entryId: entries[seq - 1]?.id ?? "gone",
  abnormal: true,
  ...patch,
});

describe("a piece of evidence", () => {
  it.each([
    ["the finding of a log", evidence(3, {}), `/jobs/j/scan?log=${LOG}&finding=slip%3A4`],
    [
      "a gear that ties up",
      evidence(3, { outcome: "blocked", label: "Gear 4 ties up: stands under power" }),
      `/jobs/j/scan?log=${LOG}&finding=no-drive%3A4`,
    ],
    [
      "a gear that is not there",
      evidence(3, { outcome: "gone", label: "Gear 4 does not drive" }),
      `/jobs/j/scan?log=${LOG}&finding=no-drive%3A4`,
    ],
    [
      "a gear that never holds",
      evidence(3, { outcome: "gone", label: "Gear 4 never holds" }),
      `/jobs/j/scan?log=${LOG}&finding=slip%3A4`,
    ],
    [
      "hunting between gears",
      evidence(3, { table: "gear-hunting", subject: {}, outcome: "hunts" }),
      `/jobs/j/scan?log=${LOG}&finding=gear-hunting`,
    ],
    [
      "a turbine held in neutral",
      evidence(3, { table: "neutral-pull", subject: {}, outcome: "held" }),
      `/jobs/j/scan?log=${LOG}&finding=neutral-pull`,
    ],
    [
      "clutches that stay hot",
      evidence(3, { table: "cool-down", subject: {}, outcome: "slow" }),
      `/jobs/j/scan?log=${LOG}&finding=cool-down`,
    ],
    [
      "a line pressure that stays behind",
      evidence(3, { table: "line-pressure", subject: {}, outcome: "capped" }),
      `/jobs/j/scan?log=${LOG}&finding=pressure%3Aline`,
    ],
    [
      "a clutch pressure that stays behind",
      evidence(3, { table: "clutch-pressure", subject: { component: "K1" }, outcome: "short" }),
      `/jobs/j/scan?log=${LOG}&finding=pressure%3AK1`,
    ],
    [
      "a shift that flares",
      evidence(3, { table: "shift", subject: { shift: "2-3" }, outcome: "flares" }),
      `/jobs/j/scan?log=${LOG}&finding=flare%3A2-3`,
    ],
    [
      "a shift that fails",
      evidence(3, { table: "shift", subject: { shift: "2-3" }, outcome: "fails" }),
      `/jobs/j/scan?log=${LOG}&finding=failed-shift%3A2-3`,
    ],
    [
      "a sensor",
      evidence(3, { table: "sensor", subject: { component: "sen_output" }, outcome: "drops-out" }),
      `/jobs/j/scan?log=${LOG}&finding=drop-out%3Asen_output`,
    ],
    [
      "absence: the log without a finding",
      evidence(3, { outcome: "holds", abnormal: false }),
      `/jobs/j/scan?log=${LOG}`,
    ],
    ["the complaint", evidence(1, { table: "symptom" }), "/jobs/j/intake"],
    ["the level", evidence(2, { table: "fluid-level" }), "/jobs/j/first-look"],
    ["a check: it stands here", evidence(4, { table: "check" }), undefined],
    ["an entry that is gone", evidence(9, {}), undefined],
  ])("leads to %s", (_name, e, to) => {
    expect(sourceOf("j", entries, e)).toBe(to);
  });
});
