// The plan of a decision, followed: a way is chosen, holds hold, two people tick at once, the report says what was overridden.
import type { JobView } from "@gearsense/contract";
import { expect, test } from "@playwright/test";
import { card, decided, done, upTo } from "./plan-support.ts";
import { serious, signedIn } from "./support.ts";

test("a converter by two persons: the level is a hold, hot fluid is not let out without a reason", async ({
  page,
  context,
}) => {
  const job = await decided(context, "converter");
  await page.goto(`/jobs/${job.id}/work`);
  await expect(page.getByText(/0 of \d+ steps done/)).toBeVisible();
  const way = page.getByRole("combobox", { name: "Way" }).filter({ hasText: "one person" });
  await way.selectOption({ label: "Unit out and in on its cross-member, two persons" });
  await expect(way).toHaveValue("unit-out-longitudinal-two");

  // by keyboard: D ticks what is shown
  await expect(card(page, "Identify vehicle and unit")).toBeVisible();
  await page.keyboard.press("d");
  await expect(page.getByText(/1 of \d+ steps done/)).toBeVisible();

  // what is possible is a set: another step is taken first
  await page
    .getByRole("navigation", { name: "Possible now" })
    .getByRole("button", { name: /^Read the fluid level/ })
    .click();
  const level = card(page, "Read the fluid level");
  await expect(level.getByText("Before you begin")).toBeVisible();
  await expect(done(page)).toBeDisabled();
  await level.getByRole("checkbox", { name: /The level is known/ }).check();
  await expect(level.getByText(/“Level” opens the hold and is not recorded/)).toBeVisible();
  await level.getByRole("radio", { name: "low" }).click();
  await done(page).click();
  await expect(level).toBeHidden();

  for (const title of ["Read and keep codes and learned values", "Picture everything that will be put back"]) {
    await page
      .getByRole("navigation", { name: "Possible now" })
      .getByRole("button", { name: new RegExp(`^${title}`) })
      .click();
    await expect(card(page, title)).toBeVisible();
    await done(page).click();
    await expect(card(page, title)).toBeHidden();
  }
  const parts = card(page, "Parts, one-time parts and fluid are here and compared");
  // the wrong bolt is found before the vehicle is apart
  await parts.getByText("Does the new bolt fit?").click();
  await parts.getByLabel("Bolt of the unit file").selectOption({ label: "Bell housing bolt, M10 × 1.5 × 60" });
  await parts.getByLabel("Thread of the new bolt").fill("M10 × 1.25");
  await parts.getByLabel("Its length under the head, mm").fill("70");
  await parts.getByLabel("What it clamps, mm").fill("38");
  await parts.getByLabel("Full thread of the hole, mm").fill("25");
  await expect(parts.getByText(/Pitch 1\.25 where the hole has 1\.5/)).toBeVisible();
  await expect(parts.getByText("Too long by 7.0 mm: it bottoms out and clamps nothing.")).toBeVisible();
  await parts.getByLabel("Thread of the new bolt").fill("M10 × 1.5");
  await parts.getByLabel("Its length under the head, mm").fill("60");
  await expect(parts.getByText(/It fits: 22\.0 mm of thread/)).toBeVisible();
  await parts.getByRole("checkbox", { name: /All that is needed is here/ }).check();
  await done(page).click();

  await page
    .getByRole("navigation", { name: "Possible now" })
    .getByRole("button", { name: /^Let the fluid cool/ })
    .click();
  await done(page).click();
  await page
    .getByRole("navigation", { name: "Possible now" })
    .getByRole("button", { name: /^Read the fluid’s temperature/ })
    .click();
  const hot = card(page, "Read the fluid’s temperature");
  await hot.getByRole("checkbox", { name: /under 60 °C/ }).check();
  // typed in the units that are shown, kept in those of the unit file
  await page.getByRole("heading", { name: "Plan", exact: true }).click();
  await page.keyboard.press("m");
  await hot.getByLabel("Fluid before the drain, °F").fill("161.6");
  await expect(hot.getByText("Outside its limits", { exact: true })).toBeVisible();
  await expect(done(page)).toBeDisabled();
  await hot.getByLabel(/^Go ahead anyway/).fill("Long gloves and shield, drain into a steel can");
  await hot.getByRole("textbox", { name: "Real minutes" }).fill("9");
  // left before it was sent: whichever page is open sends it
  await expect(page.getByText(/kept on this device/)).toBeHidden();
  await page.route("**/entries", (route) => route.abort());
  await done(page).click();
  await expect(hot).toBeHidden();
  await expect(page.getByText(/kept on this device/)).toBeVisible();
  expect(await serious(page)).toEqual([]);
  await page.goto(`/jobs/${job.id}/report`);
  await expect(page.getByRole("row", { name: /^Read the fluid level/ })).toBeVisible();
  await expect(page.getByText(/Hold overridden/)).toBeHidden();
  await page.unroute("**/entries");
  await page.evaluate(() => window.dispatchEvent(new Event("online")));
  await expect(page.getByText(/Hold overridden at .*Long gloves and shield/)).toBeVisible();
  await expect(page.getByRole("row", { name: /Fluid before the drain, °C 72/ })).toBeVisible();

  await page.goto(`/jobs/${job.id}/work`);
  await page.getByRole("button", { name: "Minutes and text from the plan" }).click();
  await expect(page.getByRole("textbox", { name: "Minutes", exact: true })).toHaveValue("9");
});

test("two people tick one job at once, one of them on a phone", async ({ page, context, browser }) => {
  const job = await decided(context, "fluid");
  const second = await browser.newContext({ viewport: { width: 390, height: 844 } });
  await signedIn(second, "marl");
  const phone = await second.newPage();
  await page.goto(`/jobs/${job.id}/work`);
  await phone.goto(`/jobs/${job.id}/work`);
  for (const p of [page, phone]) await expect(card(p, "Identify vehicle and unit")).toBeVisible();
  expect(await phone.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await done(page).click();
  await expect(page.getByText(/1 of \d+ steps done/)).toBeVisible();
  // the phone has not heard of it yet: its tick is refused with who was faster, and nothing is done twice
  await done(phone).click();
  await expect(phone.getByText(/“Identify vehicle and unit” was ticked by somebody else meanwhile/)).toBeVisible();
  await expect(phone.getByText(/1 of \d+ steps done/)).toBeVisible();
  const { entries } = (await (await context.request.get(`/api/jobs/${job.id}`)).json()) as JobView;
  expect(entries.filter((e) => e.kind === "step")).toHaveLength(1);
  await second.close();
});

test("bolts go back by the map, pass by pass; how far they are outlives a reload", async ({ page, context }) => {
  const job = await decided(context, "reseal-pan");
  await upTo(context, job.id, "pan-down/pan-on");
  await page.goto(`/jobs/${job.id}/work`);
  const map = page.getByRole("region", { name: "Torque map: Pan bolt" });
  await expect(map.getByRole("img", { name: /Order of tightening: by the unit file/ })).toBeVisible();
  for (let i = 0; i < 28; i++) await map.getByRole("button", { name: /^Bolt \d+ of 14 done/ }).click();
  await expect(map.getByText("3.0 N·m · 2.2 lbf·ft · 27 lbf·in")).toBeVisible();
  await map.getByRole("button", { name: "Bolt 1 of 14 clicked" }).click();
  await page.reload();
  await expect(map.getByRole("button", { name: "Bolt 2 of 14 clicked" })).toBeVisible();
  await map.getByText("Extension in line on the wrench").click();
  await map.getByLabel("Wrench, square to grip, mm").fill("300");
  await map.getByLabel("Extension, mm").fill("100");
  await expect(map.getByText(/2\.3 N·m .*set at the wrench for 3\.0 N·m/)).toBeVisible();
  await map.getByRole("button", { name: "Back one" }).click();
  await expect(map.getByRole("button", { name: "Bolt 1 of 14 clicked" })).toBeVisible();
  expect(await serious(page)).toEqual([]);
});

test("the network is cut in the middle: ticks wait on the device, in their order, and nothing is lost", async ({
  page,
  context,
}) => {
  await page.setViewportSize({ width: 390, height: 844 });
  const job = await decided(context, "reseal-pan");
  await page.goto(`/jobs/${job.id}/work`);
  await expect(card(page, "Identify vehicle and unit")).toBeVisible();
  await context.setOffline(true);
  await done(page).click();
  await expect(page.getByText("1 tick is kept on this device")).toBeVisible();
  const codes = card(page, "Read and keep codes and learned values");
  await codes.getByLabel("Note").fill("One old code of the radio");
  await codes.getByRole("textbox", { name: "Real minutes" }).fill("7");
  await done(page).click();
  await expect(page.getByText("2 ticks are kept on this device")).toBeVisible();
  await expect(page.getByText(/2 of \d+ steps done/)).toBeVisible();
  await context.setOffline(false);
  await expect(page.getByText(/kept on this device/)).toBeHidden();
  const { entries } = (await (await context.request.get(`/api/jobs/${job.id}`)).json()) as JobView;
  expect(entries.flatMap((e) => (e.kind === "step" ? [[e.body.step, e.body.minutes, e.body.note]] : []))).toEqual([
    ["before-work/identify", null, ""],
    ["before-work/codes", 7, "One old code of the radio"],
  ]);
});
