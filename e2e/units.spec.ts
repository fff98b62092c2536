// The unit library in the real interface: read a unit, see what sticking gives, edit with the solver looking on, store
// versions, import and export files, and open a job with a unit of the shop's own.
import { readFileSync } from "node:fs";
import { expect, type Page, test } from "@playwright/test";
import { chooseLog, csv, demoJob, madeLog, newJob, signedIn, unitFile } from "./support.ts";

test.beforeEach(async ({ context }) => signedIn(context));

const cell = (page: Page, table: string, row: RegExp) =>
  page.getByRole("region", { name: table }).getByRole("row", { name: row });

test("a unit is read: gears, torque shares, levers, what sticks, wires", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "Unit library" }).click();
  // the board's jobs name their units too: it has to have gone first
  await expect(page.getByRole("heading", { name: "Units", level: 1 })).toBeVisible();
  await expect(page.getByRole("link", { name: /Crag T10/ })).toBeVisible();
  await page.getByRole("link", { name: /Tarn F4/ }).click();
  await page.getByRole("radio", { name: "2", exact: true }).click();
  // 76·(28 + 38)/(28·(38 + 76))
  await expect(page.getByRole("heading", { name: "Gear 2: ratio 1.571 from the teeth" })).toBeVisible();
  await expect(page.getByRole("img", { name: /Set P2 in gear 2: sun 0\.00, carrier .*, ring 0\.64/ })).toBeVisible();
  await expect(cell(page, "Gear 2", /Forward clutch .* 1\.00/)).toBeVisible();
  await page.getByRole("link", { name: "Solenoids, what if" }).click();
  await page.getByLabel("Element").selectOption({ label: "Direct–overdrive clutch (3, 4)" });
  await page.getByRole("radio", { name: "released" }).click();
  await expect(cell(page, "What if", /^3 gear 1$/)).toBeVisible();
  await expect(cell(page, "What if", /^4 no drive$/)).toBeVisible();
  await page.getByRole("link", { name: "Sensors and wiring" }).click();
  await expect(
    page.getByRole("img", { name: /Speed sensor supply 9 V, pin A2-12: Turbine speed sensor, Output/ }),
  ).toBeVisible();
  await page.getByRole("link", { name: "Fluid and service" }).click();
  await expect(page.getByText("ATF, standard type D")).toBeVisible();
});

test("from a job the unit shows the job's version with its suspicion", async ({ page, context }) => {
  const job = await demoJob(context, "0419");
  await page.goto(`/jobs/${job.id}/suspects`);
  await page.getByRole("banner").getByRole("link", { name: "Brae P6" }).click();
  await expect(page.getByRole("columnheader", { name: /TC\s*suspect/ })).toBeVisible();
  await expect(page.getByRole("columnheader", { name: /HC\s*cleared/ })).toBeVisible();
});

test("a unit of the shop's own: edited with the solver, stored, versioned, used in a job", async ({ page }) => {
  await page.goto("/units/brae-p6");
  await page.getByRole("button", { name: "Make one like it" }).click();
  await page.getByLabel("Id").fill("skerry-p6");
  await page.getByLabel("Name").fill("Skerry P6");
  const check = page.getByRole("complementary", { name: "Check" });
  await expect(check.getByText("Nothing is wrong")).toBeVisible();
  await page.getByRole("button", { name: "Gear train" }).click();
  const sets = page.getByRole("region", { name: "Planetary sets" });
  await sets.getByLabel("Ring").first().fill("77");
  // 1 + 77/53, at once, and what is wrong with it beside
  await expect(check.getByRole("row", { name: /^2 2\.453/ })).toBeVisible();
  await expect(check.getByText(/130 isn’t a multiple of 3/)).toBeVisible();
  await expect(check.getByRole("button", { name: "Store the unit" })).toBeDisabled();
  // a place that is wrong leads to where it is typed
  await check.getByRole("button", { name: /gears\.1\.ratio/ }).click();
  await expect(page.getByRole("heading", { name: "Gears and chart" })).toBeVisible();
  // a reload loses nothing
  await page.reload();
  await page.getByRole("button", { name: "Gear train" }).click();
  await expect(sets.getByLabel("Ring").first()).toHaveValue("77");
  await sets.getByLabel("Sun").first().fill("55");
  await check.getByRole("button", { name: "Take the ratios of the teeth" }).click();
  await expect(check.getByText("Nothing is wrong")).toBeVisible();
  await page.getByRole("button", { name: "Gears and chart" }).click();
  await page.getByRole("button", { name: "HC in gear 1" }).click();
  await expect(check.getByText("LC + LB + HC tie the train up")).toBeVisible();
  await page.getByRole("button", { name: "HC in gear 1" }).click();
  await check.getByRole("button", { name: "Store the unit" }).click();
  await expect(page.getByText(/Skerry P6, version 1, stored/)).toBeVisible();
  await page.getByRole("button", { name: "Edit" }).click();
  await page.getByLabel("Description").fill("The island's own six-speed.");
  await page.getByRole("button", { name: "Store the unit" }).click();
  const versions = page.getByRole("navigation", { name: "Versions" });
  await expect(versions.getByRole("link")).toHaveText([/^version 2, Iona Tullo/, /^version 1, Iona Tullo/]);
  await versions.getByRole("link", { name: /version 1/ }).click();
  await expect(page.getByText("Six-speed planetary unit: three coupled simple sets")).toBeVisible();
  await versions.getByRole("link", { name: /version 2/ }).click();
  await expect(page.getByText("The island's own six-speed.")).toBeVisible();

  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: "Unit file" }).click();
  const file = JSON.parse(readFileSync(await (await download).path(), "utf8"));
  expect(file).toMatchObject({ id: "skerry-p6", version: 2, description: "The island's own six-speed." });
  expect(file.gears[1].ratio).toBeCloseTo(1 + 77 / 55, 3);

  await page.goto("/jobs/new");
  await expect(page.getByLabel("Transmission").locator("option", { hasText: "Skerry P6" })).toHaveCount(1);
});

test("third commanded, first obtained: the log leads to the one element that sticks and to its solenoid", async ({
  page,
  context,
}) => {
  const four = unitFile("tarn-f4");
  const ratio = (gear: string) => four.gears.find((g) => g.name === gear)?.ratio ?? Number.NaN;
  const { text } = madeLog([], {
    unitId: "tarn-f4",
    profile: "town",
    alter: (columns) => {
      const [gear, turbine, output] = ["gear_commanded", "turbine_rpm", "output_rpm"].map(
        (id) => columns.get(id) as Float64Array,
      ) as [Float64Array, Float64Array, Float64Array];
      gear.forEach((g, i) => {
        if (g !== 3) return;
        turbine[i] = Math.round(ratio("1") * (output[i] as number));
        const engine = columns.get("engine_rpm") as Float64Array;
        engine[i] = Math.max(engine[i] as number, turbine[i] as number);
      });
    },
  });
  const job = await newJob(context, "tarn-f4");
  await page.goto(`/jobs/${job.id}/scan`);
  await chooseLog(page, csv("third.csv", text));
  await page.getByRole("button", { name: "Analyse the drive" }).click();
  await expect(page.getByTestId("trace")).toBeVisible();
  await page.goto(`/jobs/${job.id}/suspects`);
  await expect(page.getByText("Direct–overdrive clutch (3, 4) stays released")).toBeVisible();
  await expect(page.getByText(/Before the unit is opened: Solenoid DC, its wire and its valve/)).toBeVisible();
});

test.describe("a unit file that cannot be right", () => {
  const choose = async (page: Page, name: string, text: string) => {
    await page.goto("/units");
    const chooser = page.waitForEvent("filechooser");
    await page.getByRole("button", { name: "Add a unit file" }).click();
    await (await chooser).setFiles({ name, mimeType: "application/json", buffer: Buffer.from(text) });
  };
  const bad = (patch: object) => JSON.stringify({ ...unitFile("brae-p6"), id: "bad-p6", ...patch });
  for (const [name, text, message] of [
    ["junk of 10 MB", "x".repeat(10_000_000), /has 10 MB; a unit file has at most 1 MB/],
    ["no JSON", "{ not json", /isn’t JSON/],
    ["an unknown version", bad({ formatVersion: 9 }), /unit\.formatVersion/],
    [
      "two gears alike",
      bad({ application: { ...unitFile("brae-p6").application, "2": unitFile("brae-p6").application["1"] } }),
      /applies the same elements as gear 1/,
    ],
    ["a library unit's id", JSON.stringify(unitFile("brae-p6")), /is a unit of the library, which is not changed/],
  ] as const) {
    test(name, async ({ page }) => {
      await choose(page, "own.unit.json", text);
      await expect(page.getByRole("alert").getByText(message)).toBeVisible();
      await expect(page.getByRole("link", { name: /Brae P6/ })).toHaveCount(1);
    });
  }
});

test("a viewer reads units and changes none; an unknown one is told", async ({ page, context }) => {
  await context.clearCookies();
  await signedIn(context, "fenn");
  await page.goto("/units/brae-p6");
  await expect(page.getByRole("button", { name: "Unit file" })).toBeVisible();
  await expect(page.getByRole("button", { name: /Edit|Make one like it/ })).toHaveCount(0);
  await page.goto("/units/nothing-9");
  await expect(page.getByText(/Neither the library nor your shop has a unit "nothing-9"/)).toBeVisible();
});
