// Takes the pictures of docs/screenshots from the demo data. usage: npm run screenshots   Look at each before committing.
import { type ChildProcess, spawn } from "node:child_process";
import { readFileSync } from "node:fs";
import type { Unit } from "@gearsense/core/unit";
import { PLAIN_STYLE, simulateDrive, writeLog } from "@gearsense/simulator";
import { type BrowserContext, chromium, type Page } from "@playwright/test";

const PORT = 4179;
const FOLDER = new URL("../docs/screenshots/", import.meta.url).pathname;

function startServer(): Promise<ChildProcess> {
  const child = spawn("scripts/e2e-server.sh", {
    env: { ...process.env, PORT: String(PORT), QUIET: "1" },
    stdio: ["ignore", "pipe", "inherit"],
  });
  return new Promise((resolve, reject) => {
    child.stdout?.on("data", (d: Buffer) => d.toString().includes("is ready") && resolve(child));
    child.on("exit", (code) => reject(new Error(`the server ended with ${code}`)));
  });
}

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
  finalFluidC: 80,
  faults: [],
});
const log = writeLog(columns, { ...PLAIN_STYLE, headers: "short", delimiter: ";", decimalComma: true, units: "row" });

const SHOTS: readonly Shot[] = [
  { name: "board", path: "/" },
  { name: "intake", job: "0417", path: "intake" },
  { name: "first-look", job: "0421", path: "first-look", theme: "night-bay" },
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
  { name: "suspects", job: "0417", path: "suspects" },
  { name: "decide", job: "0419", path: "decide" },
  { name: "work", job: "0420", path: "work" },
  { name: "proof", job: "0418", path: "proof" },
  { name: "report", job: "0416", path: "report" },
];

async function take(context: BrowserContext, shot: Shot): Promise<void> {
  const page = await context.newPage();
  await page.addInitScript((theme) => localStorage.setItem("gearsense.theme", theme), shot.theme ?? "bay-light");
  const jobs = (await (await context.request.get("/api/jobs")).json()) as { id: string; number: string }[];
  await page.goto(shot.job ? `/jobs/${jobs.find((j) => j.number === shot.job)?.id}/${shot.path}` : shot.path);
  await page.waitForLoadState("networkidle");
  await shot.before?.(page);
  await page.evaluate(() => document.fonts.ready);
  await page.waitForTimeout(800);
  await page.screenshot({ path: `${FOLDER}${shot.name}.png` });
  await page.close();
}

const server = await startServer();
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage", "--font-render-hinting=none"],
});
try {
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    baseURL: `http://127.0.0.1:${PORT}`,
    locale: "en-GB",
  });
  await context.addInitScript("globalThis.__name = (f) => f");
  await context.request.post("/api/session", { data: { signIn: "iona", password: "skerrow-demo" } });
  for (const shot of SHOTS) await take(context, shot);
} finally {
  await browser.close();
  server.removeAllListeners("exit");
  server.kill("SIGTERM");
}
