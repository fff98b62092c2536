import { readFileSync } from "node:fs";
import { expect, test } from "@playwright/test";
import { entry, newJob, serious, signedIn } from "./support.ts";

const FIRST = "three words together";
const OWN = "other words of mine";

test("an owner adds a technician, who signs in elsewhere, changes the password and is let go again; the last owner stays", async ({
  page,
  context,
  browser,
}) => {
  await signedIn(context, "marl");
  await page.goto("/");
  await page.getByRole("link", { name: "Marl Osk" }).click();
  await expect(page.getByRole("heading", { name: "The shop", level: 1 })).toBeVisible();
  const people = page.getByRole("region", { name: "People" });
  await people.getByRole("button", { name: "Add somebody" }).click();
  const form = people.getByRole("form", { name: "New person" });
  await form.getByLabel("Name", { exact: true }).fill("Una Fell");
  await form.getByLabel("Sign-in name").fill("una");
  await form.getByLabel("First password").fill("short");
  await form.getByRole("button", { name: "Add", exact: true }).click();
  await expect(form.getByText(/at least 10 letters/)).toBeVisible();
  await form.getByLabel("First password").fill(FIRST);
  expect(await serious(page)).toEqual([]);
  await form.getByRole("button", { name: "Add", exact: true }).click();
  await expect(form).toHaveCount(0);
  await expect(people.getByText("signs in as una")).toBeVisible();

  // a second device
  const other = await browser.newContext();
  const tablet = await other.newPage();
  await tablet.goto("/shop");
  await tablet.getByLabel("Sign-in name").fill("una");
  await tablet.getByLabel("Password").fill(FIRST);
  await tablet.getByRole("button", { name: "Sign in" }).click();
  await expect(tablet.getByText("People are added and removed by an owner of the shop.")).toBeVisible();
  await expect(tablet.getByLabel("Hourly rate, without tax")).toBeDisabled();
  await tablet.getByLabel("Current password").fill(FIRST);
  await tablet.getByLabel("New password", { exact: true }).fill(OWN);
  await tablet.getByLabel("New password once more").fill(OWN);
  expect(await serious(tablet)).toEqual([]);
  await tablet.getByRole("button", { name: "Change the password" }).click();
  await expect(tablet.getByText("Changed. Other devices are signed out.")).toBeVisible();

  // the owner may not leave the shop without one, changes the rate, and lets the technician go
  await page.getByLabel("Role of Marl Osk").selectOption("technician");
  await expect(page.getByText(/This is the last owner/)).toBeVisible();
  await expect(page.getByLabel("Role of Marl Osk")).toHaveValue("owner");
  const rate = page.getByLabel("Hourly rate, without tax");
  const before = await rate.inputValue();
  await rate.fill("81.5");
  await page.getByRole("form", { name: "Shop" }).getByRole("button", { name: "Save" }).click();
  await expect(page.getByText(/Saved\. New estimates/)).toBeVisible();
  await expect.poll(async () => (await (await page.request.get("/api/shop")).json()).hourlyRate).toBe(81.5);
  // other flows reckon with the shop's own rate
  await rate.fill(before);
  await page.getByRole("form", { name: "Shop" }).getByRole("button", { name: "Save" }).click();
  await expect.poll(async () => (await (await page.request.get("/api/shop")).json()).hourlyRate).toBe(Number(before));
  await people.getByRole("button", { name: "Remove Una Fell" }).click();
  await people.getByRole("button", { name: "Remove", exact: true }).click();
  await expect(people.getByText("signs in as una")).toHaveCount(0);
  await tablet.goto("/");
  await expect(tablet.getByRole("button", { name: "Sign in" })).toBeVisible();
  await other.close();
});

test("figures of a period are told to owners, with the money lines as a file", async ({ page, context }) => {
  await signedIn(context, "marl");
  await page.goto("/shop");
  await page.getByRole("link", { name: "Figures and money lines" }).click();
  const repairs = page.getByRole("region", { name: "By repair" });
  await expect(repairs.getByRole("row", { name: /rebuild high–reverse clutch/ })).toContainText("12.0");
  await expect(page.getByRole("region", { name: "Hours" }).getByText(/12\.0 h estimated/)).toBeVisible();
  await expect(page.getByRole("region", { name: "Waiting" }).getByRole("row")).not.toHaveCount(1);
  expect(await serious(page)).toEqual([]);
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Money lines (CSV)" }).click(),
  ]);
  expect(file.suggestedFilename()).toMatch(/^money-\d{4}-\d\d-\d\d-\d{4}-\d\d-\d\d\.csv$/);
  const text = readFileSync(await file.path(), "utf8");
  expect(text).toMatch(/Skerrow Mountain Rescue,Rescue vehicle,labour,Labour,12,72\.00,864\.00,23,EUR/);
  expect(text).toMatch(/deposit,Paid beforehand,1,-300\.00,-300\.00,0,EUR/);
  await page.getByLabel("To", { exact: true }).fill("2026-01-01");
  await page.getByLabel("From", { exact: true }).fill("2025-01-01");
  await expect(page.getByText("No repair was handed over in this period.")).toBeVisible();
});

test("a part is followed through the jobs that it was fitted in", async ({ page, context }) => {
  await signedIn(context);
  const job = await newJob(context);
  await entry(context, job, "work", {
    text: "Fitted",
    minutes: 20,
    parts: [{ name: "Strainer seal, batch K9", quantity: 2, cost: 6 }],
  });
  await page.goto("/shop");
  await page.getByRole("link", { name: "Parts fitted" }).click();
  const words = page.getByLabel("Words of the part’s name");
  await words.fill("k9 seal");
  await expect(page.getByText("Fitted 1 time: proved 0, came back 0, not said yet 1.")).toBeVisible();
  await expect(page.getByRole("row", { name: /Strainer seal, batch K9/ })).toContainText("Test van");
  expect(await serious(page)).toEqual([]);
  await page.getByRole("link", { name: job.number }).click();
  await expect(page.getByText(new RegExp(`^Job ${job.number}`))).toBeVisible();
  await page.goBack();
  await words.fill("no such part");
  await expect(page.getByText("No such part was fitted in a job of this shop.")).toBeVisible();
});

test("what own jobs teach is shown; the odds move with it once an owner wants that", async ({ page, context }) => {
  await signedIn(context, "marl");
  await page.goto("/shop/figures");
  const taught = page.getByRole("region", { name: "What own jobs teach" });
  await expect(taught.getByText(/proved repairs?, against how often the library lets each fault come/)).toBeVisible();
  await expect(taught.getByText(/The odds don’t move with it/)).toBeVisible();
  expect(await serious(page)).toEqual([]);
  await page.goto("/shop");
  const form = page.getByRole("form", { name: "Shop" });
  await expect(form.getByRole("checkbox", { name: /The odds move with our own proved jobs/ })).not.toBeChecked();
});
