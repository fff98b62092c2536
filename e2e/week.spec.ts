// The week: a late part moves two promises, a job is dragged to a lift, rust flips the way, extras join the plan, papers go out.
import type { WeekView } from "@gearsense/contract";
import { type BrowserContext, expect, test } from "@playwright/test";
import { decided } from "./plan-support.ts";
import { demoJob, entry, serious, signedIn } from "./support.ts";

// they change the one setup of the shop
test.describe.configure({ mode: "serial" });

const week = async (context: BrowserContext) => (await (await context.request.get("/api/week")).json()) as WeekView;
const jobIn = (w: WeekView, id: string) => w.jobs.find((j) => j.jobId === id);

test("a part that comes late moves two promises", async ({ page, context }) => {
  // two on the same lift hold each other up: the second waits for what the first keeps apart
  const a = await decided(context, "converter");
  const b = await decided(context, "converter");
  const before = await week(context);
  const lift = before.setup.lifts[0]?.id as string;
  const pins = [a, b].map((j) => ({ jobId: j.id, fromAt: before.at, lift }));
  const saved = await context.request.post("/api/week", {
    data: { setup: { ...before.setup, pins: [...before.setup.pins, ...pins] }, baseSeq: before.seq },
  });
  expect(saved.status(), await saved.text()).toBe(200);
  const planned = (await saved.json()) as WeekView;
  for (const j of [a, b]) await entry(context, j, "promise", { at: jobIn(planned, j.id)?.sureAt, odds: 0.9, note: "" });
  await page.goto("/week");
  const card = (id: string) => page.getByRole("listitem", { name: `Job ${id}` });
  const odds = async (id: string) => jobIn(await week(context), id)?.odds as number;
  expect(await odds(a.id)).toBeGreaterThan(0.6);
  expect(await odds(b.id)).toBeGreaterThan(0.6);
  await expect(card(a.number)).toContainText(/Promised .* (holds|tight)/);
  expect(await serious(page)).toEqual([]);

  // the first is taken apart, and its converter does not come for four weeks
  const { steps } = await (await context.request.get(`/api/jobs/${a.id}/plan`)).json();
  const stop = steps.findIndex((s: { key: string }) => s.key.endsWith("/unit-down"));
  for (const s of steps.slice(0, stop + 1)) {
    const typed: Record<string, string> = { "level-window": "40", "safe-drain": "45", "pan-drain": "4.0" };
    const values = (s.record ?? []).map(
      (r: { id: string; name: string; quantity: string; options?: string[]; limit?: string }) => ({
        id: r.id,
        name: r.name,
        value: r.quantity === "choice" ? (r.options?.[0] ?? "") : (typed[r.limit ?? ""] ?? "1"),
      }),
    );
    await entry(context, a, "step", {
      step: s.key,
      title: s.title,
      minutes: 5,
      values,
      trouble: [],
      note: "",
      overridden: "",
    });
  }
  const late = new Date(Date.now() + 28 * 86_400_000).toISOString().slice(0, 10);
  await entry(context, a, "supply", {
    parts: [{ name: "Converter", quantity: 1, leadDays: 2, orderedOn: null, dueOn: late, cameOn: null }],
  });
  await page.reload();
  await expect(card(a.number)).toContainText(/Promised .*: 0 %, will be late/);
  await expect(card(a.number)).toContainText(/Parts are there on/);
  await expect(card(b.number)).toContainText(/Promised .*: 0 %, will be late/);
});

test("a job is dragged to a lift and a day, and let go again; the calendar goes out", async ({ page, context }) => {
  await signedIn(context);
  const job = await demoJob(context, "0427");
  await page.goto("/week");
  const handle = page.getByRole("button", { name: "Drag job 0427 to a lift and a day" });
  await handle.scrollIntoViewIfNeeded();
  const from = await handle.boundingBox();
  const cell = page.locator("[data-cell^='lift-1|']").last();
  const to = await cell.boundingBox();
  if (!from || !to) throw new Error("nothing to drag");
  await page.mouse.move(from.x + 10, from.y + 10);
  await page.mouse.down();
  await page.mouse.move(to.x + 30, to.y + 20, { steps: 12 });
  await page.mouse.up();
  const card = page.getByRole("listitem", { name: "Job 0427" });
  await expect(card).toContainText(/pinned .*, Lift 1/);
  expect((await week(context)).setup.pins.find((p) => p.jobId === job.id)).toMatchObject({ lift: "lift-1" });
  await card.getByRole("button", { name: "Unpin" }).click();
  await expect(card.getByText(/pinned/)).toBeHidden();
  const calendar = await context.request.get("/api/week.ics");
  expect(await calendar.text()).toContain("BEGIN:VCALENDAR");
});

test("what is typed of lifts and people outlives somebody else’s change", async ({ page, context }) => {
  await signedIn(context);
  await page.goto("/week");
  await page.getByText(/^Lifts, people, hours/).click();
  await page.getByLabel("Lift 1", { exact: true }).fill("Lift by the door");
  const { setup, seq } = await week(context);
  const day = { day: "2027-05-01", name: "May Day" };
  const other = await context.request.post("/api/week", {
    data: { setup: { ...setup, holidays: [...setup.holidays, day] }, baseSeq: seq },
  });
  expect(other.status(), await other.text()).toBe(200);
  await page.getByRole("button", { name: "Store and plan again" }).click();
  await expect(page.getByText("Somebody else has changed this meanwhile")).toBeVisible();
  await expect(page.getByLabel("Lift 1", { exact: true })).toHaveValue("Lift by the door");
  expect((await week(context)).setup.lifts[0]?.name).toBe(setup.lifts[0]?.name);
  await page.getByRole("button", { name: "Store and plan again" }).click();
  await expect(page.getByText("Somebody else has changed this meanwhile")).toBeHidden();
  expect((await week(context)).setup.lifts[0]?.name).toBe("Lift by the door");
  const now = await week(context);
  await context.request.post("/api/week", { data: { setup: { ...now.setup, lifts: setup.lifts }, baseSeq: now.seq } });
});

test("rust flips the way on a transverse unit; an extra joins the plan; the papers go out", async ({
  page,
  context,
}) => {
  const job = await decided(context, "converter", "ness-x6");
  await page.goto(`/jobs/${job.id}/work`);
  const compared = page.getByRole("list", { name: "Ways compared" }).getByRole("listitem").first();
  await expect(compared).toContainText("Unit down past a lowered frame");
  await page.getByRole("radio", { name: "rotten" }).click();
  await expect(page.getByRole("list", { name: "Ways compared" }).getByRole("listitem").first()).toContainText(
    "Engine, unit and frame together",
  );
  await expect(page.getByText(/With no rust: Unit down past a lowered frame/)).toBeVisible();
  await page.getByRole("button", { name: "Take this way" }).first().click();
  await expect(page.getByRole("combobox", { name: "Way" })).toHaveValue("unit-out-transverse-frame");
  await page.getByText(/^While it is open/).click();
  await page.getByRole("checkbox", { name: "Take: Crankshaft rear seal renewed" }).click();
  await expect(page.getByRole("checkbox", { name: "Take: Crankshaft rear seal renewed" })).toBeChecked();
  await page.getByText(/^Plan as bars/).click();
  await expect(page.getByText("Crankshaft rear seal renewed").last()).toBeVisible();
  expect(await serious(page)).toEqual([]);
  const csv = await (await context.request.get(`/api/jobs/${job.id}/parts.csv`)).text();
  expect(csv).toContain("Crankshaft rear seal,1,piece");
  const pdf = await context.request.get(`/api/jobs/${job.id}/card.pdf?system=metric`);
  expect((await pdf.body()).subarray(0, 5).toString()).toBe("%PDF-");
});
