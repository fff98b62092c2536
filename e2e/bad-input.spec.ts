// What goes wrong in a shop: bad files, a cut network, two people on one job, ids that are not ours, a viewer.
import { expect, type Page, test } from "@playwright/test";
import { chooseLog, csv, demoJob, madeLog, newJob, signedIn } from "./support.ts";

const rows = (line: (i: number) => string, n = 120) => Array.from({ length: n }, (_, i) => line(i)).join("\n");

async function openScan(page: Page, unitId?: string): Promise<string> {
  await signedIn(page.context());
  const job = await newJob(page.context(), unitId);
  await page.goto(`/jobs/${job.id}/scan`);
  return job.id;
}

const entries = async (page: Page, jobId: string) =>
  (await (await page.request.get(`/api/jobs/${jobId}`)).json()).entries.length as number;

test.describe("files refused before a byte is stored", () => {
  const cases: readonly (readonly [string, () => ReturnType<typeof csv>, RegExp])[] = [
    ["empty", () => csv("empty.csv", ""), /is empty: 0 bytes/],
    [
      "picture named .csv",
      () => csv("photo.csv", Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 0, 1, 2])),
      /PNG picture, not a text log/,
    ],
    [
      "binary",
      () => csv("dump.csv", Buffer.from(Array.from({ length: 3000 }, (_, i) => i % 9))),
      /binary file, not a text log/,
    ],
  ];
  for (const [name, make, words] of cases) {
    test(name, async ({ page }) => {
      const jobId = await openScan(page);
      await expect(page.getByText("up to 100 MB")).toBeVisible();
      await chooseLog(page, make());
      await expect(page.getByRole("alert")).toContainText(words);
      expect(await entries(page, jobId)).toBe(1);
      // the next try begins at once
      await expect(page.getByRole("button", { name: "Choose a log" })).toBeVisible();
    });
  }
  test("300 MB", async ({ page }) => {
    const jobId = await openScan(page);
    // a sparse file of the browser's own: nothing of that size is sent to it
    await page.getByLabel("Scan log file").evaluate((input: HTMLInputElement) => {
      const part = new Uint8Array(1 << 20).fill(49);
      const files = new DataTransfer();
      files.items.add(new File(new Array(300).fill(part), "huge.csv"));
      input.files = files.files;
      input.dispatchEvent(new Event("change", { bubbles: true }));
    });
    await expect(page.getByRole("alert")).toContainText("300 MB; up to 100 MB are read");
    expect(await entries(page, jobId)).toBe(1);
  });
});

test.describe("files stored and told to be of no use as they are", () => {
  const cases: readonly (readonly [string, string, RegExp])[] = [
    [
      "no time column",
      `Speed,Engine speed\n${rows((i) => `${i},900`)}\n`,
      /No time column: say which column holds the time/,
    ],
    ["one column", `${rows((i) => String(i))}\n`, /one column only/],
    [
      "mixed units",
      `Time (s),Fluid temperature\n${rows((i) => `${i / 5},${i < 60 ? "80 °C" : "176 °F"}`)}\n`,
      /mixes units: "°C" from line 2, "°F" from line 62/,
    ],
    ["shorter than 10 s", `Time (s),Engine speed\n0,900\n3,900\n6,900\n9,900\n`, /lasts 9\.0 s; at least 10 s/],
    ["prose", "Dear Iona,\nthe van is outside.\nGreetings\n", /No table was found/],
  ];
  for (const [name, text, words] of cases) {
    test(name, async ({ page }) => {
      const jobId = await openScan(page);
      await chooseLog(page, csv("odd.csv", text));
      await expect(page.getByRole("alert")).toContainText(words);
      // the file itself is safe, and says that it waits
      expect(await entries(page, jobId)).toBe(2);
      await page.reload();
      await expect(page.getByText("odd.csv is stored and not analysed yet")).toBeVisible();
    });
  }
  test("decimal commas under comma separation are quoted, and read right", async ({ page }) => {
    await openScan(page);
    await chooseLog(
      page,
      csv(
        "comma.csv",
        `"Time (s)","Engine speed (rpm)","Turbine speed (rpm)","Output speed (rpm)","Commanded gear"\n${rows((i) => `"${String(i / 5).replace(".", ",")}","1680,5","1657,3","1000,0","3"`, 200)}\n`,
      ),
    );
    await expect(page.getByLabel("Between the cells")).toHaveValue(",");
    await expect(page.getByLabel("Decimals after a")).toHaveValue("comma");
    await page.getByRole("button", { name: "Analyse the drive" }).click();
    await expect(page.getByRole("heading", { name: "No finding over a limit" })).toBeVisible();
  });
  test("the wrong unit: says which fits better, keeps the mapping", async ({ page }) => {
    await openScan(page, "corran-w7");
    await chooseLog(page, csv("planetary.csv", madeLog([], { durationS: 200 }).text));
    await page.getByRole("button", { name: "Analyse the drive" }).click();
    await expect(page.getByRole("alert")).toContainText(/does not suit Corran W7.*The ratios fit Brae P6/);
    await expect(page.getByLabel("Channel of Turbine speed")).toHaveValue("turbine_rpm");
  });
});

test("an upload that is cancelled, and one whose network breaks, leave nothing behind", async ({ page }) => {
  const jobId = await openScan(page);
  const uploads = "**/api/jobs/*/logs?*";
  const log = csv("slow.csv", `Time (s),Engine speed\n${rows((i) => `${i / 10},900.0`, 3000)}\n`);
  // a network that takes the bytes and never answers
  await page.route(uploads, () => {});
  await chooseLog(page, log);
  await expect(page.getByRole("progressbar", { name: "Storing the file unchanged" })).toBeVisible();
  await page.getByRole("button", { name: "Cancel" }).click();
  await expect(page.getByRole("button", { name: "Choose a log" })).toBeVisible();
  await expect(page.getByRole("alert")).toBeHidden();
  // one that breaks while the file is on its way
  await page.unroute(uploads);
  await page.route(uploads, (route) => route.abort("connectionreset"));
  await chooseLog(page, log);
  await expect(page.getByRole("alert")).toContainText(
    "The connection broke while the file was sent. Nothing was stored",
  );
  expect(await entries(page, jobId)).toBe(1);
  // and back again
  await page.unroute(uploads);
  await chooseLog(page, log);
  await expect(page.getByRole("heading", { name: /slow\.csv: what each column is/ })).toBeVisible();
  expect(await entries(page, jobId)).toBe(2);
});

test("an entry made without network waits over a reload and is stored once when it is back", async ({
  page,
  context,
}) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/first-look`);
  const form = page.getByRole("form", { name: "Fluid level" });
  await form.getByRole("radio", { name: "Low" }).click();
  await form.getByLabel("Fluid temperature, °C").fill("38");
  await page.route("**/entries", (route) => route.abort());
  await form.getByRole("button", { name: "Store the level" }).click();
  await expect(page.getByText(/1 entry waits on this device/)).toBeVisible();
  await page.reload();
  await expect(form.getByLabel("Fluid temperature, °C")).toHaveValue("38");
  await expect(page.getByRole("link", { name: /First look, done, low/ })).toBeVisible();
  expect(await entries(page, job.id)).toBe(1);
  await page.unroute("**/entries");
  await page.evaluate(() => window.dispatchEvent(new Event("online")));
  await expect(page.getByText(/on this device/)).toBeHidden();
  expect(await entries(page, job.id)).toBe(2);
});

test("two people on one job: the later sees a conflict, keeps what was typed, and chooses", async ({ browser }) => {
  const [one, two] = await Promise.all([browser.newContext(), browser.newContext()]);
  await signedIn(one, "iona");
  await signedIn(two, "marl");
  const job = await newJob(one);
  const [a, b] = await Promise.all([one.newPage(), two.newPage()]);
  await Promise.all([a.goto(`/jobs/${job.id}/first-look`), b.goto(`/jobs/${job.id}/first-look`)]);
  const level = (p: Page) => p.getByRole("form", { name: "Fluid level" });
  await level(b).getByRole("radio", { name: "Low" }).click();
  await level(b).getByLabel("How it was read").fill("sight hole, by hand");
  await level(a).getByRole("radio", { name: "Level correct" }).click();
  await level(a).getByRole("button", { name: "Store the level" }).click();
  await expect(a.getByRole("link", { name: /First look, done/ })).toBeVisible();
  await level(b).getByRole("button", { name: "Store the level" }).click();
  await expect(level(b).getByRole("alert")).toContainText("Somebody changed this while you were typing");
  await expect(level(b).getByRole("alert")).toContainText("Iona Tullo stored: fluid level correct");
  await expect(level(b).getByLabel("How it was read")).toHaveValue("sight hole, by hand");
  // the refused write fetches the job anew, and the form moves with it: a click on the way would miss
  await b.waitForLoadState("networkidle");
  await level(b).getByRole("button", { name: "Store mine instead" }).click();
  await expect(b.getByRole("link", { name: /First look, done, low/ })).toBeVisible();
  const stored = await (await two.request.get(`/api/jobs/${job.id}`)).json();
  expect(stored.entries.map((e: { kind: string; author: string }) => `${e.kind} ${e.author}`)).toEqual([
    "intake Iona Tullo",
    "level Iona Tullo",
    "level Marl Osk",
  ]);
  await one.close();
  await two.close();
});

test("ids that are unknown, mistyped or another shop's", async ({ page, context }) => {
  await signedIn(context);
  const job = await demoJob(context, "0417");
  await signedIn(context, "odda");
  for (const id of [job.id, "00000000-0000-4000-8000-000000000000", "library-van"]) {
    await page.goto(`/jobs/${id}/scan`);
    await expect(page.getByRole("alert")).toContainText("Your shop doesn’t have this job");
  }
  await page.getByRole("button", { name: "Bay board" }).click();
  await expect(page.getByText("Quarry pick-up")).toBeVisible();
  await expect(page.getByText("Mobile library van")).toBeHidden();
  await page.goto("/nowhere/at/all");
  await expect(page.getByText("This page doesn’t exist")).toBeVisible();
});

test("a viewer looks at everything and is offered nothing to change", async ({ page, context }) => {
  await signedIn(context, "fenn");
  const job = await demoJob(context, "0419");
  await page.goto("/");
  await expect(page.getByText("School minibus")).toBeVisible();
  await expect(page.getByRole("button", { name: "Open a job" })).toBeHidden();
  for (const stop of ["intake", "first-look", "scan", "suspects", "decide", "work", "proof", "handover"]) {
    await page.goto(`/jobs/${job.id}/${stop}`);
    await expect(page.getByText("You are signed in as a viewer: you may look, not change.")).toBeVisible();
    await expect(page.locator("main [data-primary]")).toHaveCount(0);
  }
  await page.getByRole("button", { name: /^Timeline/ }).click();
  await expect(page.getByRole("button", { name: "Take back" })).toBeHidden();
});

test("a session that has ended leads to the sign-in and back", async ({ page, context }) => {
  await signedIn(context);
  const job = await demoJob(context, "0419");
  await context.clearCookies();
  await page.goto(`/jobs/${job.id}/suspects`);
  await expect(page.getByLabel("Sign-in name")).toBeVisible();
  await page.getByLabel("Sign-in name").fill("iona");
  await page.getByLabel("Password").fill("skerrow-demo");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("heading", { name: /One part explains/ })).toBeVisible();
});
