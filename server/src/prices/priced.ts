import { type Knowledge, withOwnPrices } from "@gearsense/core/suspect";
import type { ShopScope } from "../db/shop-scope.ts";
import { createPriceStore } from "./store.ts";

/** The library's knowledge as a shop prices it for one unit. */
export const pricedFor = async (scope: ShopScope, knowledge: Knowledge, unitId: string): Promise<Knowledge> =>
  withOwnPrices(knowledge, (await createPriceStore(scope).prices()).prices, unitId);
