// A job without a scan tool: what each gear did is tapped on the application chart, and the right part comes first.
import { expect, test } from "@playwright/test";
import { newJob, signedIn } from "./support.ts";

test("4 and reverse gone, all others pull: the fork they share leads, the clutch does not; no log is asked for", async ({
  page,
  context,
}) => {
  await signedIn(context);
  const job = await newJob(context, "corran-w7");
  await page.goto(`/jobs/${job.id}/first-look`);
  const level = page.getByRole("form", { name: "Fluid level" });
  await level.getByRole("radio", { name: "Level correct" }).click();
  await level.getByLabel("Fluid temperature, °C").fill("41");
  await level.getByRole("button", { name: "Store the level" }).click();
  await expect(page.getByRole("link", { name: /First look, done/ })).toBeVisible();
  await page.getByRole("link", { name: /^Suspects/ }).click();
  // without a drive a check is offered beside the drive
  await expect(page.getByText("If it cannot be driven")).toBeVisible();
  await expect(page.getByRole("button", { name: "Make this check" })).toBeVisible();
  await page.getByRole("button", { name: "Road test, no scan tool" }).click();
  const test = page.getByRole("form", { name: "Road test" });
  await test.getByLabel("Whose words").fill("Marl");
  for (const gear of ["1", "2", "3", "5", "6", "7"])
    await test
      .getByRole("group", { name: `Gear ${gear}` })
      .getByRole("button", { name: "Pulls" })
      .click();
  await test.getByRole("group", { name: "Gear 4" }).getByRole("button", { name: "No drive" }).click();
  await test.getByRole("group", { name: "Reverse" }).getByRole("button", { name: "No drive" }).click();
  await expect(test.getByText("One part explains every gear that fails and every gear that holds")).toBeVisible();
  // under other conditions the same gear is another mark; the first is told beside it, and tapping again takes it away
  await test.getByRole("radio", { name: "Cold" }).click();
  const fourth = test.getByRole("row", { name: /^4/ });
  await expect(fourth).toContainText("no drive hot steady");
  await fourth.getByRole("button", { name: "Slips" }).click();
  await fourth.getByRole("button", { name: "Slips" }).click();
  await test.getByRole("button", { name: "Store the road test" }).click();
  await expect(page.getByRole("list", { name: "Road tests stored" })).toContainText(
    "Marl: pulls 1, 2, 3, 5, 6, 7 (hot, steady); no drive 4, R (hot, steady)",
  );
  await expect(page.getByRole("link", { name: /Scan, done/ })).toBeVisible();
  // the owner remembers it otherwise: kept apart, under the owner's name
  await test.getByLabel("Whose words").fill("Owner");
  await test.getByRole("radio", { name: "Doubtful" }).click();
  await test.getByRole("group", { name: "Gear 4" }).getByRole("button", { name: "Slips" }).click();
  await test.getByRole("button", { name: "Store the road test" }).click();
  await expect(page.getByRole("list", { name: "Road tests stored" }).getByRole("listitem")).toHaveCount(2);
  await page.getByRole("link", { name: /^Suspects/ }).click();
  const odds = page.getByRole("complementary", { name: "Odds" });
  await expect(odds.getByRole("button").first()).toContainText("Fork 4–R");
  await expect(page.getByRole("heading", { level: 1 })).toContainText("One part explains every gear");
  await expect(page.getByRole("button", { name: "Import a log" })).toBeHidden();
  await expect(page.getByRole("button", { name: "Make this check" })).toBeVisible();
});
