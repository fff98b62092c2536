// The unit on the bench: a pack from its readings to a ring and a build record, a converter that bottoms out and is machined, a higher
// stall proved by a second log, a dual clutch of which one is worn, an autopsy with its cause.
import { readFileSync } from "node:fs";
import type { JobView } from "@gearsense/contract";
import {
  PLAIN_STYLE,
  scopeCsv,
  simulateDrive,
  solenoidRecording,
  wheelRecording,
  writeLog,
} from "@gearsense/simulator";
import { type BrowserContext, expect, type Page, test } from "@playwright/test";
import { decided } from "./plan-support.ts";
import { chooseLog, csv, entry, newJob, serious, signedIn, tickHolds, unitFile } from "./support.ts";

const store = (page: Page) => page.getByRole("button", { name: "Store", exact: true });
const field = (page: Page, name: string) => page.getByRole("textbox", { name: new RegExp(`^${name}`) });
const at = (page: Page, job: JobView, place: string) =>
  page.goto(`/jobs/${job.id}/bench?at=${encodeURIComponent(place)}`);
const stored = async (context: BrowserContext, job: JobView) =>
  ((await (await context.request.get(`/api/jobs/${job.id}`)).json()) as JobView).entries.filter(
    (e) => e.kind === "bench",
  );

test("a pack by keyboard, from its readings to the ring, the record and the estimate", async ({ page, context }) => {
  const job = await decided(context, "rebuild:TC");
  await page.goto(`/jobs/${job.id}/work`);
  await page.getByRole("link", { name: "Bench", exact: true }).click();
  await page
    .getByRole("region", { name: "Packs as they go in" })
    .getByRole("link", { name: /Third clutch/ })
    .click();
  await expect(page.getByRole("heading", { name: /Third clutch .* as it goes in/ })).toBeVisible();

  // a micrometer with a cable types its reading and Enter: three readings, then the next field
  await field(page, "Friction plate 1").focus();
  for (const mm of ["1.95", "1.95", "1.94"]) {
    await page.keyboard.type(mm);
    await page.keyboard.press("Enter");
  }
  await expect(field(page, "Friction plate 1")).toHaveValue("1.95 1.95 1.94");
  await expect(field(page, "Friction plate 2")).toBeFocused();
  // one reading is enough for who says so: Enter once more
  await page.keyboard.type("1.96");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Enter");
  await expect(field(page, "Friction plate 3")).toBeFocused();
  await expect(page.getByText(/1\.947 ± 0\.0\d+ mm: in, >\s99\s% sure/)).toBeVisible();

  // mil for mm is asked for, not taken
  await field(page, "Friction plate 3").fill("76.8");
  await expect(page.getByText(/This looks like mil: it would be 1\.951 mm/)).toBeVisible();
  await expect(store(page)).toBeDisabled();
  await page.getByRole("button", { name: /It is mil: 1\.951 mm/ }).click();
  await expect(field(page, "Friction plate 3")).toHaveValue(/^1\.950/);

  // the rest from a file; a line that is nothing is named
  await page.locator("input[type=file]").setInputFiles({
    name: "plates.csv",
    mimeType: "text/csv",
    buffer: Buffer.from(
      "field;mm\nplate-4;1.95\nsteel-1;1.80\nSteel 2;1.79\nsteel-3;1.80\nsteel-4;1.80\nfitted;2.40\n",
    ),
  });
  await expect(page.getByText(/Lines that went nowhere/)).toBeVisible();
  await expect(page.getByRole("alert").getByText("field;mm")).toBeVisible();
  await expect(page.getByText(/Stack 19\.\d\d mm · clearance 1\.4\d mm/)).toBeVisible();
  await expect(page.getByText(/Ring 2\.60 mm sets 1\.2\d ± 0\.0\d mm, 0\.3\d a plate/)).toBeVisible();
  await expect(page.getByRole("img", { name: /Third clutch.*Stack/ })).toBeVisible();

  // what was typed outlives a closed lid
  await page.reload();
  await expect(field(page, "Friction plate 1")).toHaveValue("1.95 1.95 1.94");
  await page.getByRole("button", { name: "Take it" }).click();
  await page.getByText("What it holds").click();
  await expect(page.getByRole("table", { name: "Margin by gear" }).getByRole("row")).toHaveCount(4);
  await expect(page.getByText(/As the engine is raised, .* gives up first/)).toBeVisible();
  await store(page).click();
  await expect(page.getByText("Kept on this device, not stored yet.")).toBeHidden();
  await expect
    .poll(async () => (await stored(context, job))[0])
    .toMatchObject({
      slot: "bench:pack-in:TC",
      body: { chosen: [{ name: "Ring 2.60 mm, Third clutch (2–4)", sizeMm: 2.6 }] },
    });

  // the chosen part is in the parts list; the record on paper and as a file
  await page.getByRole("link", { name: "All places" }).click();
  await expect(page.getByRole("region", { name: "Chosen" })).toContainText("Ring 2.60 mm");
  await expect(page.getByRole("region", { name: "Chosen" })).toContainText("driven gently for 500 km");
  const parts = await (await context.request.get(`/api/jobs/${job.id}/parts.csv`)).text();
  expect(parts).toContain("Ring 2.60 mm, Third clutch");
  const [record] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Build record, PDF" }).click(),
  ]);
  expect(
    readFileSync(await record.path())
      .subarray(0, 5)
      .toString(),
  ).toBe("%PDF-");
  const [file] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "JSON" }).click()]);
  expect(JSON.parse(readFileSync(await file.path(), "utf8"))).toMatchObject({
    format: "gearsense-build",
    places: [{ place: "pack-in:TC", state: "pass" }],
  });

  // a second unit built later shows the first one’s values beside it
  const second = await newJob(context);
  await at(page, second, "pack-in:TC");
  await expect(page.getByText(/Job \d+: 1\.947 ± 0\.0\d+ mm/)).toBeVisible();
});

test("a converter that bottoms out, is machined, and fits", async ({ page, context }) => {
  const job = await decided(context, "converter:converter-clutch");
  await at(page, job, "converter-fit");
  await tickHolds(page);
  await field(page, "Bell face to pads").fill("19.5 19.5 19.6 19.4");
  await field(page, "Engine’s bell face").fill("16.5 16.5 16.4 16.6");
  await field(page, "Spacer on the pads").fill("3.8");
  await expect(
    page.getByText("Bottoms out by 0.8 mm: shorten the spacer by 3.8 mm, do not pull it in with the bolts."),
  ).toBeVisible();
  await expect(page.getByRole("img", { name: /Bottoms out by 0\.8 mm.*bottoms out 0\.80 mm/ })).toBeVisible();
  // what is typed while the first is still on its way stays, and is of the version that was stored then
  await page.route(
    "**/entries",
    async (route) => {
      await new Promise((r) => setTimeout(r, 1500));
      await route.continue();
    },
    { times: 1 },
  );
  await store(page).click();
  await field(page, "Spacer on the pads").fill("0.4");
  await expect.poll(async () => (await stored(context, job)).length).toBe(1);
  await expect(page.getByText("Comes forward 2.6 mm, as it should.")).toBeVisible();
  await store(page).click();
  await expect(page.getByText("Kept on this device, not stored yet.")).toBeHidden();
  await expect.poll(async () => (await stored(context, job)).length).toBe(2);
  expect(await serious(page)).toEqual([]);
});

test("a higher stall, reckoned on the bench and proved by a second log", async ({ page, context }) => {
  test.slow();
  const job = await decided(context, "converter:converter-clutch", "fell-e8");
  await at(page, job, "converter-choice");
  await field(page, "New converter: stall speed").fill("2450");
  await field(page, "rated at an engine torque").fill("360");
  await field(page, "torque ratio at stall").fill("2.0");
  const curve = page.getByLabel(/full-load torque/);
  await curve.fill("800 250\n1900 470\n1200 330");
  await expect(page.getByText(/Point 3 at 1200 rpm comes after 1900 rpm/)).toBeVisible();
  await curve.fill("800 250\n1200 330\n1900 470\n4200 470");
  const changes = page.getByRole("list", { name: "What changes" });
  await expect(changes).toContainText(/Stalls \d+ rpm higher/);
  await expect(changes).toContainText(/More torque from rest/);
  await store(page).click();
  await expect(page.getByText("Proved later by a log after the work")).toBeVisible();
  await entry(context, job, "work", { text: "Converter fitted.", minutes: 400, parts: [] });

  const unit = unitFile("fell-e8");
  const converter = { ...(unit.converter as NonNullable<typeof unit.converter>), stallRpm: 2450, stallTorqueRatio: 2 };
  const drive = {
    seed: 62,
    vehicleSeed: 3,
    profile: "mixed",
    durationS: 300,
    rateHz: 20,
    startFluidC: 60,
    faults: [],
  } as const;
  const after = writeLog(simulateDrive({ ...drive, unit: { ...unit, converter } }).columns, PLAIN_STYLE);
  await page.goto(`/jobs/${job.id}/proof`);
  await chooseLog(page, csv("after.csv", after));
  await page.getByRole("button", { name: /^Analyse/ }).click();
  await expect(page.getByText(/analysed: /).first()).toBeVisible({ timeout: 60_000 });
  await at(page, job, "converter-choice");
  await expect(page.getByText("The log bears the new converter out")).toBeVisible();
});

test("a dual clutch whose K2 is worn while K1 is good", async ({ page, context }) => {
  const job = await decided(context, "dual-clutch-pack", "corran-w7");
  await at(page, job, "dual-clutch");
  await tickHolds(page);
  await field(page, "K1: height of the pack").fill("20.39 20.40");
  await field(page, "K2: height of the pack").fill("18.48 18.52");
  await field(page, "K2: touch point learned").fill("288");
  await expect(
    page.getByText(/K2 has lost 1\.(89|90) mm more than K1 and is below its limit: K1 is not\./),
  ).toBeVisible();
  await expect(page.getByText(/K2: learned 288 kPa, its pack says 294 kPa: they bear each other out/)).toBeVisible();
  await store(page).click();
  await expect(page.getByText("Kept on this device, not stored yet.")).toBeHidden();
  // the bench moves the odds
  await expect(page.getByRole("complementary", { name: "Odds" })).toContainText(/K2.*worn/);
});

test("an autopsy: looked at, told apart, answered before the hand-over", async ({ page, context }) => {
  const job = await decided(context, "rebuild:TC");
  await at(page, job, "pack:TC");
  for (const [look, seen] of [
    ["Colour of the linings", "Black"],
    ["Steels", "Blue all over"],
    ["Piston seals", "Soft, whole"],
  ] as const)
    await page.getByRole("radiogroup", { name: look }).getByRole("radio", { name: seen }).click();
  await field(page, "Friction plate 1").fill("1.602");
  await expect(page.getByText(/too close to call, .*Measure again with|No instrument here decides/)).toBeVisible();
  await field(page, "Friction plate 1").fill("1.45");
  await store(page).click();
  await expect(page.getByText("Kept on this device, not stored yet.")).toBeHidden();
  await at(page, job, "teardown");
  await page
    .getByRole("radiogroup", { name: "Driven with the complaint" })
    .getByRole("radio", { name: "Weeks or more" })
    .click();
  await page.getByRole("radiogroup", { name: "Case, mounts and pan" }).getByRole("radio", { name: "Whole" }).click();
  await store(page).click();
  await expect(page.getByText("Kept on this device, not stored yet.")).toBeHidden();

  await page.goto(`/jobs/${job.id}/handover`);
  await expect(page.getByRole("button", { name: "Hand over and close" })).toBeDisabled();
  await page.getByRole("link", { name: /Say what broke it/ }).click();
  const first = page.getByRole("list", { name: "Causes" }).getByRole("listitem").first();
  await expect(first).toContainText("Driven on for long while it slipped");
  await expect(first).toContainText(/Driven with the complaint: Weeks or more ×/);
  await page.getByRole("radio", { name: "Driven on for long while it slipped" }).click();
  await expect(page.getByText(/Told to the owner: Driving on when it slips/)).toBeVisible();
  expect(await serious(page)).toEqual([]);
  await page.getByRole("button", { name: "Store the answer" }).click();
  await expect(page.getByText("Kept on this device, not stored yet.")).toBeHidden();
  await page.goto(`/jobs/${job.id}/handover`);
  await expect(page.getByRole("button", { name: "Hand over and close" })).toBeEnabled();
  await page.goto(`/jobs/${job.id}/report`);
  await expect(page.getByText(/What would break it again: Driving on when it slips/)).toBeVisible();
});

test("a scope at a solenoid and at a wheel; a file of two channels or none is asked about", async ({
  page,
  context,
}) => {
  await signedIn(context);
  const job = await newJob(context);
  await at(page, job, "electrical");
  const scope = page.getByRole("region", { name: "From a scope" });
  const take = (name: string, text: string) => scope.locator("input[type=file]").setInputFiles(csv(name, text));
  await scope.getByLabel("Recorded at").selectOption({ label: "Solenoid TC" });
  await take("tc.csv", scopeCsv(solenoidRecording(5.2, "none", 1)));
  await expect(scope.getByText(/Solenoid TC: pulls in after \d+\.\d ms, dip 0\.\d\d A/)).toBeVisible();
  await expect(field(page, "Solenoid TC: pull-in time")).toHaveValue(/^\d+\.?\d*$/);
  await take("stuck.csv", scopeCsv(solenoidRecording(5.2, "stuck", 1)));
  await expect(scope.getByText(/no dip: current flows, the plunger does not move/)).toBeVisible();
  await scope.getByLabel("Recorded at").selectOption({ label: "Turbine speed sensor" });
  await take("wheel.csv", scopeCsv(wheelRecording(40, "coil", "missing-tooth", 2)));
  await expect(scope.getByText(/1 missing a turn/)).toBeVisible();
  const two = scopeCsv(wheelRecording(40, "coil", "none", 2))
    .split("\n")
    .map((l, i) => (l ? `${l},${i === 0 ? "current (A)" : "1"}` : l))
    .join("\n");
  await take("two.csv", two);
  await expect(scope.getByText(/2 channels: choose which one to read/)).toBeVisible();
  await scope.getByLabel("Channel").selectOption("signal (V)");
  await expect(scope.getByText(/none missing/)).toBeVisible();
  await take("none.csv", "time (s)\n1\n2\n");
  await expect(scope.getByText(/none\.csv: Line 2 has a time and no channel/)).toBeVisible();
  // a coil is nothing without its temperature
  await field(page, "Solenoid TC, Ω").fill("5.2");
  await expect(page.getByText(/Its temperature too/)).toBeVisible();
});

test("the shop says how sure its instruments are", async ({ page, context }) => {
  await signedIn(context);
  const job = await newJob(context, "machair-d6");
  await page.goto(`/jobs/${job.id}/bench`);
  await page.getByRole("button", { name: "Instruments" }).click();
  const dialog = page.getByRole("dialog", { name: "Instruments of the shop" });
  const rule = dialog.getByRole("group", { name: "Steel rule" });
  await rule.getByLabel("Fixed, mm").fill("0.25");
  await dialog.getByRole("button", { name: "Store the instruments" }).click();
  await expect(dialog).toBeHidden();
  await at(page, job, "pack:K1");
  await page.getByLabel("Friction plate 1: read with").selectOption({ label: "Steel rule" });
  await field(page, "Friction plate 1").fill("7.4");
  await expect(page.getByText(/7\.40 ± 0\.50 mm: in, >\s99\s% sure/)).toBeVisible();
});
