import { readFileSync } from "node:fs";
import type { Symptom } from "../job/index.ts";

/** A complaint with what it means. */
export interface Told {
  readonly text: string;
  readonly signs: readonly Pick<Symptom, "kind" | "where" | "load" | "temperature" | "speedKmh" | "howOften">[];
  /** the rules were not written while looking at it */
  readonly heldOut: boolean;
}

const list = readFileSync(new URL("./told.txt", import.meta.url), "utf8");

function signOf(written: string): Told["signs"][number] {
  const [kind, ...marks] = written.trim().split(" ") as [string, ...string[]];
  const after = (mark: string) => marks.find((m) => m.startsWith(mark))?.slice(1);
  const speed = after("v")?.split("-").map(Number) as [number, number] | undefined;
  return {
    kind: (kind === "light" ? "warning-light" : kind) as Symptom["kind"],
    where: after("@")?.split(",") ?? [],
    load: (after("+") ?? "any") as Symptom["load"],
    temperature: (after("~") ?? "any") as Symptom["temperature"],
    speedKmh: speed,
    howOften: after("#") as Symptom["howOften"],
  };
}

/** Complaints as customers tell them, all made up, from told.txt. */
export const TOLD: readonly Told[] = list
  .split("\n")
  .filter((line) => line.includes("|") && !line.startsWith("#"))
  .map((line, i) => {
    const at = line.indexOf("|");
    const signs = line.slice(0, at).split(";");
    return {
      text: line.slice(at + 1).trim(),
      signs: signs.filter((s) => s.trim() !== "-").map(signOf),
      heldOut: i % 2 === 1,
    };
  });

/** Shares 0 … 1 of what the texts mean that was read, and of what was read that they mean. */
export interface ToldScore {
  readonly signRecall: number;
  readonly signPrecision: number;
  /** gears and shifts with their sign */
  readonly gearsF1: number;
  /** of the speeds told: read with both ends within 5 km/h */
  readonly speeds: number;
  readonly loadF1: number;
  readonly temperatureF1: number;
  /** of the texts that mean nothing: something was read */
  readonly invented: number;
  /** what went wrong, by text */
  readonly misses: readonly string[];
}

const SPEED_WITHIN_KMH = 5;

export function scoreTold(texts: readonly Told[], read: (text: string) => readonly Symptom[]): ToldScore {
  const misses: string[] = [];
  const count = () => ({ meant: 0, read: 0, both: 0 });
  const tally = { sign: count(), gear: count(), load: count(), temperature: count() };
  let [speeds, speedsRight, harmless, invented] = [0, 0, 0, 0];
  for (const t of texts) {
    const got = read(t.text);
    const compare = (of: keyof typeof tally, meant: string[], found: string[]) => {
      const [m, f] = [new Set(meant), new Set(found)];
      const both = [...m].filter((x) => f.has(x)).length;
      tally[of].meant += m.size;
      tally[of].read += f.size;
      tally[of].both += both;
      if (both < m.size || both < f.size) misses.push(`${t.text} — ${of}: ${[...m].join()} read as ${[...f].join()}`);
    };
    const each = (s: readonly Told["signs"][number][], of: (x: Told["signs"][number]) => string[]) => s.flatMap(of);
    compare(
      "sign",
      each(t.signs, (s) => [s.kind]),
      each(got, (s) => [s.kind]),
    );
    const gears = (s: Told["signs"][number]) => s.where.map((w) => `${s.kind}@${w}`);
    compare("gear", each(t.signs, gears), each(got, gears));
    const load = (s: Told["signs"][number]) => (s.load === "any" ? [] : [`${s.kind}+${s.load}`]);
    compare("load", each(t.signs, load), each(got, load));
    const heat = (s: Told["signs"][number]) => (s.temperature === "any" ? [] : [`${s.kind}~${s.temperature}`]);
    compare("temperature", each(t.signs, heat), each(got, heat));
    for (const s of t.signs) {
      if (!s.speedKmh) continue;
      speeds++;
      const found = got.find((g) => g.kind === s.kind)?.speedKmh;
      const right = found?.every((v, i) => Math.abs(v - (s.speedKmh?.[i] as number)) <= SPEED_WITHIN_KMH);
      if (right) speedsRight++;
      else misses.push(`${t.text} — speed: ${s.speedKmh.join()} read as ${found?.join() ?? "none"}`);
    }
    if (t.signs.length > 0) continue;
    harmless++;
    if (got.length > 0) invented++;
  }
  const f1 = ({ meant, read: r, both }: ReturnType<typeof count>) => (2 * both) / Math.max(1, meant + r);
  return {
    signRecall: tally.sign.both / tally.sign.meant,
    signPrecision: tally.sign.both / Math.max(1, tally.sign.read),
    gearsF1: f1(tally.gear),
    speeds: speedsRight / speeds,
    loadF1: f1(tally.load),
    temperatureF1: f1(tally.temperature),
    invented: invented / harmless,
    misses,
  };
}
