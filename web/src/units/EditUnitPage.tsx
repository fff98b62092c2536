import type { Unit } from "@gearsense/core/unit";
import { useQueryClient } from "@tanstack/react-query";
import clsx from "clsx";
import { useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { toast } from "sonner";
import { ApiFailure, call } from "../api/client.ts";
import { useUnits, useUnitVersions } from "../api/queries.ts";
import { Button, Notice, SelectField } from "../shared/controls.tsx";
import { TopBar } from "../shared/TopBar.tsx";
import { useDraft } from "../shared/useDraft.ts";
import { EditSection } from "./EditSection.tsx";
import { type Draft, EMPTY_UNIT, judge, nodeNames, ratiosFromTrain } from "./edit-model.ts";
import { SECTIONS, sectionOf } from "./sections.ts";

/** A unit of the shop's own, edited with the solver looking on. A unit of the library is the start of one like it. */
export default function EditUnitPage() {
  const { unit: id = "" } = useParams();
  const units = useUnits();
  const fresh = id === "new";
  const versions = useUnitVersions(fresh ? undefined : id);
  if (units.error || versions.error) {
    return (
      <main className="p-6">
        <Notice tone="stop" title="This unit cannot be edited" live>
          {(units.error ?? versions.error)?.message}
        </Notice>
      </main>
    );
  }
  if (!units.data || !(fresh || versions.data))
    return (
      <p role="status" className="p-8 text-quiet">
        Loading the unit …
      </p>
    );
  const unit = units.data.find((u) => u.id === id) as Unit | undefined;
  const shipped = versions.data?.[0]?.author === "library";
  const start: Draft =
    fresh || !unit
      ? EMPTY_UNIT
      : shipped
        ? { ...unit, id: `${unit.id}-own`, name: `${unit.name} own`, version: 1 }
        : { ...unit };
  return <Editor key={id} id={id} start={start} baseVersion={unit && !shipped ? unit.version : 0} />;
}

function Editor({ id, start, baseVersion }: { id: string; start: Draft; baseVersion: number }) {
  const kept = useDraft<{ unit: Draft; base: number }>(`unit.${id}`, { unit: start, base: baseVersion });
  const draft = kept.value.unit;
  const [sectionId, setSectionId] = useState(SECTIONS[0]?.id);
  const [failure, setFailure] = useState<string | undefined>();
  const [saving, setSaving] = useState(false);
  const client = useQueryClient();
  const navigate = useNavigate();
  const judged = useMemo(() => judge(draft), [draft]);
  const problems = useMemo(() => new Map(judged.problems.map((p) => [p.path, p.reason])), [judged]);
  const section = SECTIONS.find((s) => s.id === sectionId) ?? SECTIONS[0];
  const gears = (draft.gears as { name: string; ratio?: number }[] | undefined) ?? [];
  const nodes = useMemo(() => nodeNames(draft), [draft]);
  const store = async () => {
    if (!judged.unit) return;
    setSaving(true);
    setFailure(undefined);
    try {
      const saved = await call("saveUnit", { body: { unit: judged.unit as never, baseVersion: kept.value.base } });
      kept.clear();
      await client.invalidateQueries({ queryKey: ["units"] });
      toast(`${saved.name}, version ${saved.version}, stored`);
      await navigate(`/units/${saved.id}`);
    } catch (error) {
      if (!(error instanceof ApiFailure)) throw error;
      setFailure(error.message);
    } finally {
      setSaving(false);
    }
  };
  return (
    <div className="flex h-full min-h-0 flex-col">
      <datalist id="unit-nodes">
        {nodes.map((n) => (
          <option key={n} value={n} />
        ))}
      </datalist>
      <TopBar>
        <Link to={id === "new" ? "/units" : `/units/${id}`} className="label text-lg underline underline-offset-4">
          Back
        </Link>
        <span className="label truncate text-2xl">{String(draft.name || "New unit")}</span>
        <span className="hidden truncate text-quiet xl:inline">
          {kept.value.base === 0 ? "a unit of the shop's own" : `becomes version ${kept.value.base + 1}`}
          {kept.drafted ? " · kept on this device, not stored yet" : ""}
        </span>
      </TopBar>
      {/* on a phone one below the other: sections to choose, the fields, the check */}
      <div className="flex min-h-0 flex-1 flex-col overflow-y-auto md:flex-row md:overflow-visible">
        <div className="px-5 pt-4 md:hidden">
          <SelectField label="Section" value={section?.id} onChange={(e) => setSectionId(e.target.value)}>
            {SECTIONS.map((s) => (
              <option key={s.id} value={s.id}>
                {s.title}
              </option>
            ))}
          </SelectField>
        </div>
        <nav aria-label="Sections" className="hidden w-44 shrink-0 overflow-y-auto border-r border-rule py-2 md:block">
          {SECTIONS.map((s) => (
            <button
              key={s.id}
              type="button"
              aria-current={s.id === section?.id ? "true" : undefined}
              onClick={() => setSectionId(s.id)}
              className={clsx(
                "label flex min-h-11 w-full items-center px-4 text-left text-[17px]",
                s.id === section?.id ? "bg-slate text-on-slate" : "hover:bg-panel",
              )}
            >
              {s.title}
            </button>
          ))}
        </nav>
        <main className="min-w-0 p-5 md:flex-1 md:overflow-y-auto">
          <h1 className="mb-3 text-[28px] leading-8">{section?.title}</h1>
          {section && (
            <EditSection
              key={section.id}
              section={section}
              draft={draft}
              set={(unit) => kept.set({ unit, base: kept.value.base })}
              problems={problems}
            />
          )}
        </main>
        <aside
          aria-label="Check"
          className="shrink-0 border-t border-rule bg-panel p-4 md:w-80 md:overflow-y-auto md:border-t-0 md:border-l"
        >
          <div className="flex gap-2">
            <Button tone="primary" className="flex-1" disabled={!judged.unit || saving} onClick={() => void store()}>
              Store the unit
            </Button>
            {kept.drafted && (
              <Button
                onClick={() => {
                  kept.clear();
                  setFailure(undefined);
                }}
              >
                Drop
              </Button>
            )}
          </div>
          {failure && (
            <div className="mt-3">
              <Notice tone="stop" title="Not stored" live>
                {failure}
              </Notice>
            </div>
          )}
          <h2 className="mt-4 text-xl">Ratios from the teeth</h2>
          {judged.states ? (
            <>
              <table className="mt-1 w-full text-left">
                <thead>
                  <tr className="border-b border-ink">
                    <th className="py-1">Gear</th>
                    <th>Train</th>
                    <th>File</th>
                  </tr>
                </thead>
                <tbody>
                  {judged.states.map(({ gear, state }) => (
                    <tr key={gear} className="border-b border-rule">
                      <td className="figures py-1 text-lg">{gear}</td>
                      <td className={clsx("figures", state.kind !== "gear" && "text-stop")}>
                        {state.kind === "gear" ? state.ratio.toFixed(3) : state.kind.replace("-", " ")}
                      </td>
                      <td className="figures text-quiet">{gears.find((g) => g.name === gear)?.ratio ?? "–"}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
              <Button
                className="mt-2"
                onClick={() => kept.set({ unit: ratiosFromTrain(draft, judged.states ?? []), base: kept.value.base })}
              >
                Take the ratios of the teeth
              </Button>
            </>
          ) : (
            <p className="text-quiet">
              {draft.gearTrain
                ? "Gears, chart, elements and train must be whole before it can be solved."
                : "Ratios only: can’t work out what a stuck element gives, torque shares and inner speeds."}
            </p>
          )}
          <h2 className="mt-4 text-xl" aria-live="polite">
            {judged.problems.length === 0
              ? "Nothing is wrong"
              : `${judged.problems.length} ${judged.problems.length === 1 ? "place is" : "places are"} wrong`}
          </h2>
          <ul className="mt-1">
            {judged.problems.slice(0, 40).map((p) => (
              <li key={`${p.path}${p.reason}`} className="border-b border-rule">
                <button
                  type="button"
                  className="min-h-11 w-full py-1.5 text-left text-sm hover:bg-ground"
                  onClick={() => setSectionId(sectionOf(p.path)?.id ?? sectionId)}
                >
                  <span className="block font-mono text-[13px]">{p.path}</span>
                  {p.reason}
                </button>
              </li>
            ))}
          </ul>
        </aside>
      </div>
    </div>
  );
}
