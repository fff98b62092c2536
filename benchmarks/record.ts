// Two simulated hours of thirty channels over a link: readings lost against the device's own list, how long the server's event loop was
// held up, frames a second of the live view.
import { readFileSync } from "node:fs";
import type { Unit } from "@gearsense/core/unit";
import { didOf, usualDefinition } from "@gearsense/link";
import { readableChannels } from "@gearsense/simulator";
import { withServedBrowser } from "../scripts/served-browser.ts";
import { serveCounting } from "../server/src/testing/vehicle.ts";

const UNIT = "fell-e8";
const CHANNELS = 30;
const SPEED = 20;
const HOURS = Number(process.env.HOURS ?? 2);
const FRAMES_OVER_MS = 20_000;
const TOKEN = "a token for this run only";
process.env.METRICS_TOKEN = TOKEN;

const unit = JSON.parse(readFileSync(new URL(`../library/units/${UNIT}.unit.json`, import.meta.url), "utf8")) as Unit;
const own = readableChannels(unit);
const more = unit.elements.map((e) => `element_${e.id}_kpa`);
const names = [...own, ...more].slice(0, CHANNELS);
const definition = usualDefinition("thirty channels", names);
const began = performance.now();
const device = await serveCounting(definition, () => (performance.now() - began) * SPEED);

/** Values of a histogram's quantile gauge in the text of the metrics, ms. */
const lagMs = (text: string, quantile: string) =>
  1000 * Number(new RegExp(`^nodejs_eventloop_lag_${quantile}_seconds ([\\d.e-]+)`, "m").exec(text)?.[1] ?? Number.NaN);

await withServedBrowser(4196, async (context) => {
  const api = context.request;
  const job = await (
    await api.post("/api/jobs", {
      data: {
        vehicle: { name: "Long drive", plate: "", owner: "Bench" },
        unitId: UNIT,
        odometerKm: 1000,
        intake: { complaint: "It slips.", symptoms: [], doneAlready: "", recentEvents: "" },
      },
    })
  ).json();
  const start = await api.post(`/api/jobs/${job.id}/recording`, {
    data: { host: "127.0.0.1", port: device.port, channels: names, role: "before", definition },
  });
  if (!start.ok()) throw new Error(await start.text());
  const page = await context.newPage();
  await page.goto(`/jobs/${job.id}/scan`);
  await page.getByRole("button", { name: "Felt it now" }).waitFor();
  const frames = await page.evaluate(
    (ms) =>
      new Promise<number>((resolve) => {
        let n = 0;
        const end = performance.now() + ms;
        const next = () => {
          n++;
          if (performance.now() < end) requestAnimationFrame(next);
          else resolve(n);
        };
        requestAnimationFrame(next);
      }),
    FRAMES_OVER_MS,
  );
  const lags: number[] = [];
  for (;;) {
    await new Promise((r) => setTimeout(r, 5000));
    const metrics = await (await api.get("/api/metrics", { headers: { authorization: `Bearer ${TOKEN}` } })).text();
    const lag = lagMs(metrics, "p99");
    if (Number.isNaN(lag)) throw new Error("the metrics do not tell how long the event loop was held up");
    lags.push(lag);
    const { recording } = await (await api.get(`/api/jobs/${job.id}/recording`)).json();
    if (recording.state !== "open") throw new Error(`it ended by itself: ${recording.live.gone}`);
    if (recording.live.timeS > HOURS * 3600) break;
  }
  const { recording } = await (
    await api.post(`/api/jobs/${job.id}/recording/end`, { data: { wanted: "keep" }, timeout: 600_000 })
  ).json();
  const text = await (await api.get(`/api/jobs/${job.id}/logs/${recording.logId}/raw`)).text();
  const [head = "", ...rows] = text.trimEnd().split("\n");
  const columns = head.split(",");
  let lost = 0;
  let readings = 0;
  for (const name of names) {
    const at = columns.indexOf(name);
    const c = definition.channels.find((x) => x.channel === name);
    if (!c) continue;
    const kept = rows.map((r) => r.split(",")[at]).filter((v) => v !== undefined && v !== "");
    const told = device.told.get(didOf(c)) ?? 0;
    readings += kept.length;
    lost += told - kept.length;
  }
  const figures = {
    channels: names.length,
    simulatedS: Math.round(recording.seconds),
    rows: rows.length,
    readings,
    lost,
    missed: recording.live.missed,
    megabytes: Math.round(text.length / 1e5) / 10,
    eventLoopP99Ms: { worst: Math.max(...lags), median: lags.sort((a, b) => a - b)[Math.floor(lags.length / 2)] },
    framesASecond: Math.round((frames / FRAMES_OVER_MS) * 1000),
  };
  console.log(JSON.stringify(figures, null, 1));
});
await device.close();
