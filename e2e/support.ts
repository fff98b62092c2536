import { spawn } from "node:child_process";
import { readFileSync } from "node:fs";
import AxeBuilder from "@axe-core/playwright";
import type { JobPageView, JobSummaryView, JobView, RecordingView } from "@gearsense/contract";
import type { Unit } from "@gearsense/core/unit";
import {
  type ExportStyle,
  PLAIN_STYLE,
  type ProfileName,
  type SimulatedFault,
  simulateDrive,
  writeLog,
} from "@gearsense/simulator";
import { type BrowserContext, expect, type Page } from "@playwright/test";

export const PASSWORD = "skerrow-demo";

export const unitFile = (id: string) =>
  JSON.parse(readFileSync(new URL(`../library/units/${id}.unit.json`, import.meta.url), "utf8")) as Unit;

export const WORN_THIRD_CLUTCH = {
  kind: "element-worn",
  component: "TC",
} as const satisfies SimulatedFault;

/** A made-up log with what was really put into it. */
/** every drive is of one vehicle: before and after a repair it is the same */
const VEHICLE = 6;

export function madeLog(
  faults: SimulatedFault[],
  options: {
    seed?: number;
    profile?: ProfileName;
    style?: Partial<ExportStyle>;
    durationS?: number;
    unitId?: string;
    /** changes what was recorded, in place */
    alter?: (columns: ReadonlyMap<string, Float64Array>) => void;
  } = {},
) {
  const { columns, truth } = simulateDrive({
    unit: unitFile(options.unitId ?? "brae-p6"),
    seed: options.seed ?? 77,
    vehicleSeed: VEHICLE,
    rateHz: 20,
    durationS: options.durationS ?? 420,
    profile: options.profile ?? "mixed",
    startFluidC: 50,
    faults,
  });
  options.alter?.(columns);
  return { text: writeLog(columns, { ...PLAIN_STYLE, ...options.style }), truth };
}

export const csv = (name: string, text: string | Buffer) => ({
  name,
  mimeType: "text/csv",
  buffer: Buffer.from(text as string),
});

/** Signs in behind the interface: for tests that are about something else. */
export async function signedIn(context: BrowserContext, name = "iona"): Promise<void> {
  const response = await context.request.post("/api/session", { data: { signIn: name, password: PASSWORD } });
  expect(response.ok()).toBe(true);
}

export async function demoJob(context: BrowserContext, number: string): Promise<JobSummaryView> {
  const { jobs } = (await (await context.request.get(`/api/jobs?find=${number}`)).json()) as JobPageView;
  const job = jobs.find((j) => j.number === number);
  if (!job) throw new Error(`the demo has no job ${number}`);
  return job;
}

/** A job of the test's own, opened behind the interface. */
export async function newJob(context: BrowserContext, unitId = "brae-p6"): Promise<JobView> {
  const response = await context.request.post("/api/jobs", {
    data: {
      vehicle: { name: "Test van", plate: "", owner: "Skerrow Post" },
      unitId,
      odometerKm: 1000,
      intake: { complaint: "It slips.", symptoms: [], doneAlready: "", recentEvents: "" },
    },
  });
  expect(response.ok()).toBe(true);
  return response.json();
}

/** An entry on a job's timeline, past the interface. */
export async function entry(context: BrowserContext, job: JobView, kind: string, body: object): Promise<void> {
  const done = await context.request.post(`/api/jobs/${job.id}/entries`, { data: { kind, body, baseSeq: 0 } });
  expect(done.ok()).toBe(true);
}

/** Chooses a file through the interface's own button. */
export async function chooseLog(page: Page, file: ReturnType<typeof csv>): Promise<void> {
  // fonts and the job's state move the page when they come: a click in that moment lands beside the button
  await page.waitForLoadState("networkidle");
  await page.evaluate(() => document.fonts.ready);
  const button = page.getByRole("button", { name: "Choose a log" });
  await expect(button).toBeEnabled();
  const chooser = page.waitForEvent("filechooser", { timeout: 30_000 });
  await button.click();
  await (await chooser).setFiles(file);
}

/** Chooses the channel of a column; its list is filled when it is reached for. */
export async function pickChannel(page: Page, column: string, channel: string): Promise<void> {
  const select = page.getByLabel(`Channel of ${column}`);
  await select.focus();
  await select.selectOption(channel);
}

/** Ticks what has to be so before a step. */
export async function tickHolds(page: Page): Promise<void> {
  const boxes = page.getByRole("group", { name: "Tick each once it is done" }).getByRole("checkbox");
  await boxes.first().waitFor();
  for (const box of await boxes.all()) await box.check();
}

/** Serious and critical violations of the page that is shown. @param only - ids of rules; absent: all */
export async function serious(page: Page, only?: string[]): Promise<string[]> {
  // one document without frames: its results need not be put together in another page, which takes most of the time
  const axe = new AxeBuilder({ page }).setLegacyMode(true).options({
    resultTypes: ["violations"],
    ...(only ? { runOnly: { type: "rule", values: only } } : {}),
  });
  const { violations } = await axe.analyze();
  return violations
    .filter((v) => v.impact === "serious" || v.impact === "critical")
    .map((v) => `${v.id}: ${v.nodes.map((n) => n.target).join(" | ")}`);
}

/** A simulated vehicle on a free port; `say` speaks to whoever sits in it. */
export async function vehicleOf(
  ...flags: string[]
): Promise<{ port: string; say: (words: string) => void; end: () => void }> {
  const child = spawn(process.execPath, ["cli/dist/index.js", "vehicle", "--port", "0", ...flags], {
    stdio: ["pipe", "pipe", "pipe"],
  });
  const port = await new Promise<string>((resolve, reject) => {
    let said = "";
    const listen = (chunk: Buffer) => {
      said += chunk.toString();
      const at = /127\.0\.0\.1:(\d+)/.exec(said);
      if (at?.[1]) resolve(at[1]);
    };
    child.stdout?.on("data", listen);
    child.stderr?.on("data", listen);
    child.once("exit", () => reject(new Error(`the vehicle did not start: ${said}`)));
  });
  return { port, say: (words) => void child.stdin?.write(`${words}\n`), end: () => child.kill("SIGTERM") };
}

export const recorder = (page: Page) => page.getByRole("region", { name: "Record a drive" });
export const recordingOf = async (page: Page, job: JobView): Promise<RecordingView> =>
  (await (await page.request.get(`/api/jobs/${job.id}/recording`)).json()).recording;

/** Records from a link until so many seconds were driven, and keeps it. */
export async function recordDrive(page: Page, job: JobView, port: string, seconds: number): Promise<void> {
  const box = recorder(page);
  await box.getByLabel("Port").fill(port);
  await box.getByRole("button", { name: "Look who is there" }).click();
  await box.getByRole("checkbox", { name: /A second person holds this screen/ }).check();
  await box.getByRole("button", { name: "Record", exact: true }).click();
  await expect
    .poll(async () => (await recordingOf(page, job))?.live.timeS ?? 0, { timeout: 180_000 })
    .toBeGreaterThan(seconds);
  await box.getByRole("button", { name: "End and keep" }).click();
  await expect(box).toBeHidden({ timeout: 60_000 });
}
