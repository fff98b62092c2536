// Schedules: small drawn shops against the exact optimum and first come first served; thirty jobs of forty steps against the plain
// rule's time in one run; promises at 90 % against what happens. usage: npm run bench:schedule [-- SEED]
// Aims: at most 3 % over the optimum in the mean, never worse than first come first served; at most 200 of the plain rule's runs;
// 87 to 93 % of the promises held.

import { seededRandom } from "../core/src/chance/index.ts";
import {
  Bench,
  costOf,
  drawnEnds,
  drawnMinutes,
  findSchedule,
  firstCome,
  likelyMinutes,
  promiseAt,
  scheduleBy,
} from "../core/src/schedule/index.ts";
import { exactCost } from "../core/src/schedule/testing/exact.ts";
import { drawnShop } from "../core/src/schedule/testing/shops.ts";

const seed = Number(process.argv[2] ?? 1);
const SMALL = Number(process.env.SMALL ?? 100);
const PROMISES = Number(process.env.PROMISES ?? 1000);

const over: number[] = [];
let worse = 0;
let gaveUp = 0;
for (let n = 0; n < SMALL; n++) {
  const random = seededRandom(seed * 1000 + n);
  const jobs = 2 + Math.floor(random() * 3);
  const tasks = Math.floor(24 / jobs) - Math.floor(random() * 2);
  const { shop, jobs: drawn } = drawnShop({ jobs, tasks, lifts: 2, people: 2 }, seed * 1000 + n);
  const bench = new Bench(shop, drawn);
  const plain = costOf(bench, scheduleBy(bench, firstCome(bench), likelyMinutes(drawn)));
  const { cost } = findSchedule(bench, n);
  if (cost > plain + 1e-9) worse++;
  try {
    over.push(cost / exactCost(bench, cost + 1e-6) - 1);
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    gaveUp++;
  }
}
over.sort((a, b) => a - b);
const mean = over.reduce((a, b) => a + b, 0) / over.length;
console.log(
  `${over.length} small shops, seed ${seed}: ${(100 * mean).toFixed(2)} % over the optimum in the mean, ${(100 * (over.at(-1) ?? 0)).toFixed(1)} % at most, ${over.filter((o) => o < 1e-9).length} at it; worse than first come first served: ${worse}; exact search gave up on ${gaveUp}`,
);

const big = drawnShop({ jobs: 30, tasks: 40, lifts: 3, people: 4, dayMin: [480, 1020] }, seed);
const bench = new Bench(big.shop, big.jobs);
const minutes = likelyMinutes(big.jobs);
const plainRule = firstCome(bench);
for (let n = 0; n < 5; n++) scheduleBy(bench, plainRule, minutes);
let began = performance.now();
for (let n = 0; n < 20; n++) scheduleBy(bench, plainRule, minutes);
const oneMs = (performance.now() - began) / 20;
began = performance.now();
const found = findSchedule(bench, seed);
const searchMs = performance.now() - began;
const plainCost = costOf(bench, scheduleBy(bench, plainRule, minutes));
console.log(
  `30 jobs of 40 steps: one run of the plain rule ${oneMs.toFixed(1)} ms, the search ${searchMs.toFixed(0)} ms = ${(searchMs / oneMs).toFixed(0)} runs (${found.tried} schedules), cost ${(found.cost / plainCost).toFixed(3)} of the plain rule's`,
);

let held = 0;
let promised = 0;
for (let n = 0; n < PROMISES; n++) {
  const random = seededRandom(seed * 77_000 + n);
  const jobs = 2 + Math.floor(random() * 4);
  const { shop, jobs: drawn } = drawnShop(
    { jobs, tasks: 6, lifts: 2, people: 2, dayMin: [480, 1020] },
    seed * 5000 + n,
  );
  const own = new Bench(shop, drawn);
  const { policy } = findSchedule(own, n, 60);
  const ends = drawnEnds(own, policy, 400, n * 2 + 1);
  const happened = scheduleBy(own, policy, drawnMinutes(own, seededRandom(seed * 991_000 + n * 2)));
  happened.jobs.forEach((d, k) => {
    promised++;
    if (d.endMin <= promiseAt(ends[k] as Float64Array, 0.9)) held++;
  });
}
console.log(`promises at 90 % over ${PROMISES} shops: ${((100 * held) / promised).toFixed(1)} % of ${promised} held`);
