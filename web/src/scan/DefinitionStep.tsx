import { type BusDefinition, checkDefinition } from "@gearsense/core/log";
import { Button, Notice } from "../shared/controls.tsx";
import { FileButton } from "../shared/FileButton.tsx";
import type { Import } from "./useImport.ts";

const MOST_BYTES = 1 << 20;

/** A definition from its file. @throws Error with the sentence to show */
async function readDefinition(file: File): Promise<BusDefinition> {
  if (file.size > MOST_BYTES) throw new Error(`${file.name} is larger than a channel definition can be.`);
  let json: unknown;
  try {
    json = JSON.parse(await file.text());
  } catch {
    throw new Error(`${file.name} is not valid JSON. Choose a channel definition, see docs/formats.md.`);
  }
  const d = json as Partial<BusDefinition>;
  if (d?.format !== "gearsense-bus" || d.version !== 1 || !Array.isArray(d.channels))
    throw new Error(`${file.name} isn’t a channel definition: its format must be "gearsense-bus", version 1.`);
  const definition = { ...(d as BusDefinition), name: d.name || file.name };
  const [wrong] = checkDefinition(definition);
  if (wrong) throw new Error(`${file.name} is wrong at ${wrong.path}: ${wrong.reason}.`);
  return definition;
}

/** A raw bus capture needs to be told what its frames hold. */
export function DefinitionStep({ why, fileName, work }: { why: string; fileName: string; work: Import }) {
  const known = work.profiles.filter((p) => p.definition);
  const take = async (file: File) => {
    try {
      work.say(undefined);
      work.setDefinition(await readDefinition(file));
    } catch (error) {
      work.say(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <Notice tone="caution" title={`${fileName} is stored; what do its frames hold?`} live>
      <p>{why}</p>
      <div className="mt-3 flex flex-wrap gap-2">
        {known.map((p) => (
          <Button key={p.name} onClick={() => p.definition && work.setDefinition(p.definition, p)}>
            As in {p.name}
          </Button>
        ))}
        <FileButton
          tone="primary"
          data-primary
          label="Channel definition file"
          accept=".json,application/json"
          onFile={(f) => void take(f)}
        >
          Choose a channel definition
        </FileButton>
        <Button onClick={work.cancel}>Not now</Button>
      </div>
    </Notice>
  );
}
