import { readFileSync } from "node:fs";
import { expect, test } from "@playwright/test";
import { serious, signedIn } from "./support.ts";

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
