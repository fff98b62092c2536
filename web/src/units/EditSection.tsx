import clsx from "clsx";
import { Plus, Trash2 } from "lucide-react";
import { Button } from "../shared/controls.tsx";
import { Shape } from "../suspects/ApplicationChart.tsx";
import { EditField } from "./EditField.tsx";
import { chartFromApplication, type Draft, toggleApplied, valueAt, withValue } from "./edit-model.ts";
import type { RowsSpec, SectionSpec } from "./sections.ts";

interface Props {
  readonly draft: Draft;
  readonly set: (draft: Draft) => void;
  readonly problems: ReadonlyMap<string, string>;
}

/** One section of the form: single fields, lists of rows, and the chart that belongs to it. */
export function EditSection({ section, ...props }: Props & { section: SectionSpec }) {
  const { draft, set, problems } = props;
  const onChange = (path: string, value: unknown) => set(withValue(draft, path, value));
  return (
    <div className="flex flex-col gap-6">
      {section.fields && (
        <div className="grid gap-3 sm:grid-cols-2">
          {section.fields.map((f) => (
            <EditField key={f.path} spec={f} base="" draft={draft} onChange={onChange} problems={problems} />
          ))}
        </div>
      )}
      {section.rows?.map((r) => (
        <Rows key={r.path} spec={r} {...props} />
      ))}
      {section.grid === "application" && <ApplicationGrid {...props} />}
      {section.grid === "solenoidChart" && <SolenoidGrid {...props} />}
    </div>
  );
}

function Rows({ spec, draft, set, problems }: Props & { spec: RowsSpec }) {
  const rows = (valueAt(draft, spec.path) as unknown[] | undefined) ?? [];
  const put = (list: unknown[]) => set(withValue(draft, spec.path, list));
  return (
    <section aria-label={spec.title}>
      <div className="flex items-end justify-between gap-3">
        <div>
          <h2 className="text-xl">{spec.title}</h2>
          {spec.hint && <p className="text-quiet">{spec.hint}</p>}
        </div>
        <Button onClick={() => put([...rows, structuredClone(spec.blank)])}>
          <Plus aria-hidden="true" className="size-5" />
          Add
        </Button>
      </div>
      {problems.get(spec.path) && <p className="font-semibold text-stop">{problems.get(spec.path)}</p>}
      <ul className="mt-2 flex flex-col gap-2">
        {rows.map((_, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a row of the file has no identity but its place
          <li key={i} className="flex items-start gap-2 border border-rule bg-panel p-3">
            <div
              className={clsx(
                "grid min-w-0 flex-1 grid-cols-2 gap-2",
                spec.columns.length === 5 ? "sm:grid-cols-5" : "sm:grid-cols-4",
              )}
            >
              {spec.columns.map((c) => (
                <EditField
                  key={c.path}
                  spec={c}
                  base={`${spec.path}.${i}`}
                  draft={draft}
                  onChange={(path, value) => set(withValue(draft, path, value))}
                  problems={problems}
                />
              ))}
              {problems.get(`${spec.path}.${i}`) && (
                <p className="col-span-full font-semibold text-stop">{problems.get(`${spec.path}.${i}`)}</p>
              )}
            </div>
            <Button
              tone="quiet"
              aria-label={`Remove row ${i + 1} of ${spec.title.toLowerCase()}`}
              onClick={() => put(rows.filter((_row, k) => k !== i))}
            >
              <Trash2 aria-hidden="true" className="size-5" />
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

const gearsOf = (draft: Draft) =>
  ((draft.gears as { name?: string }[] | undefined) ?? []).flatMap((g) => (g.name ? [g.name] : []));

function ApplicationGrid({ draft, set, problems }: Props) {
  const elements = ((draft.elements as { id: string; name: string; kind: never }[] | undefined) ?? []).filter(
    (e) => e.id,
  );
  return (
    <section aria-label="Application chart">
      <h2 className="text-xl">Application chart</h2>
      <p className="text-quiet">What is applied in each gear.</p>
      <div className="overflow-x-auto">
        <table className="mt-1 text-center">
          <thead>
            <tr className="border-b border-ink">
              <th className="pr-3 text-left">Gear</th>
              {elements.map((e) => (
                <th key={e.id} title={e.name} className="px-1">
                  {e.id}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {gearsOf(draft).map((gear) => (
              <tr key={gear} className="border-b border-rule">
                <th className="figures pr-3 text-left text-lg">{gear}</th>
                {elements.map((e) => {
                  const on = ((valueAt(draft, `application.${gear}`) as { element: string }[] | undefined) ?? []).some(
                    (a) => a.element === e.id,
                  );
                  return (
                    <td key={e.id}>
                      <button
                        type="button"
                        aria-pressed={on}
                        aria-label={`${e.id} in gear ${gear}`}
                        onClick={() => set(toggleApplied(draft, gear, e))}
                        className={clsx(
                          "size-11 border border-rule",
                          on ? "bg-panel text-ink" : "text-transparent hover:border-ink",
                        )}
                      >
                        <Shape kind={e.kind} />
                      </button>
                    </td>
                  );
                })}
                <td className="pl-3 text-left text-sm font-semibold text-stop">
                  {problems.get(`application.${gear}`)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function SolenoidGrid({ draft, set, problems }: Props) {
  const solenoids = ((draft.solenoids as { id: string; name: string }[] | undefined) ?? []).filter((s) => s.id);
  return (
    <section aria-label="Solenoid chart">
      <div className="flex items-end justify-between gap-3">
        <div>
          <h2 className="text-xl">Solenoid chart</h2>
          <p className="text-quiet">Powered, not powered or regulated in each gear.</p>
        </div>
        <Button onClick={() => set(chartFromApplication(draft))}>Fill in from the application chart</Button>
      </div>
      <div className="overflow-x-auto">
        <table className="mt-1 text-center">
          <thead>
            <tr className="border-b border-ink">
              <th className="pr-3 text-left">Gear</th>
              {solenoids.map((s) => (
                <th key={s.id} title={s.name} className="px-1 text-sm">
                  {s.id.replace(/^sol_/, "")}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {gearsOf(draft).map((gear) => (
              <tr key={gear} className="border-b border-rule">
                <th className="figures pr-3 text-left text-lg">{gear}</th>
                {solenoids.map((s) => (
                  <td key={s.id} className="px-0.5">
                    <select
                      aria-label={`${s.name} in gear ${gear}`}
                      className="min-h-11 rounded-sm border border-field bg-panel"
                      value={String(valueAt(draft, `solenoidChart.${gear}.${s.id}`) ?? "")}
                      onChange={(e) => set(withValue(draft, `solenoidChart.${gear}.${s.id}`, e.target.value))}
                    >
                      <option value="">–</option>
                      <option value="on">on</option>
                      <option value="off">off</option>
                      <option value="modulated">~</option>
                    </select>
                  </td>
                ))}
                <td className="pl-3 text-left text-sm font-semibold text-stop">
                  {problems.get(`solenoidChart.${gear}`)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
