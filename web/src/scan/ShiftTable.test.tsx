/** @jest-environment ../../../scripts/jest-browser.mjs */
// Guards: the table of shifts sorts by any column, what was not measured last either way, and shows only what is asked for.
import type { Analysis, Shift } from "@gearsense/core/drive";
import type { Unit } from "@gearsense/core/unit";
import { afterEach, describe, expect, it } from "@jest/globals";
import { within } from "@testing-library/react";
import { cleanup, shown } from "../testing/page.tsx";
import { ShiftTable } from "./ShiftTable.tsx";

afterEach(cleanup);

const unit = {
  kind: "planetary",
  gears: [],
  limits: { shiftDefault: { inertiaS: [0.2, 0.7], flareRpm: 90, delayS: 0.4 } },
} as unknown as Unit;
const shift = (name: string, commandS: number, delayS?: number) =>
  ({ name, commandS, endS: commandS + 1, delayS, completed: true, underPower: true }) as Shift;
const analysis = {
  shifts: [shift("2-3", 10, 0.3), shift("1-2", 20, 0.5), shift("3-4", 30), shift("2-3", 40, 0.1)],
} as unknown as Analysis;

describe("the table of shifts", () => {
  const table = () => {
    const page = shown(<ShiftTable analysis={analysis} unit={unit} strips={[]} onShow={() => undefined} />);
    const at = () =>
      page
        .getAllByRole("row")
        .slice(1)
        .map((r) => within(r).getAllByRole("cell")[2]?.textContent?.replace(/\s/, " "));
    const by = (name: RegExp) => page.user.click(within(page.getByRole("columnheader", { name })).getByRole("button"));
    return { ...page, at, by };
  };
  it("stands in the order of the drive first", () => {
    const { at, getByRole } = table();
    expect(at()).toEqual(["10.0 s", "20.0 s", "30.0 s", "40.0 s"]);
    expect(getByRole("columnheader", { name: /^At/ }).getAttribute("aria-sort")).toBe("ascending");
  });
  it("has the worst first when a measure is chosen, then the least, what was not measured last both ways", async () => {
    const { at, by, getByRole } = table();
    await by(/^Delay/);
    expect(at()).toEqual(["20.0 s", "10.0 s", "40.0 s", "30.0 s"]);
    expect(getByRole("columnheader", { name: /^Delay/ }).getAttribute("aria-sort")).toBe("descending");
    await by(/^Delay/);
    expect(at()).toEqual(["40.0 s", "10.0 s", "20.0 s", "30.0 s"]);
    await by(/^Shift/);
    expect(at()[0]).toBe("20.0 s");
  });
  it("shows those of a name, and those over a limit", async () => {
    const { at, user, getByLabelText } = table();
    await user.selectOptions(getByLabelText("Shift"), "2-3");
    expect(at()).toEqual(["10.0 s", "40.0 s"]);
    await user.selectOptions(getByLabelText("Shift"), "");
    await user.click(getByLabelText("only over a limit"));
    expect(at()).toEqual(["20.0 s"]);
  });
  it("has no column for what this drive never shows", () => {
    const { queryByRole } = table();
    expect(queryByRole("columnheader", { name: /Flare/ })).toBeNull();
  });
});
