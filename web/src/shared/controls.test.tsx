/** @jest-environment ../../../scripts/jest-browser.mjs */
// Guards: what is typed as a number is one or is said not to be; bars and choices say what they are to who cannot see them.
import { afterEach, describe, expect, it } from "@jest/globals";
import { waitFor } from "@testing-library/react";
import { useState } from "react";
import { cleanup, shown } from "../testing/page.tsx";
import { Choice, Progress } from "./controls.tsx";
import { NumberField } from "./NumberField.tsx";

afterEach(cleanup);

function Number_({ told }: { told: (number | null)[] }) {
  const [value, setValue] = useState<number | null>(41.25);
  return (
    <NumberField
      label="Fluid, °C"
      value={value}
      onChange={(v) => {
        told.push(v);
        setValue(v);
      }}
    />
  );
}

describe("a number field", () => {
  const field = async (typed: string) => {
    const told: (number | null)[] = [];
    const { user, getByLabelText, queryByText } = shown(<Number_ told={told} />);
    const input = getByLabelText("Fluid, °C") as HTMLInputElement;
    expect(input.value).toBe("41.3");
    await user.clear(input);
    if (typed) await user.type(input, typed);
    const during = input.value;
    await user.tab();
    return { last: told.at(-1), during, after: input.value, wrong: queryByText(/A number, such as/) !== null };
  };
  it.each([
    ["7.5", 7.5, "7.5"],
    ["7,5", 7.5, "7.5"],
    ["−3", -3, "-3"],
    ["1.", 1, "1"],
    ["", null, ""],
  ])("takes %p as %p, and shows it so once it is left", async (typed, value, after) => {
    expect(await field(typed)).toEqual({ last: value, during: typed, after, wrong: false });
  });
  it("keeps what is no number in sight and says so; the value stays what it was last", async () => {
    expect(await field("4x")).toEqual({ last: 4, during: "4x", after: "4x", wrong: true });
  });
});

function Three({ made }: { made: string[] }) {
  const [value, setValue] = useState("low");
  return (
    <Choice
      label="Level"
      value={value}
      onChange={(v) => {
        made.push(v);
        setValue(v);
      }}
      options={[
        { value: "low", label: "Low" },
        { value: "right", label: "Correct" },
        { value: "over", label: "Overfilled" },
      ]}
    />
  );
}

describe("a bar", () => {
  it("tells its share, or that there is none to be known, and can be cancelled", async () => {
    let cancelled = 0;
    const { user, getByRole, rerender } = shown(
      <Progress label="Storing" share={0.256} onCancel={() => cancelled++} />,
    );
    const bar = () => getByRole("progressbar", { name: "Storing" });
    expect(bar().getAttribute("aria-valuenow")).toBe("26");
    await user.click(getByRole("button", { name: "Cancel" }));
    expect(cancelled).toBe(1);
    rerender(<Progress label="Storing" share={undefined} />);
    expect(bar().getAttribute("aria-valuenow")).toBeNull();
  });
});

describe("a choice", () => {
  it("is made by a click and by arrow keys", async () => {
    const made: string[] = [];
    const { user, getByRole } = shown(<Three made={made} />);
    await user.click(getByRole("radio", { name: "Correct" }));
    // held: the mark moves a moment after the key went down
    await user.keyboard("{ArrowRight>}");
    await waitFor(() => expect(made).toEqual(["right", "over"]));
    expect(getByRole("radio", { name: "Overfilled" }).getAttribute("aria-checked")).toBe("true");
  });
});
