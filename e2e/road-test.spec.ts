// A repair is proved without a log: the complaint driven as the customer drives it, counted, and marked as felt.
import type { JobView } from "@gearsense/contract";
import { expect, test } from "@playwright/test";
import { signedIn } from "./support.ts";

test.beforeEach(({ context }) => signedIn(context));

test("a road test without a log: too few times is not proved, enough is gone as felt, the report says so", async ({
  page,
  context,
}) => {
  const made = await context.request.post("/api/jobs", {
    data: {
      vehicle: { name: "Mail van", plate: "", owner: "Skerrow Post" },
      unitId: "brae-p6",
      odometerKm: 81000,
      intake: {
        complaint: "Slips in fourth when hot.",
        symptoms: [
          { kind: "slip", where: ["4"], load: "hard", temperature: "hot", since: "May", howOften: "sometimes" },
        ],
        doneAlready: "",
        recentEvents: "",
      },
    },
  });
  expect(made.ok()).toBe(true);
  const job = (await made.json()) as JobView;
  const work = { kind: "work", body: { text: "Third clutch rebuilt", minutes: 720, parts: [] }, baseSeq: 0 };
  expect((await context.request.post(`/api/jobs/${job.id}/entries`, { data: work })).ok()).toBe(true);

  await page.goto(`/jobs/${job.id}/proof`);
  const felt = page.getByRole("region", { name: "Without a log: road test, felt" });
  await expect(felt).toContainText("slips, gear 4, hard load, hot");
  await felt.getByLabel(/^Times driven/).fill("5");
  await felt.getByRole("button", { name: "Store the road test" }).click();
  await expect(felt).toContainText("not shown yet, felt");
  await expect(felt).toContainText("3 times more");
  await felt.getByLabel(/^Times driven/).fill("8");
  await felt.getByRole("button", { name: "Store the road test" }).click();
  await expect(felt).toContainText("gone, felt");
  // felt more often than driven is refused with the field, and nothing typed is lost
  await felt.getByLabel(/^Times felt/).fill("9");
  await felt.getByRole("button", { name: "Store the road test" }).click();
  await expect(felt).toContainText("felt more often than it was driven");
  await expect(felt.getByLabel(/^Times felt/)).toHaveValue("9");
  await felt.getByLabel(/^Times felt/).fill("0");
  await felt.getByRole("button", { name: "Store the road test" }).click();
  await felt.getByRole("button", { name: "Accept as felt" }).click();
  await expect(page.getByRole("heading", { name: /Hand-over/ })).toBeVisible();
  const report = await (await context.request.get(`/api/jobs/${job.id}/report?system=metric`)).text();
  expect(report).toContain("felt and not measured");
  expect(report).toContain("slips, gear 4, hard load, hot");
});
