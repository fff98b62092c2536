import { format, startOfMonth, subMonths } from "date-fns";
import { Download } from "lucide-react";
import { lazy, Suspense, useState } from "react";
import { urlOf } from "../api/client.ts";
import { useSession } from "../api/queries.ts";
import { useFigures, useOwnJobs } from "../api/shop-queries.ts";
import { Notice, TextField } from "../shared/controls.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { ShopTop } from "../shop/ShopTop.tsx";
import { OwnOdds } from "./OwnOdds.tsx";

const NamedBars = lazy(() => import("../shared/NamedBars.tsx"));
const day = (d: Date) => format(d, "yyyy-MM-dd");
const share = (n: number, of: number) => (of === 0 ? "–" : `${n} of ${of} (${Math.round((100 * n) / of)} %)`);
const hours = (h: number) => h.toFixed(1);
const tenth = (h: number) => Math.round(h * 10) / 10;

/** What the shop's own jobs came to in a period. Only for owners. */
export default function FiguresPage() {
  const { data: session } = useSession();
  const [period, setPeriod] = useState(() => {
    const now = new Date();
    return { from: day(startOfMonth(subMonths(now, 2))), to: day(now) };
  });
  const owner = session?.account.role === "owner";
  const { data, error } = useFigures(period, owner);
  const { data: own } = useOwnJobs(owner);
  const f = data?.figures;
  const timed = f?.repairs.filter((r) => r.timed > 0) ?? [];
  return (
    <>
      <ShopTop />
      <main className="mx-auto flex max-w-5xl flex-col gap-4 p-4">
        <div className="flex flex-wrap items-end justify-between gap-3">
          <h1 className="text-3xl">Figures</h1>
          <div className="flex flex-wrap items-end gap-3">
            <TextField
              label="From"
              type="date"
              className="w-44"
              value={period.from}
              onChange={(e) => setPeriod({ ...period, from: e.target.value })}
            />
            <TextField
              label="To"
              type="date"
              className="w-44"
              value={period.to}
              onChange={(e) => setPeriod({ ...period, to: e.target.value })}
            />
            <a
              href={urlOf("moneyLines", {}, period)}
              download
              className="label inline-flex min-h-11 items-center gap-2 border border-field bg-panel px-4"
            >
              <Download aria-hidden="true" className="size-5" />
              Money lines (CSV)
            </a>
          </div>
        </div>
        {!owner && session && <p>The figures are for owners of the shop.</p>}
        {error && (
          <Notice tone="stop" live>
            {error.message}
          </Notice>
        )}
        {f && (
          <>
            <dl className="grid gap-3 sm:grid-cols-3">
              <Large label="Repairs handed over" value={String(f.jobs)} />
              <Large label="Right the first time" value={share(f.rightFirst, f.jobs)} />
              <Large label="Came back" value={share(f.cameBack, f.jobs)} />
            </dl>
            <p className="text-quiet">
              Cured: proved when it was handed over, and not come back since. Right the first time: cured, and nothing
              tried before it.
            </p>
            {f.jobs === 0 && <p>No repair was handed over in this period.</p>}
            {timed.length > 0 && (
              <section aria-label="Hours" className="border border-rule bg-panel p-4">
                <h2 className="text-xl">Hours, as estimated and as taken</h2>
                <Suspense fallback={null}>
                  <NamedBars
                    unit="hours a job"
                    nameWidth={240}
                    first={{ label: "estimated", colour: "slate" }}
                    second={{ label: "taken", colour: "action" }}
                    bars={timed.map((r) => ({
                      name: r.title,
                      first: tenth(r.estimatedH / r.timed),
                      second: tenth(r.takenH / r.timed),
                    }))}
                  />
                </Suspense>
                <p className="text-quiet">
                  Together {hours(f.estimatedH)} h estimated and {hours(f.takenH)} h taken on {f.timed}{" "}
                  {f.timed === 1 ? "job" : "jobs"} whose hours are known on both sides.
                </p>
              </section>
            )}
            {f.repairs.length > 0 && (
              <section aria-label="By repair" className="overflow-x-auto border border-rule bg-panel p-4">
                <h2 className="text-xl">By repair</h2>
                <Suspense fallback={null}>
                  <NamedBars
                    unit="jobs"
                    nameWidth={240}
                    first={{ label: "cured", colour: "clear" }}
                    second={{ label: "came back", colour: "action" }}
                    bars={f.repairs.map((r) => ({ name: r.title, first: r.cured, second: r.cameBack }))}
                  />
                </Suspense>
                <PlainTable
                  columns={["Repair", "Jobs", "Cured", "Right first", "Came back", "Estimated, h", "Taken, h"]}
                  rows={f.repairs.map((r) => [
                    r.title,
                    String(r.jobs),
                    share(r.cured, r.jobs),
                    share(r.rightFirst, r.jobs),
                    share(r.cameBack, r.jobs),
                    r.timed > 0 ? hours(r.estimatedH) : "–",
                    r.timed > 0 ? hours(r.takenH) : "–",
                  ])}
                />
              </section>
            )}
          </>
        )}
        {own && <OwnOdds own={own} />}
        {data && data.waits.length > 0 && (
          <section aria-label="Waiting" className="overflow-x-auto border border-rule bg-panel p-4">
            <h2 className="text-xl">What open jobs wait for, now</h2>
            <Suspense fallback={null}>
              <NamedBars
                unit="jobs"
                nameWidth={240}
                first={{ label: "wait now", colour: "slate" }}
                bars={data.waits.map((w) => ({ name: w.waitsFor, first: w.jobs }))}
              />
            </Suspense>
            <PlainTable
              columns={["Waits for", "Jobs", "Longest, days"]}
              rows={data.waits.map((w) => [w.waitsFor, String(w.jobs), String(w.oldestDays)])}
            />
          </section>
        )}
      </main>
    </>
  );
}

function Large({ label, value }: { label: string; value: string }) {
  return (
    <div className="border border-rule bg-panel p-3">
      <dt className="label text-quiet">{label}</dt>
      <dd className="figures text-2xl">{value}</dd>
    </div>
  );
}
