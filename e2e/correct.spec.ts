// What was typed wrong is set right on an open job; what is not at hand can be tried: a sample log, from the list to findings.
import { expect, test } from "@playwright/test";
import { newJob, signedIn } from "./support.ts";

test("vehicle, unit and mileage are set right with a reason, and what was there stays on the timeline", async ({
  page,
  context,
}) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/intake`);
  await page.getByRole("button", { name: "Correct vehicle, unit or mileage" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Mileage, km").fill("184300");
  await dialog.getByLabel("Transmission").selectOption("holm-c6");
  await dialog.getByRole("button", { name: "Store the correction" }).click();
  await expect(dialog.getByRole("alert")).toContainText("The reason is needed");
  await dialog.getByLabel("Reason").fill("read off the wrong card");
  await dialog.getByRole("button", { name: "Store the correction" }).click();
  await expect(dialog).toBeHidden();
  const banner = page.getByRole("banner");
  await expect(banner).toContainText("Holm C6");
  await expect(banner).toContainText(/184.300/);
  await page.getByRole("button", { name: /^Timeline/ }).click();
  await expect(
    page.getByText(/corrected: .*unit holm-c6; 184.300.km \(read off the wrong card\)/).first(),
  ).toBeVisible();
});

test("a sample log of the unit is tried in place, and its list says what is to be seen", async ({ page, context }) => {
  test.setTimeout(120_000);
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/scan`);
  await page.getByText("Before the drive: record these channels").click();
  await expect(page.getByText("how hard a gear was worked: no gear is cleared without it")).toBeVisible();
  await page.getByText("No log at hand? Sample logs of this unit").click();
  const samples = page.getByRole("list", { name: "Sample logs" });
  await expect(samples.getByRole("listitem")).toHaveCount(17);
  await expect(samples).toContainText(/is worn: gears .* slip, more with more torque/);
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    samples.getByRole("link", { name: "Download sample-semicolon.csv" }).click(),
  ]);
  expect(file.suggestedFilename()).toBe("sample-semicolon.csv");
  await samples.getByRole("button", { name: "Try sample-plain.csv" }).click();
  await page.getByRole("button", { name: "Analyse the drive" }).click();
  await expect(page.getByTestId("trace")).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole("button", { name: /Slip in gear/ }).first()).toBeVisible();
});
