// Every view in both themes: no serious accessibility violation, shipped fonts, nothing wider than the screen on a laptop
// and a tablet; units of measure switch everywhere; the first load stays small.
import { readdirSync, readFileSync } from "node:fs";
import { gzipSync } from "node:zlib";
import { expect, type Page, test } from "@playwright/test";
import { chooseLog, csv, demoJob, madeLog, newJob, serious, signedIn } from "./support.ts";

const VIEWS: readonly (readonly [string, string | undefined, string, RegExp])[] = [
  ["sign-in", undefined, "/sign-in", /Sign-in name/],
  ["bay board", undefined, "/", /Bay board/],
  ["new job", undefined, "/jobs/new", /Open a job/],
  ["intake", "0417", "intake", /Pin it down/],
  ["first look", "0421", "first-look", /Fluid condition/],
  ["first look, all of it", "0419", "first-look", /Left open/],
  ["pan", "0419", "pan", /Against fresh fluid/],
  ["fluid", "0419", "fluid", /Next change/],
  ["fluid bench", undefined, "/fluid", /Next change/],
  ["scan, empty", "0421", "scan", /Choose a log/],
  ["road test, no scan tool", "0421", "scan?way=felt", /Tap what each gear did/],
  ["scan, planetary", "0419", "scan", /Slip in gear 3/],
  ["scan, dual clutch", "0417", "scan", /Slip in gear 2/],
  ["suspects", "0417", "suspects", /Next check/],
  ["suspects, level unknown", "0421", "suspects", /First of all/],
  ["decide", "0419", "decide", /[Nn]ine in ten under/],
  ["suspects, wiring", "0420", "suspects", /Output speed sensor dead/],
  ["work", "0420", "work", /What was done and found/],
  ["work, fill", "0429", "work", /Start, brake held/],
  ["work, ways", "0427", "work", /cheapest on average/],
  ["work, apart", "0428", "work", /steps done/],
  ["bench", "0431", "bench", /Line or apply pressure too low/],
  ["relearn", "0431", "relearn", /Relearned\. Drive it, then prove the repair/],
  ["bench, pack", "0431", "bench?at=pack-in%3ATC", /Stack 19/],
  ["bench, converter fit", "0432", "bench?at=converter-fit", /Comes forward 3\.0 mm/],
  ["bench, converter choice", "0433", "bench?at=converter-choice", /The log bears the new converter out/],
  ["bench, dual clutch", "0434", "bench?at=dual-clutch", /K2 has lost/],
  ["bench, cause", "0431", "bench?at=cause", /Told to the owner/],
  ["week", undefined, "/week", /Week of/],
  ["the shop", undefined, "/shop", /Name and prices/],
  ["proof", "0418", "proof", /gone under the same conditions/],
  ["hand-over, closed", "0416", "handover", /The job is closed/],
  ["units", undefined, "/units", /Crag T10/],
  ["unit, gears", undefined, "/units/crag-t10", /Torque share/],
  ["unit, what if", undefined, "/units/tarn-f4/solenoids", /Obtained under drive/],
  ["unit, wiring", undefined, "/units/corran-w7/wiring", /What shares a wire/],
  ["unit, service", undefined, "/units/brae-p6/service", /Level and filling/],
  ["unit, new", undefined, "/units/new/edit", /places are wrong/],
  ["unit, editor", undefined, "/units/brae-p6/edit", /Nothing is wrong/],
  ["report", "0416", "report", /Hand-over and follow-ups/],
];

async function open(page: Page, number: string | undefined, path: string): Promise<void> {
  if (path !== "/sign-in" && (await page.context().cookies()).length === 0) await signedIn(page.context());
  const url = number ? `/jobs/${(await demoJob(page.context(), number)).id}/${path}` : path;
  await page.goto(url);
}

/** Serious violations in both themes: they are tokens of one page, so in the second only what goes by colour is asked. */
async function seriousInBothThemes(page: Page): Promise<string[]> {
  const themed = (theme: string) =>
    page.evaluate((t) => {
      document.documentElement.dataset.theme = t;
    }, theme);
  await themed("bay-light");
  const light = await serious(page);
  await themed("night-bay");
  return [...light, ...(await serious(page, ["color-contrast", "link-in-text-block"]))];
}

/** What moves has come to rest: colours in the middle of a fade are nobody's. */
const settled = (page: Page) =>
  page.evaluate(() =>
    Promise.allSettled(
      document
        .getAnimations()
        .filter((a) => a.effect?.getComputedTiming().endTime !== Number.POSITIVE_INFINITY)
        .map((a) => a.finished),
    ),
  );

const SIZES = [
  [390, 844],
  [1024, 768],
  [1280, 800],
] as const;

/** The view on a phone, a tablet and a laptop, the last of which stays. */
async function fitsEverySize(page: Page): Promise<void> {
  for (const [width, height] of SIZES) {
    await page.setViewportSize({ width, height });
    await expect
      .poll(
        () => page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth),
        `wider than ${width}`,
      )
      .toBeLessThanOrEqual(0);
  }
}

for (const [name, number, path, text] of VIEWS) {
  test(`${name} fits a phone, a tablet and a laptop and has no serious violation in either theme`, async ({ page }) => {
    await open(page, number, path);
    await expect(page.getByText(text).filter({ visible: true }).first()).toBeVisible();
    if (path === "scan" && number !== "0421") await expect(page.getByTestId("trace")).toBeVisible();
    await fitsEverySize(page);
    expect(await seriousInBothThemes(page)).toEqual([]);
  });
}

/** Things that open over or inside a view. */
const OPENED: readonly (readonly [string, string, string, (page: Page) => Promise<void>])[] = [
  ["key list", "0417", "suspects", async (page) => page.keyboard.press("?")],
  [
    "search",
    "0417",
    "suspects",
    async (page) => {
      await page.keyboard.press("/");
      await expect(page.getByRole("option").first()).toBeVisible();
    },
  ],
  ["timeline", "0416", "handover", async (page) => page.keyboard.press("t")],
  [
    "taking back",
    "0420",
    "work",
    async (page) => {
      await page.keyboard.press("t");
      await page.getByRole("button", { name: "Take back" }).first().click();
    },
  ],
  [
    "plan, all of it",
    "0428",
    "work",
    async (page) => {
      for (const name of [/^While it is open/, /^Plan as bars/, /^Parts, promise and papers/, /^Way:/])
        await page.getByText(name).first().click();
      await expect(page.getByLabel("Promised for")).toBeVisible();
    },
  ],
  ["what it rests on", "0417", "suspects", async (page) => page.getByRole("tab", { name: "What it rests on" }).click()],
  [
    "a repair that was done",
    "0417",
    "suspects",
    async (page) => page.getByRole("button", { name: "Record a repair that was done" }).click(),
  ],
  [
    "origins in a closed job",
    "0416",
    "decide",
    async (page) => {
      await expect(page.getByRole("radio").first()).toBeDisabled();
      await page
        .getByRole("button", { name: /^Where the figures of/ })
        .first()
        .click();
      await expect(page.getByText(/vehicles drawn from these odds, seed/)).toBeVisible();
    },
  ],
  ["check", "0417", "suspects", async (page) => page.getByRole("button", { name: "Make this check" }).click()],
  [
    "odds of one suspect",
    "0417",
    "suspects",
    async (page) => page.getByRole("complementary", { name: "Odds" }).getByRole("button").first().click(),
  ],
  ["leaks", "0419", "first-look", async (page) => page.getByRole("button", { name: /^Leaks around the unit/ }).click()],
  ["photo", "0419", "pan", async (page) => page.getByRole("button", { name: /^Open the photo of the magnet/ }).click()],
  [
    "codes from text",
    "0419",
    "first-look",
    async (page) => page.getByRole("button", { name: "From a scan tool's report" }).click(),
  ],
  ["measures", "0419", "scan", async (page) => page.getByText("All measures").click()],
  [
    "mapping",
    "0421",
    "scan",
    async (page) => {
      // a job of its own: the file stays with it
      const job = await newJob(page.context(), "corran-w7");
      await page.goto(`/jobs/${job.id}/scan`);
      await chooseLog(
        page,
        csv("morning.csv", madeLog([], { unitId: "corran-w7", durationS: 60, style: { headers: "short" } }).text),
      );
      await expect(page.getByRole("heading", { name: /what each column is/ })).toBeVisible();
    },
  ],
];

for (const [name, number, path, act] of OPENED) {
  test(`${name}, opened over a view, has no serious violation in either theme`, async ({ page }) => {
    await open(page, number, path);
    await expect(page.getByRole("button", { name: /^Timeline/ })).toBeVisible();
    await act(page);
    await settled(page);
    expect(await seriousInBothThemes(page)).toEqual([]);
  });
}

// a phone in the hand at the vehicle: what is read and typed there scrolls down, not aside
for (const [name, number, path, text] of [
  ["decide", "0420", "decide", /Store the estimate/],
  ["scan", "0419", "scan", /Slip in gear 3/],
  ["road test", "0421", "scan?way=felt", /Tap what each gear did/],
  ["hand-over", "0420", "handover", /Add a follow-up/],
  ["unit editor", undefined, "/units/brae-p6/edit", /Nothing is wrong/],
] as const) {
  test(`${name} needs no scrolling aside on a phone of 390`, async ({ page }) => {
    await page.setViewportSize({ width: 390, height: 844 });
    await open(page, number, path);
    await expect(page.getByText(text).filter({ visible: true }).first()).toBeVisible();
    const main = page.getByRole("main");
    expect(await main.evaluate((m) => m.scrollWidth - m.clientWidth)).toBeLessThanOrEqual(0);
    expect((await main.boundingBox())?.width).toBeGreaterThan(340);
  });
}

test("letters and figures come from the shipped fonts", async ({ page }) => {
  await open(page, "0417", "suspects");
  await expect(page.getByText("Next check").first()).toBeVisible();
  const faces = await page.evaluate(async () => {
    await document.fonts.ready;
    return [...document.fonts].filter((f) => f.status === "loaded").map((f) => f.family.replaceAll('"', ""));
  });
  expect(faces).toEqual(expect.arrayContaining(["Barlow Condensed", "Atkinson Hyperlegible Next Variable"]));
  const hosts = await page.evaluate(() => [
    ...new Set(performance.getEntriesByType("resource").map((r) => new URL(r.name).host)),
  ]);
  expect(hosts).toEqual([new URL(page.url()).host]);
});

test("units of measure switch everywhere at once and stay switched", async ({ page }) => {
  await open(page, "0419", "scan");
  await expect(page.getByRole("cell", { name: /N·m · .*°C · .*km\/h/ }).first()).toBeVisible();
  await page.keyboard.press("m");
  await expect(page.getByRole("cell", { name: /lbf·ft · .*°F · .*mph/ }).first()).toBeVisible();
  await page.reload();
  await expect(page.getByRole("cell", { name: /lbf·ft/ }).first()).toBeVisible();
  await page.keyboard.press("y");
  await expect(page.locator("html")).toHaveAttribute("data-theme", "night-bay");
});

test("the trace zooms by drag and wheel, pans, and shows values under the crosshair", async ({ page }) => {
  await open(page, "0419", "scan");
  const trace = page.getByTestId("trace");
  await expect(trace).toBeVisible();
  const box = await trace.boundingBox();
  if (!box) throw new Error("the trace has no place");
  const span = async () =>
    Number(await trace.getAttribute("data-end")) - Number(await trace.getAttribute("data-start"));
  const whole = await span();
  await page.mouse.move(box.x + 200, box.y + 150);
  await page.mouse.down();
  await page.mouse.move(box.x + 400, box.y + 150, { steps: 5 });
  await page.mouse.up();
  await expect(async () => expect((await span()) / whole).toBeCloseTo(200 / box.width, 2)).toPass();
  const zoomed = await span();
  await page.mouse.wheel(0, -240);
  await expect(async () => expect(await span()).toBeLessThan(zoomed)).toPass();
  const start = Number(await trace.getAttribute("data-start"));
  await page.mouse.move(box.x + 300, box.y + 12);
  await page.mouse.down();
  await page.mouse.move(box.x + 200, box.y + 12, { steps: 4 });
  await page.mouse.up();
  expect(Number(await trace.getAttribute("data-start"))).toBeGreaterThan(start);
  await expect(page.getByText(/^\d+\.\d\d s$/)).toBeVisible();
  await page.getByRole("button", { name: "Whole drive" }).click();
  expect(await span()).toBeCloseTo(whole, 6);
});

test("the first load is under 350 kB of compressed script", async ({ page }) => {
  const asked: string[] = [];
  page.on("response", (r) => asked.push(new URL(r.url()).pathname));
  await page.goto("/sign-in");
  await expect(page.getByLabel("Sign-in name")).toBeVisible();
  await page.waitForLoadState("networkidle");
  const folder = new URL("../web/dist/assets/", import.meta.url);
  const files = readdirSync(folder).filter((f) => f.endsWith(".js") && asked.some((a) => a.endsWith(f)));
  expect(files.length).toBeGreaterThan(0);
  const bytes = files.reduce((sum, f) => sum + gzipSync(readFileSync(new URL(f, folder))).length, 0);
  test
    .info()
    .annotations.push({ type: "first load", description: `${(bytes / 1000).toFixed(0)} kB in ${files.length} files` });
  expect(bytes).toBeLessThan(350_000);
});
