import { seededRandom } from "../../chance/index.ts";
import type { Shop, ShopJob, Task } from "../schedule.ts";

export interface ShopSize {
  readonly jobs: number;
  readonly tasks: number;
  readonly lifts: number;
  readonly people: number;
  /** absent: everybody works without a break */
  readonly dayMin?: readonly [number, number] | undefined;
}

/** A drawn shop: jobs with their tasks mostly one after another, some beside each other, waits, lifts, promises. */
export function drawnShop(size: ShopSize, seed: number): { readonly shop: Shop; readonly jobs: readonly ShopJob[] } {
  const random = seededRandom(seed);
  const whole = (low: number, high: number) => low + Math.floor(random() * (high - low + 1));
  const working = size.dayMin
    ? Array.from(
        { length: 60 },
        (_, d) => [d * 1440 + (size.dayMin?.[0] ?? 0), d * 1440 + (size.dayMin?.[1] ?? 0)] as const,
      )
    : ([[0, 1e7]] as const);
  const shop: Shop = {
    lifts: Array.from({ length: size.lifts }, (_, l) => `lift ${l + 1}`),
    people: Array.from({ length: size.people }, (_, p) => ({
      id: `person ${p + 1}`,
      skills: p === 0 ? ["electric"] : [],
      working,
    })),
  };
  const jobs = Array.from({ length: size.jobs }, (_, j): ShopJob => {
    const onLift = random() < 0.8;
    const liftFrom = whole(0, 1);
    const tasks = Array.from({ length: size.tasks }, (_, i): Task => {
      const likely = whole(2, 24) * 5;
      // now and then two stand beside each other
      const before = i === 0 ? [] : random() < 0.8 || i === 1 ? [`${i - 1}`] : [`${i - 2}`];
      return {
        id: `${i}`,
        minutes: [Math.round(likely * 0.7), likely, Math.round(likely * (1.4 + random()))],
        people: size.people > 1 && random() < 0.12 ? 2 : 1,
        lift: onLift && i >= liftFrom && i < size.tasks - whole(0, 1),
        before,
        ...(random() < 0.1 ? { skill: "electric" } : {}),
        ...(random() < 0.25 ? { wait: [10, whole(2, 12) * 10, 180] as const } : {}),
      };
    });
    const work = tasks.reduce((s, t) => s + t.minutes[1] + (t.wait?.[1] ?? 0), 0);
    const fromMin = whole(0, 24) * 10;
    return {
      id: `job ${j + 1}`,
      tasks,
      fromMin,
      ...(random() < 0.7 ? { promisedMin: fromMin + Math.round(work * (1 + 1.2 * random())) } : {}),
    };
  });
  return { shop, jobs };
}
