import clsx from "clsx";
import { Plus, Trash2 } from "lucide-react";
import type { ReactNode } from "react";
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

/** Gears down, columns across, what is wrong with a gear at its end. */
function GearGrid({
  draft,
  columns,
  problemAt,
  cell,
}: {
  draft: Draft;
  columns: readonly { id: string; name: string; label: string }[];
  problemAt: (gear: string) => string | undefined;
  cell: (gear: string, columnId: string) => ReactNode;
}) {
  return (
    <div className="overflow-x-auto">
      <table className="mt-1 text-center">
        <thead>
          <tr className="border-b border-ink">
            <th className="pr-3 text-left">Gear</th>
            {columns.map((c) => (
              <th key={c.id} title={c.name} className="px-1">
                {c.label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {gearsOf(draft).map((gear) => (
            <tr key={gear} className="border-b border-rule">
              <th className="figures pr-3 text-left text-lg">{gear}</th>
              {columns.map((c) => (
                <td key={c.id} className="px-0.5">
                  {cell(gear, c.id)}
                </td>
              ))}
              <td className="pl-3 text-left text-sm font-semibold text-stop">{problemAt(gear)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface Named {
  readonly id: string;
  readonly name: string;
}

function ApplicationGrid({ draft, set, problems }: Props) {
  const elements = ((draft.elements as (Named & { kind: never })[] | undefined) ?? []).filter((e) => e.id);
  return (
    <section aria-label="Application chart">
      <h2 className="text-xl">Application chart</h2>
      <p className="text-quiet">What is applied in each gear.</p>
      <GearGrid
        draft={draft}
        columns={elements.map((e) => ({ ...e, label: e.id }))}
        problemAt={(gear) => problems.get(`application.${gear}`)}
        cell={(gear, id) => {
          const element = elements.find((e) => e.id === id);
          if (!element) return null;
          const row = (valueAt(draft, `application.${gear}`) as { element: string }[] | undefined) ?? [];
          const on = row.some((a) => a.element === id);
          return (
            <button
              type="button"
              aria-pressed={on}
              aria-label={`${id} in gear ${gear}`}
              onClick={() => set(toggleApplied(draft, gear, element))}
              className={clsx(
                "size-11 border border-rule",
                on ? "bg-panel text-ink" : "text-transparent hover:border-ink",
              )}
            >
              <Shape kind={element.kind} />
            </button>
          );
        }}
      />
    </section>
  );
}

function SolenoidGrid({ draft, set, problems }: Props) {
  const solenoids = ((draft.solenoids as Named[] | undefined) ?? []).filter((s) => s.id);
  return (
    <section aria-label="Solenoid chart">
      <div className="flex items-end justify-between gap-3">
        <div>
          <h2 className="text-xl">Solenoid chart</h2>
          <p className="text-quiet">Powered, not powered or regulated in each gear.</p>
        </div>
        <Button onClick={() => set(chartFromApplication(draft))}>Fill in from the application chart</Button>
      </div>
      <GearGrid
        draft={draft}
        columns={solenoids.map((s) => ({ ...s, label: s.id.replace(/^sol_/, "") }))}
        problemAt={(gear) => problems.get(`solenoidChart.${gear}`)}
        cell={(gear, id) => (
          <select
            aria-label={`${solenoids.find((s) => s.id === id)?.name} in gear ${gear}`}
            className="min-h-11 rounded-sm border border-field bg-panel"
            value={String(valueAt(draft, `solenoidChart.${gear}.${id}`) ?? "")}
            onChange={(e) => set(withValue(draft, `solenoidChart.${gear}.${id}`, e.target.value))}
          >
            <option value="">–</option>
            <option value="on">on</option>
            <option value="off">off</option>
            <option value="modulated">~</option>
          </select>
        )}
      />
    </section>
  );
}
