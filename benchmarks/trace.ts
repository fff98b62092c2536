// The interface under a two-hour, 20 Hz, 30-channel log: longest main-thread task during import, time from the parsed log to
// the drawn strips, and frames a second while the trace is panned and zoomed on every frame. usage: npm run bench:trace
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { withServedBrowser } from "../scripts/served-browser.ts";
import { longLog, unit } from "./long-log.ts";

const { text } = longLog(Number(process.argv[2] ?? 120), 30);
// a real file: one made of a buffer is put together by the page itself
const folder = mkdtempSync(join(tmpdir(), "gearsense-bench-"));
const file = join(folder, "long.csv");
writeFileSync(file, text);

await withServedBrowser(4178, async (context) => {
  await context.addInitScript(() => {
    const w = window as unknown as { longTasks: number[] };
    w.longTasks = [];
    new PerformanceObserver((list) => {
      for (const e of list.getEntries()) w.longTasks.push(e.duration);
    }).observe({ entryTypes: ["longtask"] });
  });
  const job = await (
    await context.request.post("/api/jobs", {
      data: {
        vehicle: { name: "Bench", plate: "", owner: "Bench" },
        unitId: unit.id,
        odometerKm: 1,
        intake: { complaint: "bench", symptoms: [], doneAlready: "", recentEvents: "" },
      },
    })
  ).json();
  const page = await context.newPage();
  await page.goto(`/jobs/${job.id}/scan`);
  await page.getByRole("button", { name: "Choose a log" }).waitFor();
  // what the page itself costs to open is not the import's
  await page.waitForTimeout(500);
  await page.evaluate(() => {
    (window as unknown as { longTasks: number[] }).longTasks = [];
  });
  await page.getByLabel("Scan log file").setInputFiles(file);
  await page.getByRole("button", { name: "Analyse the drive" }).waitFor({ timeout: 120_000 });
  // watches the bar of the second reading and the trace, frame by frame
  await page.evaluate(() => {
    const w = window as unknown as { parsedAt: number; drawnAt: number };
    w.parsedAt = 0;
    w.drawnAt = 0;
    const tick = () => {
      const bar = document.querySelector("[role=progressbar]");
      const share = Number(bar?.getAttribute("aria-valuenow") ?? 0);
      if (bar && share < 99) w.parsedAt = performance.now();
      if (document.querySelector("[data-testid=trace] canvas")) w.drawnAt ||= performance.now();
      else requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  });
  await page.getByRole("button", { name: "Analyse the drive" }).click();
  await page.getByTestId("trace").waitFor({ timeout: 120_000 });
  await page.waitForTimeout(800);
  const tasks = await page.evaluate(() => (window as unknown as { longTasks: number[] }).longTasks);
  console.log(`${(text.length / 1048576).toFixed(1)} MB log, from choosing the file to the drawn trace`);
  const drawn = await page.evaluate(() => {
    const w = window as unknown as { parsedAt: number; drawnAt: number };
    return w.drawnAt - w.parsedAt;
  });
  console.log(`from the parsed log to the first strips ${drawn.toFixed(0)} ms (aim: under 1000)`);
  console.log(`tasks over 50 ms: ${tasks.length}; longest ${Math.max(0, ...tasks).toFixed(0)} ms (aim: none over 50)`);

  for (const kind of ["zoom", "pan"] as const) {
    const frames = await page.evaluate(async (what) => {
      const trace = document.querySelector("[data-testid=trace]") as HTMLElement;
      const box = trace.getBoundingClientRect();
      const wheel = (deltaY: number, shiftKey: boolean) =>
        trace.dispatchEvent(
          new WheelEvent("wheel", {
            deltaY,
            shiftKey,
            clientX: box.left + box.width * 0.4,
            clientY: box.top + 150,
            bubbles: true,
            cancelable: true,
          }),
        );
      if (what === "pan") for (let i = 0; i < 12; i++) wheel(-120, false);
      const steps: number[] = [];
      let last = 0;
      await new Promise<void>((done) => {
        let n = 0;
        const tick = (now: number) => {
          if (last > 0) steps.push(now - last);
          last = now;
          if (n++ > 240) return done();
          if (what === "zoom") wheel(n % 80 < 40 ? -40 : 40, false);
          else wheel(n % 120 < 60 ? 30 : -30, true);
          requestAnimationFrame(tick);
        };
        requestAnimationFrame(tick);
      });
      return steps;
    }, kind);
    const sorted = [...frames].sort((a, b) => a - b);
    const at = (p: number) => 1000 / (sorted[Math.floor(p * (sorted.length - 1))] as number);
    console.log(
      `${kind.padEnd(5)} frames a second: median ${at(0.5).toFixed(0)} (aim 55), worst tenth ${at(0.9).toFixed(0)} (aim 30)`,
    );
  }
});
rmSync(folder, { recursive: true });
