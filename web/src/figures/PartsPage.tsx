import { LEAST_PART_LETTERS } from "@gearsense/core/figures";
import { format } from "date-fns";
import { useDeferredValue } from "react";
import { Link, useSearchParams } from "react-router";
import { useParts } from "../api/shop-queries.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice, TextField } from "../shared/controls.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { ShopTop } from "../shop/ShopTop.tsx";

/** What became of a part: in which vehicles it was fitted, for what, and whether that lasted. */
export default function PartsPage() {
  const { show } = useSettings();
  const [search, setSearch] = useSearchParams();
  const typed = search.get("find") ?? "";
  const find = useDeferredValue(typed.trim());
  const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = useParts(find);
  const parts = data?.pages.flatMap((p) => p.parts) ?? [];
  const count = (since: string) => parts.filter((p) => p.fitted.since === since).length;
  return (
    <>
      <ShopTop />
      <main className="mx-auto flex max-w-6xl flex-col gap-4 p-4">
        <div className="flex flex-wrap items-end justify-between gap-3">
          <div>
            <h1 className="text-3xl">Parts fitted</h1>
            <p className="text-quiet">In which vehicles, for what, and whether it lasted.</p>
          </div>
          <TextField
            label="Words of the part’s name"
            hint={`At least ${LEAST_PART_LETTERS} letters`}
            className="w-80"
            value={typed}
            onChange={(e) => setSearch(e.target.value === "" ? {} : { find: e.target.value }, { replace: true })}
          />
        </div>
        {error && (
          <Notice tone="stop" live>
            {error.message}
          </Notice>
        )}
        {data && parts.length === 0 && !hasNextPage && (
          <p role="status">No such part was fitted in a job of this shop.</p>
        )}
        {parts.length > 0 && (
          <section aria-label="Parts" className="overflow-x-auto border border-rule bg-panel p-4">
            <p role="status">
              Fitted {parts.length} {parts.length === 1 ? "time" : "times"}
              {hasNextPage ? " so far" : ""}: proved {count("proved")}, came back {count("came back")}, not said yet{" "}
              {count("open")}.
            </p>
            <PlainTable
              columns={["Part", "Pieces", "Fitted", "Job", "Vehicle", "For", "Since"]}
              rows={parts.map(({ jobId, number, vehicle, plate, unitName, odometerKm, fitted }) => [
                fitted.name,
                String(fitted.quantity),
                `${format(new Date(fitted.at), "d MMM yyyy")}, ${fitted.author}, ${show(odometerKm, "distance")}`,
                <Link key={jobId} className="underline" to={`/jobs/${jobId}`}>
                  {number}
                </Link>,
                `${vehicle}${plate ? ` (${plate})` : ""}, ${unitName}`,
                fitted.repair,
                fitted.since === "came back"
                  ? `came back${fitted.lastedKm === null ? "" : ` after ${show(fitted.lastedKm, "distance")}`}`
                  : fitted.since === "proved"
                    ? "proved"
                    : "not said yet",
              ])}
            />
          </section>
        )}
        {hasNextPage && (
          <Button disabled={isFetchingNextPage} onClick={() => void fetchNextPage()}>
            {isFetchingNextPage ? "Looking further …" : "Look further back"}
          </Button>
        )}
      </main>
    </>
  );
}
