// Files that other programs wrote: packed, in another encoding, in long format, without names, frames of a bus. Each goes
// from the disk to findings in the interface; how it is read is corrected, remembered, and used for the next one.
import { readFileSync } from "node:fs";
import { expect, type Page, test } from "@playwright/test";
import { chooseLog, csv, madeLog, newJob, pickChannel, serious, signedIn, WORN_THIRD_CLUTCH } from "./support.ts";

const file = (name: string) => ({
  name,
  mimeType: "application/octet-stream",
  buffer: readFileSync(new URL(`files/${name}`, import.meta.url)),
});
const analyse = async (page: Page) => {
  await page.getByRole("button", { name: "Analyse the drive" }).click();
  await expect(page.getByTestId("trace")).toBeVisible();
};

for (const [name, words] of [
  ["harbour.csv.gz", /out of a gzip archive, windows-1252, units in line 5/],
  ["quarry-long.zip", /out of a zip archive, utf-8, one reading a line/],
] as const) {
  test(`${name}: read, mapped and judged without a correction`, async ({ page, context }) => {
    await signedIn(context);
    const job = await newJob(context);
    await page.goto(`/jobs/${job.id}/scan`);
    await chooseLog(page, file(name));
    await expect(page.getByText(words)).toBeVisible();
    await analyse(page);
    await expect(page.getByRole("button", { name: "Slip in gear 3", exact: true })).toBeVisible();
    await page.getByRole("tab", { name: "File and channels" }).click();
    await expect(page.getByText(/lines read: \d+ with readings/)).toBeVisible();
    await expect(page.getByRole("cell", { name: "Turbine speed", exact: true }).first()).toBeVisible();
  });
}

test("columns without names are told by how they move together; the reading is remembered for the source", async ({
  page,
  context,
}) => {
  await signedIn(context);
  const first = await newJob(context);
  await page.goto(`/jobs/${first.id}/scan`);
  await chooseLog(page, file("unnamed.txt"));
  await expect(page.getByLabel("Channel of A2")).toHaveValue("turbine_rpm");
  await expect(page.getByLabel("Channel of A3")).toHaveValue("output_rpm");
  await expect(page.getByLabel("Channel of A5")).toHaveValue("vehicle_kmh");
  await expect(page.getByLabel("Unit of A5")).toHaveValue("mph");
  await expect(page.getByText(/is a ratio of Brae P6/).first()).toBeVisible();
  // nothing tells the temperature: the person does
  await pickChannel(page, "A6", "fluid_c");
  const source = `bay ${Date.now()}`;
  await page.getByLabel("Source of the file").fill(source);
  await page.getByRole("button", { name: "Remember for this source" }).click();
  await expect(page.getByRole("button", { name: "Remembered" })).toBeVisible();
  expect(await serious(page)).toEqual([]);
  await analyse(page);

  const second = await newJob(context);
  await page.goto(`/jobs/${second.id}/scan`);
  await chooseLog(page, file("unnamed.txt"));
  await expect(page.getByLabel("Channel of A6")).toHaveValue("fluid_c");
  await expect(page.getByText(`as in "${source}"`).first()).toBeVisible();
  const saved = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save as file" }).click();
  const path = await (await saved).path();
  expect(JSON.parse(readFileSync(path, "utf8"))).toMatchObject({ format: "gearsense-import-profile", name: source });
  // the guesses again
  await page.getByLabel("Read as").selectOption("");
  await expect(page.getByLabel("Channel of A6")).toHaveValue("");
  // another shop takes the reading over from the file
  await context.request.delete(`/api/import-profiles/${encodeURIComponent(source)}`);
  const profileFile = page.getByLabel("Import profile file");
  await profileFile.setInputFiles({ name: "no.json", mimeType: "application/json", buffer: Buffer.from('{"a":1}') });
  await expect(page.getByText(/no\.json isn’t an import profile/)).toBeVisible();
  await profileFile.setInputFiles(path);
  await expect(page.getByLabel("Channel of A6")).toHaveValue("fluid_c");
  await expect(page.getByLabel("Source of the file")).toHaveValue(source);
  await context.request.delete(`/api/import-profiles/${encodeURIComponent(source)}`);
});

test("a bus capture asks for its definition, refuses a wrong one, and is judged by the right one", async ({
  page,
  context,
}) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/scan`);
  await chooseLog(page, file("bus-capture.log"));
  await expect(page.getByText(/is stored; what do its frames hold/)).toBeVisible();
  await expect(page.getByText(/0xCF/)).toBeVisible();
  const input = page.getByLabel("Channel definition file");
  await input.setInputFiles({
    name: "other.json",
    mimeType: "application/json",
    buffer: Buffer.from('{"format":"x"}'),
  });
  await expect(page.getByText(/other\.json isn’t a channel definition/)).toBeVisible();
  await input.setInputFiles(file("harbour.bus.json"));
  await expect(page.getByText(/3000 frames/)).toBeVisible();
  await analyse(page);
  await expect(page.getByRole("button", { name: "Slip in gear 3", exact: true })).toBeVisible();
});

test("what was guessed wrong of how the file is written is corrected in place", async ({ page, context }) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/scan`);
  await chooseLog(page, csv("plain.csv", madeLog([], { durationS: 60 }).text));
  await expect(page.getByLabel("Between the cells")).toHaveValue(",");
  await page.getByLabel("Between the cells").selectOption(";");
  await expect(page.getByText(/Not usable like this/)).toBeVisible();
  // what stood there is still there
  await expect(page.getByLabel(/^Channel of Engine speed/)).toHaveValue("engine_rpm");
  await page.getByLabel("Header in line").fill("2");
  await expect(page.getByLabel(/^Channel of Engine speed/)).toBeHidden();
  await page.getByLabel("Header in line").fill("1");
  await expect(page.getByLabel(/^Channel of Engine speed/)).toHaveValue("engine_rpm");
  await analyse(page);
});

test("hostile archives are refused with the remedy, and nothing is lost", async ({ page, context }) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/scan`);
  await chooseLog(page, {
    ...file("quarry-long.zip"),
    name: "cut.zip",
    buffer: file("quarry-long.zip").buffer.subarray(0, 900),
  });
  await expect(page.getByText(/zip archive is damaged/)).toBeVisible();
  await expect(page.getByText(/cut\.zip is stored and not analysed yet/)).toBeVisible();
});

test("a drive is looked at from every side: strips, shifts, maps, vibration, notes, spans, files", async ({
  page,
  context,
}) => {
  test.setTimeout(180_000);
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/scan`);
  await page.getByLabel("What drive").selectOption("hot");
  await chooseLog(page, csv("hot.csv", madeLog([WORN_THIRD_CLUTCH]).text));
  await analyse(page);
  const trace = page.getByTestId("trace");

  await page.getByLabel("Question").selectOption("heat");
  await expect(page.getByText("Vehicle", { exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Strips" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("checkbox", { name: "Pedal and throttle" }).check();
  await dialog.getByRole("button", { name: "Pedal and throttle up" }).click();
  expect(await serious(page)).toEqual([]);
  await page.keyboard.press("Escape");
  await expect(page.getByLabel("Question")).toHaveValue("");
  await page.reload();
  await expect(trace).toBeVisible();
  await expect(page.getByText("Throttle", { exact: true })).toBeVisible();
  await page.getByLabel("Question").selectOption("overview");

  await page.getByRole("tab", { name: "Shifts" }).click();
  const rows = page.getByRole("region", { name: "Shifts" }).getByRole("button", { name: /^Shift \d-\d at/ });
  const all = await rows.count();
  await page.getByRole("combobox", { name: "Shift" }).selectOption("1-2");
  await expect(async () => expect(await rows.count()).toBeLessThan(all)).toPass();
  await page.getByRole("button", { name: "Inertia phase" }).click();
  await expect(page.getByRole("columnheader", { name: "Inertia phase" })).toHaveAttribute("aria-sort", "descending");
  await rows.first().click();
  await expect(page.getByRole("img", { name: /input speed from the line of gear 1 to that of gear 2/ })).toBeVisible();
  expect(await serious(page)).toEqual([]);
  await page.getByRole("button", { name: "Show it on the trace" }).click();
  await expect(async () =>
    expect(Number(await trace.getAttribute("data-end")) - Number(await trace.getAttribute("data-start"))).toBeLessThan(
      15,
    ),
  ).toPass();

  await page.getByRole("button", { name: "Note on this span" }).click();
  await page.getByLabel("Note", { exact: true }).fill("Owner felt it here");
  await page.getByRole("button", { name: "Keep the note" }).click();
  await expect(page.getByRole("list", { name: "Notes on the trace" }).getByText("Owner felt it here")).toBeVisible();

  const menu = async (item: string) => {
    await page.getByRole("button", { name: "Span and log" }).click();
    await page.getByRole("menuitem", { name: item }).click();
  };
  const table = page.waitForEvent("download");
  await menu("Save what is shown as CSV");
  const saved = readFileSync(await (await table).path(), "utf8");
  expect(saved.split("\n")[0]).toMatch(/^time_s,engine_rpm/);
  expect(saved.split("\n").length).toBeGreaterThan(50);
  const picture = page.waitForEvent("download");
  await menu("Save what is shown as a picture");
  expect(
    readFileSync(await (await picture).path())
      .subarray(1, 4)
      .toString(),
  ).toBe("PNG");

  for (const [tab, words] of [
    ["Slip map", /95th percentile of the slip/],
    ["Coverage", /of what should be driven was driven/],
  ] as const) {
    await page.getByRole("tab", { name: tab }).click();
    await expect(page.getByText(words)).toBeVisible();
    expect(await serious(page)).toEqual([]);
  }
  await expect(page.getByRole("region", { name: "Drive this next" }).getByRole("listitem").first()).toBeVisible();

  await page.getByRole("tab", { name: "Vibration" }).click();
  await page.getByRole("button", { name: "Spectrum of what is shown" }).click();
  await expect(page.getByText(/rpm peak to peak at|is missing, or the span is too short/).first()).toBeVisible();
  expect(await serious(page)).toEqual([]);

  await page.getByRole("button", { name: "Whole drive" }).click();
  await page.getByTestId("trace").focus();
  for (let k = 0; k < 2; k++) await page.keyboard.press("+");
  await menu("Judge only what is shown");
  await expect(page.getByText(/\d+ to \d+ s of it/)).toBeVisible();
  await menu("Judge the whole log by itself");
  await expect(page.getByText(/\d+ to \d+ s of it/)).toBeHidden();
  await page.getByRole("tab", { name: "File and channels" }).click();
  await expect(page.getByRole("region", { name: "Analyses of this log" }).getByRole("row")).toHaveCount(4);
});

test("two logs are laid over each other, joined and parted; an earlier version's result is made anew", async ({
  page,
  context,
}) => {
  test.setTimeout(180_000);
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/scan`);
  await chooseLog(page, csv("one.csv", madeLog([], { durationS: 150 }).text));
  await analyse(page);
  await page.getByRole("button", { name: "Add a log" }).click();
  await chooseLog(page, csv("two.csv", madeLog([WORN_THIRD_CLUTCH], { seed: 5 }).text));
  await analyse(page);
  await expect(page.getByRole("button", { name: "two.csv" })).toHaveAttribute("aria-pressed", "true");

  await page.getByLabel("Compare with").selectOption({ index: 1 });
  await expect(page.getByText("Aligned on")).toBeVisible();
  await page.getByRole("combobox", { name: "Aligned on" }).selectOption({ label: "first shift 1-2" });
  expect(await serious(page)).toEqual([]);

  await page.getByRole("button", { name: "Span and log" }).click();
  await page.getByRole("menuitem", { name: /Join one\.csv behind it/ }).click();
  await expect(page.getByText(/two\.csv \+ one\.csv/)).toBeVisible();
  await page.getByRole("button", { name: "Span and log" }).click();
  await page.getByRole("menuitem", { name: "Judge the whole log by itself" }).click();
  await expect(page.getByText(/two\.csv \+ one\.csv/)).toBeHidden();
  await expect(page.getByTestId("trace")).toBeVisible();
});
