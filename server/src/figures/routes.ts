import { API } from "@gearsense/contract";
import { moneyLines, shopFigures, visitsOf } from "@gearsense/core/figures";
import { type Knowledge, namedFactors, ownFactors } from "@gearsense/core/suspect";
import papaparse from "papaparse";
import type { AccountStore } from "../accounts/store.ts";
import type { ShopScope } from "../db/shop-scope.ts";
import type { Mount } from "../http/mount.ts";
import type { createJobService } from "../jobs/service.ts";
import { createFiguresStore, type Period } from "./store.ts";

/** Stays that were handed over within a period, oldest first. */
async function visitsIn(scope: ShopScope, { from, to }: Period) {
  const jobs = await createFiguresStore(scope).handedOver({ from, to });
  return jobs
    .flatMap(visitsOf)
    .filter((v) => v.at.slice(0, 10) >= from && v.at.slice(0, 10) <= to)
    .sort((a, b) => a.at.localeCompare(b.at));
}

/** What an owner sees of the shop's own jobs. */
export function mountFigures(
  mount: Mount,
  accounts: AccountStore,
  jobs: ReturnType<typeof createJobService>,
  knowledge: Knowledge,
  now: () => Date,
): void {
  mount(API.figures, async ({ scope, query }) => ({
    figures: shopFigures(await visitsIn(scope, query)),
    waits: await createFiguresStore(scope).waits(now()),
  }));
  mount(API.parts, ({ scope, query }) => createFiguresStore(scope).parts(query.find, query.after));
  mount(API.ownJobs, async ({ scope, who }) => {
    const own = await jobs(scope).ownJobs();
    const { ownOdds } = await accounts.shop(who.shopId);
    return { jobs: own.jobs, moves: ownOdds, factors: namedFactors(knowledge, ownFactors(own)) };
  });
  mount(API.moneyLines, async ({ scope, query, who, res }) => {
    const { currency } = await accounts.shop(who.shopId);
    const lines = (await visitsIn(scope, query)).flatMap(moneyLines);
    const money = (n: number) => n.toFixed(2);
    const csv = papaparse.unparse(
      {
        fields: [
          "day",
          "job",
          "customer",
          "vehicle",
          "kind",
          "what",
          "quantity",
          "each",
          "amount",
          "tax %",
          "currency",
        ],
        data: lines.map((l) => [
          l.day,
          l.job,
          l.customer,
          l.vehicle,
          l.kind,
          l.what,
          l.quantity,
          money(l.each),
          money(l.amount),
          l.taxPercent ?? "",
          currency,
        ]),
      },
      // a cell that begins like a formula is not one; a deposit is less than nothing and no formula
      { escapeFormulae: /^(?:[=@+\t\r]|-(?!\d+\.\d\d$))/, newline: "\r\n" },
    );
    res.attachment(`money-${query.from}-${query.to}.csv`);
    res.setHeader("content-type", "text/csv; charset=utf-8");
    res.end(`\ufeff${csv}\r\n`);
  });
}
