import { format } from "date-fns";
import { useState } from "react";
import { ApiFailure } from "../api/client.ts";
import { useSession, useUnits } from "../api/queries.ts";
import { usePrices, useSavePrices } from "../api/shop-queries.ts";
import { Button, Notice, SelectField, TextField } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { useMoney } from "../shared/useMoney.ts";
import { ShopTop } from "../shop/ShopTop.tsx";
import { changed, differing, keyOf, linesOf, type Row } from "./price-rows.ts";

/** The shop's own prices and hours over the library's, of one unit or of every unit. What is typed outlives another owner's change. */
export default function PricesPage() {
  const { data: session } = useSession();
  const role = session?.account.role;
  const { data, error } = usePrices(role !== undefined && role !== "viewer");
  const { data: units } = useUnits();
  const save = useSavePrices();
  const money = useMoney();
  const [typed, setTyped] = useState<{ rows: Row[]; baseSeq: number }>();
  const [unitId, setUnitId] = useState("");
  const [find, setFind] = useState("");
  const owner = role === "owner";
  const rows = typed?.rows ?? data?.prices ?? [];
  const at = unitId === "" ? null : unitId;
  const kind = units?.find((u) => u.id === unitId)?.kind;
  const stale = save.error instanceof ApiFailure && save.error.code === "stale";
  const apart = typed && data && data.seq !== typed.baseSeq ? differing(typed.rows, data.prices) : undefined;
  const lines = data ? linesOf(data.library, kind) : [];
  const words = find.toLowerCase().split(/\s+/).filter(Boolean);
  const title = (repair: string) => lines.find((l) => l.repair === repair && l.source === null)?.title ?? "";
  const shown = lines.filter((l) => words.every((w) => `${title(l.repair)} ${l.title}`.toLowerCase().includes(w)));
  const put = (line: { repair: string; source: string | null }, patch: Partial<Row>) =>
    data &&
    setTyped({
      baseSeq: typed?.baseSeq ?? data.seq,
      rows: changed(rows, { unitId: at, repair: line.repair, source: line.source }, patch),
    });
  const store = () =>
    data &&
    typed &&
    save.mutate(
      // who has seen what another owner set in the meantime saves over it
      { prices: typed.rows, baseSeq: stale ? data.seq : typed.baseSeq },
      { onSuccess: () => setTyped(undefined) },
    );
  return (
    <>
      <ShopTop />
      <main className="mx-auto flex max-w-5xl flex-col gap-4 p-4">
        <div className="flex flex-wrap items-end justify-between gap-3">
          <div>
            <h1 className="text-3xl">Own prices and hours</h1>
            <p className="text-quiet">
              What is empty is as the library has it. They count in suspects, decision, estimate and report, without
              tax.
              {data?.at && ` Last set by ${data.author}, ${format(new Date(data.at), "d MMM yyyy")}.`}
            </p>
          </div>
          <div className="flex flex-wrap items-end gap-3">
            <SelectField label="For" value={unitId} onChange={(e) => setUnitId(e.target.value)}>
              <option value="">every unit</option>
              {units?.map((u) => (
                <option key={u.id} value={u.id}>
                  {u.name}
                </option>
              ))}
            </SelectField>
            <TextField label="Find" value={find} onChange={(e) => setFind(e.target.value)} />
          </div>
        </div>
        {role === "viewer" && <p>Prices are for those who work here.</p>}
        {(error ?? save.error) && (
          <Notice tone="stop" live>
            {(error ?? save.error)?.message}
          </Notice>
        )}
        {save.isSuccess && !typed && (
          <Notice tone="clear" live>
            Saved. What is priced from now on uses it; what was decided keeps its price.
          </Notice>
        )}
        {data && (
          <form
            noValidate
            aria-label="Own prices"
            className="flex flex-col gap-3"
            onSubmit={(e) => {
              e.preventDefault();
              store();
            }}
          >
            <table className="w-full border-collapse bg-panel">
              <thead>
                <tr className="border-b-2 border-slate text-left">
                  <th className="label p-2">Repair</th>
                  <th className="label p-2 text-right">Hours, library</th>
                  <th className="label p-2">Own hours</th>
                  <th className="label p-2 text-right">Parts, library</th>
                  <th className="label p-2">Own price</th>
                </tr>
              </thead>
              <tbody>
                {shown.map((line) => {
                  const key = keyOf({ ...line, unitId: at });
                  const row = rows.find((r) => keyOf(r) === key);
                  const every =
                    at === null ? undefined : rows.find((r) => keyOf(r) === keyOf({ ...line, unitId: null }));
                  const name = line.source ? `${title(line.repair)}, ${line.title}` : line.title;
                  const field = (of: "hours" | "partsCost", label: string) =>
                    line.sets.includes(of) && (
                      <NumberField
                        label={label}
                        hideLabel
                        decimals={2}
                        disabled={!owner}
                        value={row?.[of] ?? null}
                        onChange={(v) => put(line, { [of]: v })}
                      />
                    );
                  return (
                    <tr key={key} className="border-b border-rule">
                      <th scope="row" className={line.source ? "p-2 pl-8 text-left font-normal" : "p-2 text-left"}>
                        {line.title}
                        {apart?.has(key) && (
                          <span className="block text-sm text-stop">differs from what stands now</span>
                        )}
                      </th>
                      <td className="figures p-2 text-right">
                        {every?.hours != null
                          ? `${every.hours} (every unit)`
                          : line.sets.includes("hours") && line.hours}
                      </td>
                      <td className="w-36 p-2">{field("hours", `Own hours: ${name}`)}</td>
                      <td className="figures p-2 text-right">
                        {every?.partsCost != null
                          ? `${money(every.partsCost)} (every unit)`
                          : line.sets.includes("partsCost") && line.partsCost !== null && money(line.partsCost)}
                      </td>
                      <td className="w-36 p-2">{field("partsCost", `Own price: ${name}`)}</td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
            {owner && (
              <div className="sticky bottom-0 flex justify-end gap-3 border-t border-rule bg-ground py-3">
                {typed && (
                  <Button
                    tone="quiet"
                    onClick={() => {
                      save.reset();
                      setTyped(undefined);
                    }}
                  >
                    Undo
                  </Button>
                )}
                <Button type="submit" disabled={!typed || save.isPending}>
                  Save
                </Button>
              </div>
            )}
            {!owner && <p className="text-quiet">Only an owner sets them.</p>}
          </form>
        )}
      </main>
    </>
  );
}
