import { API } from "@gearsense/contract";
import { addDays, parseISO } from "date-fns";
import ical, { ICalCalendarMethod } from "ical-generator";
import type { Mount } from "../http/mount.ts";

/** Dates out as an iCalendar file (RFC 5545): whole days, with a reminder the day before. */
export function mountCalendar(mount: Mount, now: () => Date): void {
  mount(API.calendar, async ({ body, res }) => {
    const calendar = ical({ name: body.title, prodId: { company: "Gearsense", product: "follow-ups" } });
    calendar.method(ICalCalendarMethod.PUBLISH);
    for (const e of body.events) {
      const day = parseISO(e.dueOn);
      const event = calendar.createEvent({
        start: day,
        end: addDays(day, 1),
        allDay: true,
        stamp: now(),
        summary: `${e.what}: ${body.title}`,
        description: e.note,
      });
      event.createAlarm({ type: "display" as never, triggerBefore: 24 * 3600, description: e.what });
    }
    res.attachment("follow-ups.ics");
    res.setHeader("content-type", "text/calendar; charset=utf-8");
    res.end(calendar.toString());
  });
}
