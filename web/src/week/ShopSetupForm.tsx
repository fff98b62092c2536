import type { WeekView } from "@gearsense/contract";
import { LICENCE } from "@gearsense/core/schedule";
import { Plus, Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import { newKey } from "../api/client.ts";
import { Button, Notice, TextField } from "../shared/controls.tsx";

type Setup = WeekView["setup"];
type Person = Setup["people"][number];
const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

const clockText = (min: number) =>
  `${String(Math.floor(min / 60)).padStart(2, "0")}:${String(min % 60).padStart(2, "0")}`;
const minutesOf = (text: string) => Number(text.slice(0, 2)) * 60 + Number(text.slice(3, 5));

/** All but the pins, to be compared. */
const bare = ({ pins: _pins, ...rest }: Setup): string => JSON.stringify(rest);

/** Lifts, people with their hours and days off, holidays: what the week is made from. */
export function ShopSetupForm({
  week,
  mayEdit,
  pending,
  onSave,
}: {
  week: WeekView;
  mayEdit: boolean;
  pending: boolean;
  onSave: (s: Setup) => void;
}) {
  // what is typed stands until it is stored or dropped, whatever comes in; pins are moved elsewhere
  const [typed, setTyped] = useState<{ readonly setup: Setup; readonly from: Setup } | undefined>();
  const setup = typed?.setup ?? week.setup;
  const put = (patch: Partial<Setup>) => setTyped({ setup: { ...setup, ...patch }, from: typed?.from ?? week.setup });
  const changed = typed !== undefined && bare(typed.from) !== bare(week.setup);
  const stored = typed !== undefined && bare(typed.setup) === bare(week.setup);
  useEffect(() => {
    if (stored) setTyped(undefined);
  }, [stored]);
  const person = (i: number, patch: Partial<Person>) =>
    put({ people: setup.people.map((p, k) => (k === i ? { ...p, ...patch } : p)) });
  const wrong =
    setup.lifts.some((l) => l.name.trim() === "") || setup.people.some((p) => p.name.trim() === "")
      ? "Every lift and every person has a name"
      : setup.people.some((p) => p.week.some((h) => h !== null && h[1] <= h[0]))
        ? "A day ends after it begins"
        : setup.people.some((p) => p.away.some((a) => a.from === "" || a.to === "" || a.to < a.from))
          ? "The last day off is not before the first"
          : setup.holidays.some((h) => h.day === "")
            ? "A holiday has a day"
            : undefined;
  return (
    <details className="mt-4 border border-rule bg-panel p-3">
      <summary className="label flex min-h-11 cursor-pointer items-center text-lg">
        Lifts, people, hours and holidays
      </summary>
      <fieldset disabled={!mayEdit} className="flex flex-col gap-4">
        <div className="flex flex-wrap items-end gap-2">
          {setup.lifts.map((l, i) => (
            <div key={l.id} className="flex items-end gap-1">
              <TextField
                className="w-36"
                label={`Lift ${i + 1}`}
                value={l.name}
                onChange={(e) =>
                  put({ lifts: setup.lifts.map((x, k) => (k === i ? { ...x, name: e.target.value } : x)) })
                }
              />
              <Button
                tone="quiet"
                aria-label={`Remove ${l.name}`}
                onClick={() => put({ lifts: setup.lifts.filter((_, k) => k !== i) })}
              >
                <Trash2 aria-hidden="true" className="size-5" />
              </Button>
            </div>
          ))}
          <Button
            onClick={() => put({ lifts: [...setup.lifts, { id: newKey(), name: `Lift ${setup.lifts.length + 1}` }] })}
          >
            <Plus aria-hidden="true" className="size-5" />
            Add a lift
          </Button>
          <label className="flex min-h-11 items-center gap-2">
            <input
              type="checkbox"
              className="size-6"
              checked={setup.crane}
              onChange={(e) => put({ crane: e.target.checked })}
            />
            Engine bar or crane in the house
          </label>
        </div>
        {setup.people.map((p, i) => (
          <fieldset key={p.id} className="border-t border-rule pt-2">
            <legend className="sr-only">{p.name}</legend>
            <div className="flex flex-wrap items-end gap-3">
              <TextField
                className="w-48"
                label={`Person ${i + 1}`}
                value={p.name}
                onChange={(e) => person(i, { name: e.target.value })}
              />
              <label className="flex min-h-11 items-center gap-2">
                <input
                  type="checkbox"
                  className="size-6"
                  checked={p.skills.includes(LICENCE)}
                  onChange={(e) =>
                    person(i, {
                      skills: e.target.checked ? [...p.skills, LICENCE] : p.skills.filter((s) => s !== LICENCE),
                    })
                  }
                />
                Licensed: refrigerant and high voltage
              </label>
              <Button
                tone="quiet"
                aria-label={`Remove ${p.name}`}
                onClick={() => put({ people: setup.people.filter((_, k) => k !== i) })}
              >
                <Trash2 aria-hidden="true" className="size-5" />
              </Button>
            </div>
            <div className="mt-2 flex flex-wrap gap-3">
              {p.week.map((h, d) => (
                <div key={DAYS[d]} className="flex flex-col">
                  <label className="label flex min-h-11 items-center gap-2">
                    <input
                      type="checkbox"
                      className="size-5"
                      checked={h !== null}
                      onChange={(e) => person(i, { week: p.week.with(d, e.target.checked ? [480, 990] : null) })}
                    />
                    {DAYS[d]}
                  </label>
                  {h !== null && (
                    <>
                      <input
                        aria-label={`${p.name}, ${DAYS[d]}, from`}
                        type="time"
                        className="min-h-11 border border-field bg-panel px-1"
                        value={clockText(h[0])}
                        onChange={(e) =>
                          e.target.value && person(i, { week: p.week.with(d, [minutesOf(e.target.value), h[1]]) })
                        }
                      />
                      <input
                        aria-label={`${p.name}, ${DAYS[d]}, to`}
                        type="time"
                        className="min-h-11 border border-field bg-panel px-1"
                        value={clockText(h[1])}
                        onChange={(e) =>
                          e.target.value && person(i, { week: p.week.with(d, [h[0], minutesOf(e.target.value)]) })
                        }
                      />
                    </>
                  )}
                </div>
              ))}
            </div>
            <div className="mt-2 flex flex-wrap items-end gap-2">
              {p.away.map((a, k) => {
                const away = (patch: Partial<typeof a>) =>
                  person(i, { away: p.away.map((x, m) => (m === k ? { ...x, ...patch } : x)) });
                return (
                  // biome-ignore lint/suspicious/noArrayIndexKey: days off have no identity but their place
                  <div key={k} className="flex items-end gap-1">
                    <TextField
                      label="Away from"
                      type="date"
                      value={a.from}
                      onChange={(e) => away({ from: e.target.value })}
                    />
                    <TextField label="to" type="date" value={a.to} onChange={(e) => away({ to: e.target.value })} />
                    <Button
                      tone="quiet"
                      aria-label={`${p.name} is not away`}
                      onClick={() => person(i, { away: p.away.filter((_, m) => m !== k) })}
                    >
                      <Trash2 aria-hidden="true" className="size-5" />
                    </Button>
                  </div>
                );
              })}
              <Button
                onClick={() =>
                  person(i, { away: [...p.away, { from: week.at.slice(0, 10), to: week.at.slice(0, 10), why: "" }] })
                }
              >
                {p.name || "This person"} is away
              </Button>
            </div>
          </fieldset>
        ))}
        <div className="flex flex-wrap items-end gap-2">
          <Button
            onClick={() =>
              put({
                people: [
                  ...setup.people,
                  {
                    id: newKey(),
                    name: "",
                    skills: [],
                    week: [...DAYS.slice(0, 5).map(() => [480, 990] as [number, number]), null, null],
                    away: [],
                  },
                ],
              })
            }
          >
            <Plus aria-hidden="true" className="size-5" />
            Add a person
          </Button>
        </div>
        <div className="flex flex-wrap items-end gap-2 border-t border-rule pt-2">
          {setup.holidays.map((h, i) => {
            const holiday = (patch: Partial<typeof h>) =>
              put({ holidays: setup.holidays.map((x, k) => (k === i ? { ...x, ...patch } : x)) });
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: a holiday has no identity but its place
              <div key={i} className="flex items-end gap-1">
                <TextField
                  label="Holiday"
                  type="date"
                  value={h.day}
                  onChange={(e) => holiday({ day: e.target.value })}
                />
                <TextField label="Name" value={h.name} onChange={(e) => holiday({ name: e.target.value })} />
                <Button
                  tone="quiet"
                  aria-label={`Remove ${h.name || "the holiday"}`}
                  onClick={() => put({ holidays: setup.holidays.filter((_, k) => k !== i) })}
                >
                  <Trash2 aria-hidden="true" className="size-5" />
                </Button>
              </div>
            );
          })}
          <Button onClick={() => put({ holidays: [...setup.holidays, { day: week.at.slice(0, 10), name: "" }] })}>
            <Plus aria-hidden="true" className="size-5" />
            Add a holiday
          </Button>
        </div>
        {changed && !stored && (
          <Notice
            tone="caution"
            title="Somebody else has changed this meanwhile"
            live
            actions={<Button onClick={() => setTyped(undefined)}>Take theirs</Button>}
          >
            What you typed is kept. Store it to put yours in its place.
          </Notice>
        )}
        {mayEdit && (
          <div className="flex items-center gap-3">
            <Button
              disabled={pending || wrong !== undefined}
              onClick={() => onSave({ ...setup, pins: week.setup.pins })}
              className="border-slate"
            >
              Store and plan again
            </Button>
            {wrong && <p className="text-stop">{wrong}.</p>}
          </div>
        )}
      </fieldset>
    </details>
  );
}
