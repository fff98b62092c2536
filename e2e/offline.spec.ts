// A tablet without a network: the application and the open job are there, what is entered waits in its writer's name, goes up by itself, and
// what met somebody else's entry is shown and decided.
import type { JobView } from "@gearsense/contract";
import { type BrowserContext, expect, type Page, test } from "@playwright/test";
import { entry, newJob, PASSWORD, serious, signedIn } from "./support.ts";

test.use({ serviceWorkers: "allow" });
test.describe.configure({ timeout: 300_000 });

const LEVEL = { state: "high", method: "sight hole", fluidC: 41, litresFromFull: 0.5, engineRunning: true, note: "" };
const bar = (page: Page) => page.getByText(/on this device and go|No network since|a decision\./).first();
const entriesOf = async (context: BrowserContext, id: string) =>
  ((await (await context.request.get(`/api/jobs/${id}`)).json()) as JobView).entries;

/** The device has what it needs: the service worker listens, and the job is kept. */
async function kept(page: Page, path: string): Promise<void> {
  await expect
    .poll(
      () =>
        page.evaluate(async (p) => {
          const cache = await caches.open("gearsense-answers");
          return (await cache.match(p)) !== undefined && (await cache.match("/api/session")) !== undefined;
        }, path),
      // a busy machine takes its time to keep a hundred files
      { timeout: 150_000 },
    )
    .toBe(true);
}

test("the network goes in the middle of a job: nothing stops, nothing is lost, what met another's is decided", async ({
  page,
  context,
  browser,
}) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/first-look`);
  const level = page.getByRole("form", { name: "Fluid level" });
  await expect(level).toBeVisible();
  for (const what of ["", "/suspects"]) await kept(page, `/api/jobs/${job.id}${what}`);
  await kept(page, "/api/cautions");

  await context.setOffline(true);
  await page.reload();
  await expect(page.getByText(/No network since/)).toBeVisible();
  await expect(page.getByText(/What is shown is of/)).toBeVisible();
  await level.getByRole("radio", { name: "Low" }).click();
  await level.getByLabel("Fluid temperature, °C").fill("38");
  await level.getByRole("button", { name: "Store the level" }).click();
  await expect(page.getByRole("link", { name: /First look, done, low/ })).toBeVisible();
  await expect(page.getByText(/1 entry waits on this device/)).toBeVisible();
  expect(await serious(page)).toEqual([]);
  // somebody else reads the level too, where there is a network
  const other = await browser.newContext();
  await signedIn(other, "marl");
  await entry(other, job, "level", LEVEL);
  // signing out is not possible now, and says so
  await page.getByRole("button", { name: "Sign out" }).click();
  await expect(page.getByText("Signing out needs the network")).toBeVisible();
  await page.reload();
  await expect(page.getByRole("link", { name: /First look, done, low/ })).toBeVisible();
  // it is changed once more, and rests on what waits
  await level.getByLabel("Fluid temperature, °C").fill("39");
  await level.getByRole("button", { name: "Store the level" }).click();
  await expect(page.getByText(/2 entries wait on this device/)).toBeVisible();

  await context.setOffline(false);
  await expect(page.getByText("1 entry of yours needs a decision.")).toBeVisible({ timeout: 30_000 });
  await expect(page.getByRole("link", { name: /First look, done, overfilled/ })).toBeVisible();
  await page.getByRole("button", { name: "What waits" }).click();
  const list = page.getByRole("dialog", { name: "Waiting on this device" });
  await expect(list.getByText("Somebody changed this meanwhile")).toBeVisible();
  await expect(list.getByText(/Marl.*overfilled/)).toBeVisible();
  expect(await serious(page)).toEqual([]);
  await list.getByRole("button", { name: "Store mine instead" }).click();
  await expect(list.getByText("Nothing waits any more.")).toBeVisible({ timeout: 30_000 });
  await page.keyboard.press("Escape");
  await expect(bar(page)).toBeHidden();
  const levels = (await entriesOf(context, job.id)).filter((e) => e.kind === "level");
  expect(levels.map((e) => [e.author.split(" ")[0], e.body.fluidC])).toEqual([
    ["Marl", 41],
    ["Iona", 38],
    ["Iona", 39],
  ]);
  // signed out, the device keeps nothing of the shop
  await page.getByRole("button", { name: "Sign out" }).click();
  await expect(page.getByRole("button", { name: "Sign in" })).toBeVisible();
  const left = () =>
    page.evaluate(async () => (await (await caches.open("gearsense-answers")).keys()).map((r) => r.url));
  await expect.poll(left).toEqual([]);
  await other.close();
});

test("what one person wrote is neither sent nor shown in another's name on the same tablet", async ({
  page,
  context,
}) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/first-look`);
  const level = page.getByRole("form", { name: "Fluid level" });
  await level.getByRole("radio", { name: "Low" }).click();
  await page.route("**/entries", (route) => route.abort());
  await level.getByRole("button", { name: "Store the level" }).click();
  await expect(page.getByText(/1 entry waits on this device/)).toBeVisible();
  const drained = page.getByRole("form", { name: "Pan", exact: true }).getByLabel("Volume drained, l");
  await page.goto(`/jobs/${job.id}/pan`);
  await drained.fill("3.4");

  await page.getByRole("button", { name: "Sign out" }).click();
  await page.getByLabel("Sign-in name").fill("marl");
  await page.getByLabel("Password").fill(PASSWORD);
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.getByRole("heading", { name: /Bay board/ }).waitFor();
  await page.unroute("**/entries");
  await page.goto(`/jobs/${job.id}/pan`);
  await expect(drained).toHaveValue("");
  await page.getByRole("button", { name: "What waits" }).click();
  await expect(page.getByText(/Goes up when Iona .* signs in on this device/)).toBeVisible();
  await page.evaluate(() => window.dispatchEvent(new Event("online")));
  await page.keyboard.press("Escape");
  expect((await entriesOf(context, job.id)).filter((e) => e.kind === "level")).toEqual([]);

  await page.getByRole("button", { name: "Sign out" }).click();
  await page.getByLabel("Sign-in name").fill("iona");
  await page.getByLabel("Password").fill(PASSWORD);
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.getByRole("heading", { name: /Bay board/ }).waitFor();
  await expect.poll(async () => (await entriesOf(context, job.id)).filter((e) => e.kind === "level").length).toBe(1);
  await page.goto(`/jobs/${job.id}/pan`);
  await expect(drained).toHaveValue("3.4");
  expect((await entriesOf(context, job.id)).find((e) => e.kind === "level")?.author).toMatch(/^Iona/);
});

test("a tablet that was loaded before the server was renewed says so", async ({ page, context }) => {
  await signedIn(context);
  await page.goto("/");
  await expect(page.getByRole("heading", { name: /Bay board/ })).toBeVisible();
  await expect(page.getByText(/has been renewed since/)).toBeHidden();
  await page.route("**/api/units", async (route) => {
    const response = await route.fetch();
    await route.fulfill({ response, headers: { ...response.headers(), "x-gearsense-version": "another" } });
  });
  await page.getByRole("button", { name: "Unit library" }).click();
  await expect(page.getByText(/Gearsense or its library has been renewed since this page was loaded/)).toBeVisible();
  expect(await serious(page)).toEqual([]);
  await page.unroute("**/api/units");
  await page.getByRole("button", { name: "Load it anew" }).click();
  await expect(page.getByRole("heading", { name: /Unit library|Units/ }).first()).toBeVisible();
  await expect(page.getByText(/has been renewed since/)).toBeHidden();
});
