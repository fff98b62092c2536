// Takes the pictures of docs/screenshots from the demo data, all or those named. usage: npm run screenshots [-- suspects decide]
// Look at each before committing.
import { readFileSync } from "node:fs";
import type { Unit } from "@gearsense/core/unit";
import { PLAIN_STYLE, simulateDrive, writeLog } from "@gearsense/simulator";
import type { BrowserContext, Page } from "@playwright/test";
import { withServedBrowser } from "./served-browser.ts";

const FOLDER = new URL("../docs/screenshots/", import.meta.url).pathname;

interface Shot {
  readonly name: string;
  readonly job?: string;
  readonly path: string;
  readonly theme?: "night-bay";
  readonly before?: (page: Page) => Promise<void>;
}

const unit = JSON.parse(readFileSync(new URL("../library/units/corran-w7.unit.json", import.meta.url), "utf8")) as Unit;
const { columns } = simulateDrive({
  unit,
  seed: 3,
  rateHz: 20,
  durationS: 120,
  profile: "town",
  startFluidC: 12,
  faults: [],
});
const log = writeLog(columns, { ...PLAIN_STYLE, headers: "short", delimiter: ";", decimalComma: true, units: "row" });

const SHOTS: readonly Shot[] = [
  { name: "board", path: "/" },
  { name: "intake", job: "0419", path: "intake" },
  {
    name: "first-look",
    job: "0419",
    path: "first-look",
    theme: "night-bay",
    before: async (page) => {
      await page.getByRole("button", { name: /^Leaks around the unit/ }).click();
      await page.getByRole("heading", { name: "Quick checks" }).evaluate((e) => e.scrollIntoView());
    },
  },
  {
    name: "pan",
    job: "0419",
    path: "pan",
    before: async (page) => {
      await page.getByText(/^Against fresh fluid/).waitFor();
      await page.getByRole("heading", { name: "Drained, and what lies in it" }).evaluate((e) => e.scrollIntoView());
    },
  },
  {
    name: "fluid",
    job: "0419",
    path: "fluid",
    before: async (page) => page.getByRole("heading", { name: "Renewal" }).evaluate((e) => e.scrollIntoView()),
  },
  {
    name: "mapping",
    job: "0421",
    path: "scan",
    before: async (page) => {
      await page
        .getByLabel("Scan log file")
        .setInputFiles({ name: "post-van-morning.csv", mimeType: "text/csv", buffer: Buffer.from(log) });
      await page.getByRole("button", { name: "Analyse the drive" }).waitFor();
    },
  },
  {
    name: "scan",
    job: "0419",
    path: "scan",
    before: async (page) => {
      await page.getByTestId("trace").waitFor();
      const box = await page.getByTestId("trace").boundingBox();
      if (box) await page.mouse.move(box.x + 245, box.y + 200);
    },
  },
  {
    name: "shifts",
    job: "0419",
    path: "scan",
    before: async (page) => {
      await page.getByTestId("trace").waitFor();
      await page.getByRole("tab", { name: "Shifts" }).click();
      await page.getByRole("combobox", { name: "Shift" }).selectOption("3-4");
      await page
        .getByRole("button", { name: /^Shift 3-4 at/ })
        .first()
        .click();
      await page.getByRole("tab", { name: "Shifts" }).evaluate((e) => e.scrollIntoView());
    },
  },
  {
    name: "vibration",
    job: "0418",
    path: "scan",
    theme: "night-bay",
    before: async (page) => {
      await page.getByTestId("trace").waitFor();
      await page.getByRole("tab", { name: "Vibration" }).click();
      await page.getByRole("button", { name: "Show", exact: true }).nth(1).click();
      await page.waitForTimeout(300);
      await page.getByRole("button", { name: "Spectrum of what is shown" }).click();
      await page
        .getByText(/rpm peak to peak at/)
        .first()
        .waitFor();
      await page.getByRole("tab", { name: "Vibration" }).evaluate((e) => e.scrollIntoView());
    },
  },
  {
    name: "road-test",
    job: "0422",
    path: "scan?way=felt",
    before: async (page) => {
      await page.getByRole("button", { name: "Correct the road test of Marl Osk" }).click();
      await page
        .getByRole("table", { name: /^Gears of the road test/ })
        .evaluate((e) => e.scrollIntoView({ block: "end" }));
    },
  },
  { name: "suspects", job: "0417", path: "suspects" },
  {
    name: "decide",
    job: "0419",
    path: "decide",
    before: async (page) =>
      page
        .getByRole("button", { name: /^Where the figures of/ })
        .first()
        .click(),
  },
  { name: "work", job: "0420", path: "work" },
  { name: "proof", job: "0418", path: "proof" },
  { name: "report", job: "0416", path: "report" },
  { name: "units", path: "/units" },
  {
    name: "unit-gears",
    path: "/units/fell-e8",
    before: async (page) => page.getByRole("radio", { name: "3", exact: true }).click(),
  },
  { name: "unit-wiring", path: "/units/corran-w7/wiring" },
  {
    name: "unit-editor",
    path: "/units/holm-c6/edit",
    before: async (page) => {
      await page.getByRole("button", { name: "Gear train" }).click();
      await page.getByLabel("Ring").first().fill("79");
      await page.getByRole("heading", { name: "Gear train" }).click();
    },
  },
];

async function take(context: BrowserContext, shot: Shot): Promise<void> {
  const page = await context.newPage();
  await page.addInitScript((theme) => localStorage.setItem("gearsense.theme", theme), shot.theme ?? "bay-light");
  const { jobs } = (await (await context.request.get("/api/jobs")).json()) as {
    jobs: { id: string; number: string }[];
  };
  await page.goto(shot.job ? `/jobs/${jobs.find((j) => j.number === shot.job)?.id}/${shot.path}` : shot.path);
  await page.waitForLoadState("networkidle");
  await shot.before?.(page);
  await page.evaluate(() => document.fonts.ready);
  await page.waitForTimeout(800);
  await page.screenshot({ path: `${FOLDER}${shot.name}.png` });
  await page.close();
}

const named = process.argv.slice(2);
const unknown = named.filter((n) => !SHOTS.some((s) => s.name === n));
if (unknown.length > 0)
  throw new Error(`No picture is called ${unknown.join(", ")}: ${SHOTS.map((s) => s.name).join(", ")}`);
const chosen = SHOTS.filter((s) => named.length === 0 || named.includes(s.name));

await withServedBrowser(4179, async (context) => {
  for (const shot of chosen) await take(context, shot);
});
