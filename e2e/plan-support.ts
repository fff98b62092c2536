import type { JobView, PlanOfJob } from "@gearsense/contract";
import { type BrowserContext, expect, type Page } from "@playwright/test";
import { entry, newJob, signedIn } from "./support.ts";

/** A job of the test’s own with its decision, behind the interface. */
export async function decided(context: BrowserContext, repairId: string, unitId = "brae-p6"): Promise<JobView> {
  await signedIn(context);
  const job = await newJob(context, unitId);
  await entry(context, job, "decision", {
    repairId,
    title: "Unit out, replace the converter",
    reason: "The lining is gone.",
    expectedCost: 1200,
    cures: 0.9,
    modelVersion: 1,
    odds: [],
    levelKnown: true,
  });
  return job;
}

/** Does the plan in its suggested order as far as a step, behind the interface. */
export async function upTo(context: BrowserContext, jobId: string, stop: string): Promise<void> {
  const { steps, order } = (await (await context.request.get(`/api/jobs/${jobId}/plan`)).json()) as PlanOfJob;
  const typed: Record<string, string> = {
    "level-window": "40",
    "safe-drain": "45",
    "pan-drain": "4.0",
    "converter-depth": "19.5",
    "converter-pull-up": "3",
    "no-gap": "0",
  };
  const { entries } = (await (await context.request.get(`/api/jobs/${jobId}`)).json()) as JobView;
  const done = new Set(entries.flatMap((e) => (e.kind === "step" ? [e.body.step] : [])));
  for (let more = true; more; ) {
    const next = order
      .map((o) => steps.find((s) => s.key === o.key))
      .find((s) => s && s.key !== stop && !done.has(s.key) && s.before.every((b) => done.has(b)));
    more = next !== undefined;
    if (!next) break;
    const values = (next.record ?? []).map(({ id, name, quantity, options, limit }) => ({
      id,
      name,
      value:
        quantity === "choice"
          ? (options?.[0] ?? "")
          : (typed[limit ?? ""] ?? (quantity === "temperature" ? "40" : "1")),
    }));
    const body = { step: next.key, title: next.title, minutes: 5, values, trouble: [], note: "", overridden: "" };
    const stored = await context.request.post(`/api/jobs/${jobId}/entries`, {
      data: { kind: "step", body, baseSeq: 0 },
    });
    expect(stored.status(), await stored.text()).toBe(200);
    done.add(next.key);
  }
}

/** The step that is shown large, and the button that ticks it. */
export const card = (page: Page, title: string) => page.getByRole("article", { name: title });
export const done = (page: Page) => page.getByRole("button", { name: "Done", exact: true });

/** What somebody with gloves does: holds ticked, values written down, Done, until the step that is asked for stands there. */
export async function walk(page: Page, until: string): Promise<number> {
  const shown = page.getByRole("article");
  for (let n = 0; n < 60; n++) {
    await expect(shown).toHaveCount(1);
    const title = (await shown.getAttribute("aria-label")) as string;
    if (title === until) return n;
    for (const hold of await shown.locator("fieldset", { hasText: "Hold" }).getByRole("checkbox").all())
      if (!(await hold.isChecked())) await hold.check();
    for (const box of await shown.getByRole("textbox").all()) {
      const name = await box.evaluate((e) => (e as HTMLInputElement).labels?.[0]?.textContent ?? "");
      const unit = /, (°C|l|mm|Ω|N·m)$/.exec(name)?.[1];
      if (unit && (await box.inputValue()) === "") await box.fill(unit === "°C" ? "40" : unit === "l" ? "4" : "1");
    }
    for (const group of await shown.getByRole("radiogroup").all())
      if ((await group.getByRole("radio", { checked: true }).count()) === 0)
        await group.getByRole("radio").first().click();
    await done(page).click();
    await expect(page.getByRole("article", { name: title, exact: true })).toBeHidden();
  }
  throw new Error(`“${until}” never came`);
}
