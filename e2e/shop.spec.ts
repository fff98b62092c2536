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
