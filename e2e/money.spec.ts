// One price everywhere: an estimate is edited, and suspects, decision, estimate and report say its total. What must not be
// left is never the best to leave; a shelf part counts only when it is there.
import type { JobView } from "@gearsense/contract";
import { type BrowserContext, expect, type Page, test } from "@playwright/test";
import { pdfPages, squeezed } from "../server/src/testing/pdf-text.ts";
import { entry, newJob, serious, signedIn } from "./support.ts";

const level = (state: "low" | "ok") => ({
  state,
  method: "overflow",
  fluidC: 41,
  litresFromFull: null,
  engineRunning: true,
  note: "",
});
const worn = {
  by: "Marl",
  sure: "sure",
  marks: [
    ...["1", "2", "3", "6"].map((where) => ({ where, outcome: "pulls", load: "hard", temperature: "hot" })),
    ...["4", "5"].map((where) => ({ where, outcome: "slips", load: "hard", temperature: "hot" })),
    { where: "R", outcome: "slips", load: "hard", temperature: "hot" },
  ],
  note: "",
};
test.describe.configure({ timeout: 120_000 });

/** A job whose level was read. */
async function jobAt(context: BrowserContext, state: "low" | "ok"): Promise<JobView> {
  await signedIn(context);
  const job = await newJob(context);
  await entry(context, job, "level", level(state));
  return job;
}
const options = (page: Page) => page.getByRole("region", { name: "Options" }).getByRole("table").first();

test("an estimate is edited; its total stands in suspects, decision, estimate and report", async ({
  page,
  context,
}) => {
  const job = await jobAt(context, "ok");
  await entry(context, job, "felt", worn);
  await page.goto(`/jobs/${job.id}/decide`);
  await expect(page.getByText("lowest likely total")).toBeVisible();
  await page.getByRole("radio", { name: /rebuild high.*all packs/i }).check();
  await page.getByLabel("Reason").fill("4, 5 and R slip, all others pull.");
  await page.getByRole("button", { name: "Confirm" }).click();
  await expect(page.getByRole("heading", { name: "Work", exact: true })).toBeVisible();
  await page.getByRole("link", { name: /^Decide/ }).click();
  const estimate = page.getByRole("region", { name: "Estimate" });
  // as it was computed first: labour, kit, fluid, filter
  await expect(estimate.getByRole("row")).toHaveCount(5);
  await expect(estimate.getByLabel("What line 3 is for")).toHaveValue(/^Fluid/);
  const computed = await estimate.getByTestId("estimate-net").innerText();
  await expect(options(page).getByRole("row", { name: /rebuild high.*all packs/i })).toContainText(computed);
  // labour agreed lower, a courier added; what is not a number is told and not stored
  await estimate.getByLabel("Quantity of line 1").fill("ten");
  await estimate.getByRole("button", { name: "Store the estimate" }).click();
  await expect(estimate.getByRole("alert").first()).toContainText("a number");
  await estimate.getByLabel("Quantity of line 1").fill("10");
  await estimate.getByLabel("Price of line 1").fill("70");
  await estimate.getByLabel("Price of line 2").fill("600");
  await estimate.getByRole("button", { name: "Add a line" }).click();
  await estimate.getByLabel("What line 5 is for").fill("Courier");
  await estimate.getByLabel("Price of line 5").fill("40");
  // 700 + 600 + 9.2 l × 12 + 35 + 40 = 1485.4
  await expect(estimate.getByTestId("estimate-net")).toHaveText("€1,485");
  await estimate.getByRole("button", { name: "Store the estimate" }).click();
  await expect(estimate.getByText("Kept on this device, not stored yet.")).toBeHidden();
  await expect(options(page).getByRole("row", { name: /rebuild high.*all packs/i })).toContainText("€1,485");
  // the customer signs on the screen, for this price; without a signature nothing is agreed
  const word = page.getByRole("region", { name: "Customer’s approval" });
  await word.getByRole("button", { name: /Ask the customer/ }).click();
  await word.getByRole("button", { name: "Agreed" }).click();
  await expect(word.getByText("the customer signs in the field")).toBeVisible();
  const field = word.getByRole("img", { name: "Signature" });
  await field.scrollIntoViewIfNeeded();
  const box = (await field.boundingBox()) ?? { x: 0, y: 0, width: 0, height: 0 };
  await page.mouse.move(box.x + 40, box.y + 90);
  await page.mouse.down();
  for (const [x, y] of [
    [90, 40],
    [140, 120],
    [220, 60],
  ] as const)
    await page.mouse.move(box.x + x, box.y + y, { steps: 6 });
  await page.mouse.up();
  await word.getByLabel("Paid beforehand, EUR").fill("300");
  expect(await serious(page)).toEqual([]);
  await word.getByRole("button", { name: "Agreed" }).click();
  await expect(word.getByText(/ signed$/)).toBeVisible();
  await expect(word.getByRole("img", { name: "Signature" })).toBeVisible();
  await page.getByRole("link", { name: /^Suspects/ }).click();
  await expect(page.getByTestId("agreed-price")).toHaveText("€1,485");
  await page.goto(`/jobs/${job.id}/report`);
  await expect(page.getByText(/Price 1485 EUR, with tax 1827 EUR, as in the estimate/)).toBeVisible();
  const pdf = await context.request.get(`/api/jobs/${job.id}/estimate.pdf?system=metric`);
  expect(pdf.ok()).toBe(true);
  const paper = squeezed((await pdfPages(await pdf.body())).join(" "));
  expect(paper).toContain("EUR1485.40");
  expect(paper).toContain("Paidbeforehand:300.00EUR");
  // a price that moves has to be agreed to anew
  await page.goto(`/jobs/${job.id}/decide`);
  await estimate.getByLabel("Price of line 5").fill("90");
  await estimate.getByRole("button", { name: "Store the estimate" }).click();
  await expect(word.getByText("The price has moved to €1,535: ask again")).toBeVisible();
  await expect(word.getByRole("button", { name: /Ask the customer/ })).toBeEnabled();
});

test("a leak or a low level is never left as the best; a unit from the shelf counts only when it is ticked", async ({
  page,
  context,
}) => {
  const job = await jobAt(context, "low");
  await entry(context, job, "observation", {
    rung: "leaks",
    title: "Leaks around the unit",
    outcome: "drip",
    outcomeLabel: "drips",
    abnormal: true,
    method: "lamp and rag",
    sure: "sure",
    values: {},
    minutes: 5,
    skipped: "",
    note: "",
  });
  await page.goto(`/jobs/${job.id}/decide`);
  const leave = options(page).getByRole("row", { name: /Leave it as it is/ });
  await expect(leave).toContainText("not advised: the fluid level is low");
  await expect(leave).toContainText("not advised: it leaks");
  await expect(leave).not.toContainText("lowest likely total");
  await expect(page.getByText(/lowest likely total/)).toBeVisible();
  await entry(context, job, "felt", worn);
  await page.reload();
  const spare = page.getByRole("checkbox", { name: /Exchange unit: spare from the shelf/ });
  await expect(options(page).getByRole("row", { name: /spare from the shelf/ })).toHaveCount(0);
  await spare.check();
  await expect(options(page).getByRole("row", { name: /Exchange unit: spare from the shelf/ })).toBeVisible();
  await spare.uncheck();
  await expect(options(page).getByRole("row", { name: /Exchange unit: spare from the shelf/ })).toBeHidden();
});

test("an owner sets own prices of a unit; who was slower is told, keeps what was typed and stores over it", async ({
  page,
  context,
  browser,
}) => {
  await signedIn(context, "marl");
  await page.goto("/shop");
  await page.getByRole("link", { name: "Own prices and hours" }).click();
  const unit = page.getByLabel("For", { exact: true });
  await unit.selectOption({ label: "Holm C6" });
  await page.getByLabel("Find", { exact: true }).fill("park pawl");
  const price = page.getByLabel(/^Own price: .*park pawl/i);
  const hours = page.getByLabel(/^Own hours: .*park pawl/i);
  await expect(page.getByRole("row", { name: /park pawl/i })).toContainText("€260");
  // the same in another window, a little quicker
  const second = await context.newPage();
  await second.goto("/shop/prices");
  await second.getByLabel("For", { exact: true }).selectOption({ label: "Holm C6" });
  await second.getByLabel("Find", { exact: true }).fill("park pawl");
  await price.fill("301.5");
  await hours.fill("9");
  await second.getByLabel(/^Own price: .*park pawl/i).fill("288");
  await second.getByRole("button", { name: "Save" }).click();
  await expect(second.getByText(/^Saved\./)).toBeVisible();
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText(/Marl Osk has changed the prices meanwhile/)).toBeVisible();
  await expect(price).toHaveValue("301.5");
  await expect(page.getByText("differs from what stands now")).toBeVisible();
  expect(await serious(page)).toEqual([]);
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText(/^Saved\./)).toBeVisible();
  await expect(hours).toHaveValue("9");
  await hours.fill("0.01");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText(/under three minutes isn’t a repair/)).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  // a job of such a unit is priced so; one of another unit is not
  const job = await newJob(context, "holm-c6");
  const { repairs } = await (await context.request.get(`/api/jobs/${job.id}/catalogue`)).json();
  const lock = repairs.find((r: { id: string }) => r.id === "park-lock");
  expect([lock.hours[1], lock.partsCost]).toEqual([9, 301.5]);
  // a technician sees them and sets none
  const other = await browser.newContext();
  await signedIn(other, "iona");
  const tablet = await other.newPage();
  await tablet.goto("/shop/prices");
  await tablet.getByLabel("Find", { exact: true }).fill("litre");
  await expect(tablet.getByLabel("Own price: A litre of fluid")).toBeDisabled();
  await expect(tablet.getByText("Only an owner sets them.")).toBeVisible();
  await other.close();
});
