// Takes the pictures of docs/screenshots from the demo data, all or those named. usage: npm run screenshots [-- suspects decide]
// Look at each before committing.
import { spawn } from "node:child_process";
import type { BrowserContext, Page } from "@playwright/test";
import { withServedBrowser } from "./served-browser.ts";

const FOLDER = new URL("../docs/screenshots/", import.meta.url).pathname;

interface Shot {
  readonly name: string;
  readonly job?: string;
  readonly path: string;
  /** who looks; a technician when nothing is said */
  readonly as?: "marl";
  readonly theme?: "night-bay";
  readonly before?: (page: Page) => Promise<void>;
}

/** A sound vehicle on a hill, faster than life. */
const DRIVEN = ["--unit", "brae-p6", "--seed", "3", "--speed", "6"];

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
    name: "record",
    job: "0431",
    path: "scan?way=log",
    before: async (page) => {
      const vehicle = spawn(process.execPath, ["cli/dist/index.js", "vehicle", "--port", "0", ...DRIVEN]);
      const said = await new Promise<string>((resolve) =>
        vehicle.stdout.once("data", (d: Buffer) => resolve(String(d))),
      );
      await page.getByRole("button", { name: "Record a drive" }).click();
      await page.getByLabel("Port").fill(/:(\d+)/.exec(said)?.[1] ?? "");
      await page.getByRole("button", { name: "Look who is there" }).click();
      await page.getByRole("checkbox", { name: /^A second person/ }).check();
      await page.getByRole("button", { name: "Record", exact: true }).click();
      await page.getByText(/^3:/).waitFor({ timeout: 90_000 });
      await page.getByRole("button", { name: "Felt it now" }).click();
      page.once("close", () => vehicle.kill());
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
  {
    name: "work",
    job: "0429",
    path: "work",
    before: async (page) =>
      page.getByRole("region", { name: "Fill" }).evaluate((e) => e.scrollIntoView({ block: "start" })),
  },
  { name: "bench", job: "0431", path: "bench" },
  {
    name: "relearn",
    job: "0431",
    path: "relearn",
    before: async (page) => {
      await page.getByRole("table", { name: "Learned values" }).waitFor();
      await page.getByRole("region", { name: "Break-in" }).evaluate((e) => e.scrollIntoView({ block: "start" }));
    },
  },
  { name: "week", path: "/week" },
  { name: "proof", job: "0418", path: "proof" },
  { name: "report", job: "0416", path: "report" },
  {
    name: "unit-gears",
    path: "/units/fell-e8",
    before: async (page) => page.getByRole("radio", { name: "3", exact: true }).click(),
  },
  {
    name: "shop",
    as: "marl",
    path: "/shop",
    before: async (page) =>
      page.getByRole("region", { name: "People" }).evaluate((e) => e.scrollIntoView({ block: "start" })),
  },
  {
    name: "figures",
    as: "marl",
    path: "/shop/figures",
    before: async (page) => {
      await page.getByRole("region", { name: "What own jobs teach" }).waitFor();
      await page.getByRole("region", { name: "Hours" }).evaluate((e) => e.scrollIntoView({ block: "start" }));
    },
  },
  {
    name: "prices",
    as: "marl",
    path: "/shop/prices",
    before: async (page) => {
      await page.getByLabel("For", { exact: true }).selectOption({ label: "Brae P6" });
      await page.getByLabel("Find", { exact: true }).fill("rebuild");
    },
  },
];

const signAs = (context: BrowserContext, signIn: string) =>
  context.request.post("/api/session", {
    data: { signIn, password: "skerrow-demo" },
    headers: { "x-gearsense-client": "screenshots" },
  });

async function take(context: BrowserContext, shot: Shot): Promise<void> {
  if (shot.as) await signAs(context, shot.as);
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
  if (shot.as) await signAs(context, "iona");
}

const named = process.argv.slice(2);
const unknown = named.filter((n) => !SHOTS.some((s) => s.name === n));
if (unknown.length > 0)
  throw new Error(`No picture is called ${unknown.join(", ")}: ${SHOTS.map((s) => s.name).join(", ")}`);
const chosen = SHOTS.filter((s) => named.length === 0 || named.includes(s.name));

await withServedBrowser(4179, async (context) => {
  for (const shot of chosen) await take(context, shot);
});
