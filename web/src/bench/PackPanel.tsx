import {
  benchValue,
  chooseWasher,
  gainsOf,
  givesUpFirst,
  marginsOf,
  meanValue,
  packBuilt,
  packSummary,
  ratedPressureKpa,
  type Selection,
  selectionText,
} from "@gearsense/core/bench";
import type { BenchChosen, EntryBodies } from "@gearsense/core/job";
import { surePercent } from "@gearsense/core/measure";
import { percent } from "@gearsense/core/quantity";
import type { SelectivePart, Unit } from "@gearsense/core/unit";
import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { useMoney } from "../shared/useMoney.ts";
import { keptValue, shownUnit, shownValue } from "./bench-form.ts";
import { StackUp } from "./StackUp.tsx";

type Body = EntryBodies["bench"];
const FAULTS = {
  "thicker-than-new": "thicker than new",
  "below-least": "below its least",
  taper: "taper",
} as const;

/** What a pack comes to: plates, stack, clearance, the selective part, what it holds. */
export function PackPanel({
  elementId,
  body,
  onChoose,
  mayEdit,
}: {
  elementId: string;
  body: Body;
  onChoose: (part: BenchChosen) => void;
  mayEdit: boolean;
}) {
  const { job } = useJob();
  const unit = job.unit as Unit;
  const element = unit.elements.find((e) => e.id === elementId);
  const { system } = useSettings();
  if (!element) return null;
  const sum = packSummary(element, body.values, body.place.startsWith("pack:"));
  const mm = (x: number, digits = system === "imperial" ? 4 : 2) =>
    `${shownValue(x, "mm", system).toFixed(digits)} ${shownUnit("mm", system)}`;
  const part = element.bench?.selective;
  return (
    <div className="flex flex-col gap-3">
      {sum.problems.map((p) => (
        <Notice key={p} tone="stop" live>
          {p}
        </Notice>
      ))}
      {sum.plates.length > 0 && (
        <PlainTable
          caption="Plates"
          columns={["Plate", "Thickness", "Taper", "Worn", "Says"]}
          figures={[1, 2, 3]}
          rows={sum.plates.map((p) => [
            p.name,
            `${mm(p.state.value)} ± ${shownValue(2 * p.state.uncertainty, "mm", system).toFixed(system === "imperial" ? 4 : 3)}`,
            mm(p.state.taperMm),
            p.state.wear === undefined ? "–" : percent(Math.max(0, p.state.wear)),
            p.state.faults.length > 0 ? p.state.faults.map((f) => FAULTS[f]).join(", ") : "in",
          ])}
        />
      )}
      {sum.missing > 0 && sum.plates.length > 0 && (
        <p className="text-quiet">
          {sum.missing} {sum.missing === 1 ? "plate is" : "plates are"} not measured yet: stack and clearance follow
          when all are.
        </p>
      )}
      {sum.ends && sum.ends.sure > 0.95 && Math.abs(sum.ends.differenceMm) > 0.03 && (
        <p>
          The plates at the {sum.ends.differenceMm < 0 ? "hub" : "drum"} are {mm(Math.abs(sum.ends.differenceMm))}{" "}
          thinner than those at the {sum.ends.differenceMm < 0 ? "drum" : "hub"}.
        </p>
      )}
      {sum.stack && (
        <p className="figures text-lg">
          Stack {mm(sum.stack.value)}
          {sum.clearance && ` · clearance ${mm(sum.clearance.value)} ± ${mm(2 * sum.clearance.uncertainty)}`}
          {sum.perPlateMm !== undefined && ` · ${mm(sum.perPlateMm)} a plate`}
        </p>
      )}
      {sum.drawing && <StackUp drawing={sum.drawing} />}
      {sum.selection && part && (
        <SelectionBox
          body={body}
          selection={sum.selection}
          part={part}
          about={element.name}
          plates={element.plates ?? 0}
          onChoose={onChoose}
          mayEdit={mayEdit}
        />
      )}
      <Capacity unit={unit} elementId={elementId} body={body} />
    </div>
  );
}

/** The end play and the washer that sets it. */
export function EndPlayPanel({
  about,
  body,
  onChoose,
  mayEdit,
}: {
  about: string;
  body: Body;
  onChoose: (part: BenchChosen) => void;
  mayEdit: boolean;
}) {
  const { job } = useJob();
  const play = (job.unit as Unit).bench?.endPlays?.find((p) => p.id === about);
  const read = (id: string) => body.values.find((v) => v.id === id);
  const [dial, fitted] = [read("play"), read("fitted")];
  if (!play || !dial) return null;
  if (!fitted)
    return <p className="text-quiet">Measure the fitted {play.washer.kind} too: the right one follows from both.</p>;
  return (
    <SelectionBox
      body={body}
      selection={chooseWasher(meanValue(dial), meanValue(fitted), play.windowMm, play.washer)}
      part={play.washer}
      about={play.name}
      plates={0}
      onChoose={onChoose}
      mayEdit={mayEdit}
    />
  );
}

function SelectionBox({
  body,
  selection,
  part,
  about,
  plates,
  onChoose,
  mayEdit,
}: {
  body: Body;
  selection: Selection;
  part: SelectivePart;
  about: string;
  plates: number;
  onChoose: (part: BenchChosen) => void;
  mayEdit: boolean;
}) {
  const money = useMoney();
  const text = selectionText(selection, part.kind, plates);
  if (selection.kind === "none")
    return (
      <Notice tone="stop" title="Nothing fits" live>
        {text}
      </Notice>
    );
  const { best, near } = selection;
  const name = `${part.kind[0]?.toUpperCase()}${part.kind.slice(1)} ${best.sizesMm.map((s) => s.toFixed(2)).join(" and ")} mm, ${about}`;
  return (
    <Notice
      tone="clear"
      title={text}
      actions={
        mayEdit &&
        !body.chosen.some((c) => c.name === name) && (
          <Button
            onClick={() =>
              onChoose({
                id: "selective",
                name,
                sizeMm: best.sizesMm.length === 1 ? (best.sizesMm[0] ?? null) : null,
                quantity: best.sizesMm.length,
                costEach: part.costEach,
                why: `${best.clearanceMm.toFixed(2)} mm, ${surePercent(best.inside)} inside its window`,
              })
            }
          >
            Take it
          </Button>
        )
      }
    >
      {surePercent(best.inside)} inside its window, {money(best.cost)}.
      {near.length > 0 &&
        ` Beside it: ${near.map((n) => `${n.sizesMm.map((s) => s.toFixed(2)).join(" and ")} mm would leave ${n.clearanceMm.toFixed(2)} mm`).join("; ")}.`}
    </Notice>
  );
}

const CHANGES = {
  "extra-plate": "One more plate",
  "larger-piston": "a tenth more piston",
  "more-pressure": "a tenth more pressure",
} as const;

/** What the pack holds against what each gear asks, at a line pressure and an engine torque. */
function Capacity({ unit, elementId, body }: { unit: Unit; elementId: string; body: Body }) {
  const { state } = useJob();
  const { system, show } = useSettings();
  const curve = state.bench.find((e) => e.body.curve?.length)?.body.curve;
  const [kpa, setKpa] = useState<number>(Math.round(ratedPressureKpa(unit) ?? 1800));
  const [nm, setNm] = useState<number>(
    Math.round(curve ? Math.max(...curve.map(([, t]) => t)) : (unit.converter?.stallTorqueNm ?? unit.maxInputTorqueNm)),
  );
  const element = unit.elements.find((e) => e.id === elementId);
  const radius = (id: string) => benchValue(body, id)?.value;
  const pack = element && packBuilt(element, { innerMm: radius("inner"), outerMm: radius("outer") });
  if (!pack) return null;
  const margins = marginsOf(unit, elementId, pack, kpa, nm);
  const torque = (x: number) => show(x, "torque");
  const [first] = givesUpFirst(unit, kpa, new Map([[elementId, pack]]));
  return (
    <details className="border border-rule bg-panel p-3">
      <summary className="label flex min-h-11 cursor-pointer items-center text-lg">What it holds</summary>
      <div className="flex flex-col gap-2">
        <div className="grid gap-3 sm:grid-cols-2">
          <NumberField
            label={`Line pressure, ${shownUnit("kPa", system)}`}
            decimals={0}
            value={shownValue(kpa, "kPa", system)}
            onChange={(n) => setKpa(n === null ? 0 : keptValue(n, "kPa", system))}
          />
          <NumberField
            label={`Engine torque, ${shownUnit("N·m", system)}`}
            decimals={0}
            value={shownValue(nm, "N·m", system)}
            onChange={(n) => setNm(n === null ? 0 : keptValue(n, "N·m", system))}
          />
        </div>
        <PlainTable
          caption="Margin by gear"
          columns={["Gear", "Share of input torque", "Has to hold", "Holds", "Margin"]}
          figures={[1, 2, 3, 4]}
          rows={margins.map((m) => [
            m.gear,
            m.share.toFixed(2),
            torque(m.needNm),
            torque(m.holdsNm),
            <span key="m" className={m.margin < 1 ? "font-semibold text-stop" : ""}>
              {m.margin.toFixed(2)}
              {m.margin < 1 ? ", slips" : ""}
            </span>,
          ])}
        />
        <p>
          {gainsOf(pack, kpa)
            .map((g) => `${CHANGES[g.change]}: ${torque(g.moreNm)} more`)
            .join("; ")}
          .
        </p>
        {first && (
          <p>
            As the engine is raised,{" "}
            {first.element === elementId ? "this one" : unit.elements.find((e) => e.id === first.element)?.name} gives
            up first: in {first.gear} at {torque(first.engineNm)}.
          </p>
        )}
        <p className="text-sm text-quiet">
          T = μ·n·F·R with μ {pack.friction}, {2 * pack.plates} faces; torque shares from the gear train; in the gears
          that move off the converter multiplies.
        </p>
      </div>
    </details>
  );
}
