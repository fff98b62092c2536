import type { Knex } from "knex";
import { ShopScope } from "../db/shop-scope.ts";
import type { Queue } from "../queue/queue.ts";
import type { LogService } from "./service.ts";

/**
 * Leaves for when there is time, what another version has analysed on jobs that are open: whoever looks at such a job finds
 * it done. Several processes that start together leave it once.
 * @returns pieces of work that nobody had left before
 */
export async function renewAged(db: Knex, logs: LogService, queue: Queue): Promise<number> {
  let left = 0;
  for (const shopId of await db("shop").pluck<string[]>("id"))
    left += await queue.leave("analysis", await logs(new ShopScope(db, shopId)).aged());
  return left;
}
