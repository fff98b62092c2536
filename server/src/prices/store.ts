import type { OwnPricesView } from "@gearsense/contract";
import type { OwnPriceRow } from "@gearsense/core/suspect";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";

/** What a shop has set over the library's prices and hours. */
export function createPriceStore(scope: ShopScope) {
  return {
    async prices(): Promise<OwnPricesView> {
      const row: OwnPricesView | undefined = await scope.from("shop_prices").first("prices", "seq", "author", "at");
      return row
        ? { ...row, at: row.at && new Date(row.at).toISOString() }
        : { prices: [], seq: 0, author: "", at: null };
    },
    /** @throws HttpError 409 `stale` when somebody else has changed them meanwhile */
    async save(prices: readonly OwnPriceRow[], baseSeq: number, author: string, at: Date): Promise<void> {
      const row = { prices: JSON.stringify(prices), seq: baseSeq + 1, author, at };
      const written =
        baseSeq === 0
          ? Number(await scope.insertNew("shop_prices", row))
          : await scope.from("shop_prices").where({ seq: baseSeq }).update(row);
      if (written > 0) return;
      const now = await this.prices();
      throw new HttpError(
        409,
        "stale",
        `${now.author} has changed the prices meanwhile. Yours are kept on this page and not stored: those that differ are marked; save again to store yours.`,
      );
    },
  };
}
