import { API } from "@gearsense/contract";
import ical, { ICalCalendarMethod } from "ical-generator";
import papaparse from "papaparse";
import type { createAccountStore } from "../accounts/store.ts";
import type { Mount } from "../http/mount.ts";
import type { DrawPdf } from "../reports/pdf-thread.ts";
import type { createPlanningService } from "./service.ts";

/** Plans, the ways to them, and the week of the shop. */
export function mountPlanning(
  mount: Mount,
  planning: ReturnType<typeof createPlanningService>,
  accounts: ReturnType<typeof createAccountStore>,
  drawPdf: DrawPdf,
  now: () => Date,
): void {
  const rate = async (shopId: string) => (await accounts.shop(shopId)).hourlyRate;
  mount(API.plan, async ({ scope, params, who }) => planning(scope).plan(params.jobId, await rate(who.shopId)));
  mount(API.ways, async ({ scope, params, who, signal }) =>
    planning(scope).ways(params.jobId, await rate(who.shopId), signal),
  );
  mount(API.jobCard, async ({ scope, params, query, res, signal }) => {
    const { card, number } = await planning(scope).papers(params.jobId, query.system);
    const pdf = await drawPdf({ report: card, pictures: new Map() }, signal);
    res.attachment(`job-card-${number}.pdf`);
    res.setHeader("content-type", "application/pdf");
    res.end(pdf);
  });
  mount(API.partsList, async ({ scope, params, res }) => {
    const { parts, number } = await planning(scope).papers(params.jobId, "metric");
    const csv = papaparse.unparse(
      parts.map((p) => ({
        kind: p.kind,
        name: p.name,
        quantity: p.quantity,
        unit: p.unit,
        "always new": p.alwaysNew ? "yes" : "no",
        each: p.each ?? "",
        "needed at": p.steps.join("; "),
      })),
      // a cell that begins like a formula is not one
      { escapeFormulae: true, newline: "\r\n" },
    );
    res.attachment(`parts-${number}.csv`);
    res.setHeader("content-type", "text/csv; charset=utf-8");
    res.end(`\ufeff${csv}\r\n`);
  });
  mount(API.week, ({ scope, signal }) => planning(scope).week(signal));
  mount(API.saveSetup, async ({ scope, body, who, signal }) => {
    await planning(scope).save(body.setup, body.baseSeq, who.name);
    return planning(scope).week(signal);
  });
  mount(API.weekCalendar, async ({ scope, res, signal }) => {
    const week = await planning(scope).week(signal);
    const calendar = ical({ name: "Week of the shop", prodId: { company: "Gearsense", product: "week" } });
    calendar.method(ICalCalendarMethod.PUBLISH);
    const name = new Map(week.setup.people.map((p) => [p.id, p.name]));
    const lift = new Map(week.setup.lifts.map((l) => [l.id, l.name]));
    for (const b of week.blocks) {
      const job = week.jobs.find((j) => j.jobId === b.jobId);
      calendar.createEvent({
        // no zone: the shop's own clock
        start: b.startAt,
        end: b.endAt,
        floating: true,
        stamp: now(),
        summary: `Job ${job?.number ?? ""}: ${job?.title ?? ""}`,
        location: b.lift === null ? "" : (lift.get(b.lift) ?? b.lift),
        description: b.people.map((p) => name.get(p) ?? p).join(", "),
      });
    }
    res.attachment("week.ics");
    res.setHeader("content-type", "text/calendar; charset=utf-8");
    res.end(calendar.toString());
  });
}
