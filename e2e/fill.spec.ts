// A fill from what came out to leaks looked for, on a phone, with the network cut in the middle; trays that have to be empty; a
// converter that is not home stops the job.
import type { JobView } from "@gearsense/contract";
import { expect, type Page, test } from "@playwright/test";
import { card, decided, done, upTo, walk } from "./plan-support.ts";
import { entry, serious } from "./support.ts";

const fill = (page: Page) => page.getByRole("region", { name: "Fill" });
/** Tells what was done: a deed with what was seen and the temperature. */
async function tell(
  page: Page,
  deed: string,
  told: { saw?: string; fluidC?: string; litres?: string } = {},
): Promise<void> {
  const box = fill(page);
  const button = box.getByRole("button", { name: deed, exact: true });
  await expect(button).toBeVisible();
  if (told.litres) await box.getByLabel(/, l$/).fill(told.litres);
  if (told.fluidC) await box.getByLabel("Fluid, °C").fill(told.fluidC);
  if (told.saw) await box.getByRole("radio", { name: told.saw, exact: true }).click();
  await button.click();
}

test("a pan service on a phone, from its plan to a fill whose leaks are looked for, the network cut in the middle", async ({
  page,
  context,
}) => {
  await page.setViewportSize({ width: 390, height: 844 });
  // which options the odds bring is another flow’s question
  const job = await decided(context, "fluid");
  await entry(context, job, "level", {
    ...{ state: "ok", method: "overflow plug", fluidC: 41, litresFromFull: null, engineRunning: true, note: "" },
  });
  await page.goto(`/jobs/${job.id}/work`);
  await expect(page.getByRole("heading", { name: "Work", exact: true })).toBeVisible();
  // the level of the first look is there already; every step is ticked on the phone
  expect(await walk(page, "First fill through the filler until it runs over")).toBeGreaterThan(20);
  const first = card(page, "First fill through the filler until it runs over");
  await expect(first).toBeVisible();
  // what was measured at the drain is there already
  await expect(fill(page).getByLabel("Drained, l")).toHaveValue("4");
  await fill(page).getByRole("button", { name: "Work out the fill" }).click();
  await expect(fill(page).getByText(/Pour until it runs over, 4\.00 l at most/)).toBeVisible();
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  expect(await serious(page)).toEqual([]);

  await context.setOffline(true);
  await tell(page, "Poured", { litres: "3.8", saw: "it ran over" });
  await expect(fill(page).getByText("Plug in. Start, brake held, 5 s in each range, back to P")).toBeVisible();
  await expect(fill(page).getByText("This step’s part of the fill is done: tick it below.")).toBeVisible();
  await first.getByLabel("Filled so far, l").fill("3.8");
  await done(page).click();
  await expect(page.getByText(/ticks are kept on this device/)).toBeVisible();
  await context.setOffline(false);
  await expect(page.getByText(/kept on this device/)).toBeHidden();

  await tell(page, "Started, ranges cycled", { saw: "quiet" });
  await tell(page, "Poured", { litres: "0.4", saw: "it ran over" });
  await expect(fill(page).getByText(/Let it idle until the fluid has 35–45 °C/)).toBeVisible();
  await tell(page, "Temperature", { fluidC: "38" });
  await tell(page, "Plug out, read", { fluidC: "40", saw: "a stream, then drops" });
  await tell(page, "Leaks looked for", { saw: "dry" });
  await tell(page, "Driven", { fluidC: "78" });
  await tell(page, "Leaks looked for", { saw: "dry" });
  // hot from the drive it is not read: it cools, and the converter has run back
  await expect(fill(page).getByText(/Let it cool to 35–45 °C/)).toBeVisible();
  await tell(page, "Temperature", { fluidC: "43" });
  await expect(fill(page).getByText(/converter ran back into the pan/)).toBeVisible();
  await tell(page, "Started, ranges cycled", { saw: "quiet" });
  await tell(page, "Plug out, read", { fluidC: "43", saw: "drops" });
  await expect(fill(page).getByText("Filled, level right, leaks looked for before and after the drive")).toBeVisible();
  await page.goto(`/jobs/${job.id}/report`);
  await expect(page.getByText(/4\.2\sl poured, 4\.0\sl expected/)).toBeVisible();
  await expect(page.getByText(/Level read at 43\s°C: right/)).toBeVisible();
  const { entries } = (await (await context.request.get(`/api/jobs/${job.id}`)).json()) as JobView;
  expect(entries.flatMap((e) => (e.kind === "filling" ? [e.body.deed] : []))).toEqual([
    "poured",
    "started",
    "poured",
    "temperature",
    "overflow",
    "leaks",
    "drove",
    "leaks",
    "temperature",
    "started",
    "overflow",
  ]);
});

test("a converter that is not home stops the job; the depth and the gap open it again", async ({ page, context }) => {
  const job = await decided(context, "converter");
  await upTo(context, job.id, "unit-out-longitudinal-alone/home");
  await page.goto(`/jobs/${job.id}/work`);
  const home = card(page, "Converter home: depth measured");
  await expect(home).toBeVisible();
  await home.getByRole("checkbox", { name: /The converter is home/ }).check();
  await expect(home.getByText(/18\.50\smm to 20\.50\smm: unit file, converter home/)).toBeVisible();
  await home.getByLabel("Depth from the face of the bell, mm").fill("9");
  await expect(home.getByText("Outside its limits", { exact: true })).toBeVisible();
  await expect(done(page)).toBeDisabled();
  await home.getByLabel("Depth from the face of the bell, mm").fill("19.4");
  await done(page).click();
  const up = card(page, "Unit up by hand on its dowels, faces meet");
  await expect(up).toBeVisible();
  await up.getByRole("checkbox", { name: /faces meet by hand/ }).check();
  await up.getByLabel("Gap left all round, by hand, mm").fill("6");
  await expect(done(page)).toBeDisabled();
  await expect(up.getByText(/Bolts never pull it in/)).toBeVisible();
});

test("what lies in the tray is named when it should be empty", async ({ page, context }) => {
  const job = await decided(context, "valve-body");
  await upTo(context, job.id, "valve-body/strip");
  await page.goto(`/jobs/${job.id}/work`);
  const tray = page.getByRole("region", { name: "Tray: Strip it" });
  await tray.getByRole("button", { name: "Check ball 1" }).click();
  await expect(tray.getByText(/^1 of \d+ cells full/)).toBeVisible();
  await tray.getByRole("button", { name: "Check ball 2" }).press("Enter");
  await expect(tray.getByText(/^2 of \d+ cells full/)).toBeVisible();
  expect(await serious(page)).toEqual([]);
  await expect(page.getByText(/kept on this device/)).toBeHidden();
  await done(page).click();
  await expect(card(page, "Strip it")).toBeHidden();
  await expect(page.getByText(/kept on this device/)).toBeHidden();
  await upTo(context, job.id, "valve-body/assemble");
  await page.reload();
  const assemble = card(page, "Assemble it");
  await expect(assemble).toBeVisible();
  await expect(assemble.getByText(/Still in the tray: Check ball 1, Check ball 2/).first()).toBeVisible();
  await expect(done(page)).toBeDisabled();
  await assemble.getByRole("button", { name: "All are back" }).click();
  await expect(assemble.getByText(/^0 of \d+ cells full/)).toBeVisible();
  await expect(assemble.getByText(/Still in the tray/)).toBeHidden();
});
