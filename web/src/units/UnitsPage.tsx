import type { Unit } from "@gearsense/core/unit";
import { useQueryClient } from "@tanstack/react-query";
import { FileUp, Plus } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { ApiFailure, call } from "../api/client.ts";
import { useSession, useUnits } from "../api/queries.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Button, Heading, Notice } from "../shared/controls.tsx";
import { FileButton } from "../shared/FileButton.tsx";
import { TopBar } from "../shared/TopBar.tsx";
import { KIND_WORDS } from "./kind-words.ts";

const MOST_BYTES = 1_000_000;

/** Every unit the shop may work with: the library's and its own. */
export default function UnitsPage() {
  const { data: units, error } = useUnits();
  const { data: session } = useSession();
  const { show } = useSettings();
  const navigate = useNavigate();
  const mayEdit = session?.account.role !== "viewer";
  useShortcuts([{ key: "Escape", label: "Back to the bay board", group: "Units", run: () => void navigate("/") }]);
  return (
    <div className="flex min-h-full flex-col">
      <TopBar>
        <Link to="/" className="label text-2xl">
          Gearsense
        </Link>
        <span className="truncate text-quiet">{session?.shop.name}</span>
      </TopBar>
      <main className="flex-1 p-5">
        <Heading title="Units" actions={mayEdit && <Actions units={(units ?? []) as Unit[]} />}>
          Transmissions that can be reasoned about. Beyond the library a shop keeps its own.
        </Heading>
        {error && (
          <Notice tone="stop" title="The units could not be loaded" live>
            {error.message}
          </Notice>
        )}
        <ul className="grid gap-2.5 sm:grid-cols-2 xl:grid-cols-3">
          {units?.map((u) => (
            <li key={u.id}>
              <Link
                to={`/units/${u.id}`}
                className="flex h-full flex-col border border-rule border-l-4 border-l-slate bg-panel p-4 hover:border-ink"
              >
                <span className="flex items-baseline justify-between gap-3">
                  <span className="label text-xl">{u.name}</span>
                  <span className="figures text-lg text-quiet">{show(u.maxInputTorqueNm, "torque")}</span>
                </span>
                <span className="mt-1 flex-1">{u.description}</span>
                <span className="figures mt-2 text-[17px]">
                  {u.gears.map((g) => g.ratio.toFixed(2).replace("-", "−")).join(" · ")}
                </span>
                <span className="mt-1 text-sm text-quiet">
                  {KIND_WORDS[u.kind]} · {u.layout}
                  {u.gearTrain ? "" : " · ratios only"}
                </span>
              </Link>
            </li>
          ))}
        </ul>
      </main>
    </div>
  );
}

function Actions({ units }: { units: readonly Unit[] }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [refused, setRefused] = useState<{ message: string; fields: readonly (readonly [string, string])[] }>();
  const take = async (file: File) => {
    setRefused(undefined);
    if (file.size > MOST_BYTES) {
      setRefused({
        message: `${file.name} has ${Math.ceil(file.size / 1e6)} MB; a unit file has at most 1 MB.`,
        fields: [],
      });
      return;
    }
    let unit: Unit;
    try {
      unit = JSON.parse(await file.text()) as Unit;
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error);
      setRefused({ message: `${file.name} isn’t JSON: ${why}. Choose a file that ends in .unit.json.`, fields: [] });
      return;
    }
    try {
      const known = units.find((u) => u.id === unit?.id);
      const saved = await call("saveUnit", { body: { unit: unit as never, baseVersion: known?.version ?? 0 } });
      await client.invalidateQueries({ queryKey: ["units"] });
      toast(`${saved.name}, version ${saved.version}, imported`);
      await navigate(`/units/${saved.id}`);
    } catch (error) {
      if (!(error instanceof ApiFailure)) throw error;
      setRefused({ message: error.message, fields: Object.entries(error.fields) });
    }
  };
  return (
    <div className="flex flex-col items-end gap-2">
      <div className="flex gap-2">
        <FileButton label="Unit file" accept=".json,application/json" onFile={(file) => void take(file)}>
          <FileUp aria-hidden="true" className="size-5" />
          Add a unit file
        </FileButton>
        <Button onClick={() => void navigate("/units/new/edit")}>
          <Plus aria-hidden="true" className="size-5" />
          New unit
        </Button>
      </div>
      {refused && (
        <div className="max-w-xl text-left">
          <Notice tone="stop" title="Not stored" live>
            {refused.message}
            {refused.fields.length > 1 && (
              <ul className="mt-1 list-disc pl-5">
                {refused.fields.slice(0, 12).map(([path, reason]) => (
                  <li key={path}>
                    <span className="font-mono text-[13px]">{path.replace(/^unit\./, "")}</span>: {reason}
                  </li>
                ))}
              </ul>
            )}
          </Notice>
        </div>
      )}
    </div>
  );
}
