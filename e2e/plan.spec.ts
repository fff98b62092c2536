// The plan of a decision, followed: a way is chosen, holds hold, two people tick at once, the report says what was passed over.
import type { JobView } from "@gearsense/contract";
import { type BrowserContext, expect, type Page, test } from "@playwright/test";
import { entry, newJob, serious, signedIn } from "./support.ts";

async function decided(context: BrowserContext, repairId: string): Promise<JobView> {
  await signedIn(context);
  const job = await newJob(context);
  await entry(context, job, "decision", {
    repairId,
    title: "Unit out, replace the converter",
    reason: "The lining is gone.",
    expectedCost: 1200,
    cures: 0.9,
    modelVersion: 1,
    odds: [],
    levelKnown: true,
  });
  return job;
}

const card = (page: Page, title: string) => page.getByRole("article", { name: title });
const done = (page: Page) => page.getByRole("button", { name: "Done", exact: true });

test("a converter by two persons: the level is a hold, hot fluid is not let out without a reason", async ({
  page,
  context,
}) => {
  const job = await decided(context, "converter");
  await page.goto(`/jobs/${job.id}/work`);
  await expect(page.getByText(/0 of \d+ steps done/)).toBeVisible();
  const way = page.getByLabel("Way").filter({ hasText: "one person" });
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
  await hot.getByLabel("Fluid before the drain, °C").fill("72");
  await expect(hot.getByText("Outside its limits", { exact: true })).toBeVisible();
  await expect(done(page)).toBeDisabled();
  await hot.getByLabel(/^Passed over although/).fill("Long gloves and shield, drain into a steel can");
  await hot.getByRole("textbox", { name: "Real minutes" }).fill("9");
  await done(page).click();
  await expect(hot).toBeHidden();
  expect(await serious(page)).toEqual([]);

  await page.getByRole("button", { name: "Minutes and text from the plan" }).click();
  await expect(page.getByRole("textbox", { name: "Minutes", exact: true })).toHaveValue(/^\d+$/);
  await page.goto(`/jobs/${job.id}/report`);
  await expect(page.getByText(/Hold passed over at .*Long gloves and shield/)).toBeVisible();
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
  await expect(phone.getByText(/Iona Tullo has ticked “Identify vehicle and unit” meanwhile/)).toBeVisible();
  await expect(phone.getByText(/1 of \d+ steps done/)).toBeVisible();
  const { entries } = (await (await context.request.get(`/api/jobs/${job.id}`)).json()) as JobView;
  expect(entries.filter((e) => e.kind === "step")).toHaveLength(1);
  await second.close();
});
