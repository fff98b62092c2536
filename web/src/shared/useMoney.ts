import { useSession } from "../api/queries.ts";

/** Money of the shop, in whole units. */
export function useMoney(): (n: number) => string {
  const { data } = useSession();
  const currency = data?.shop.currency ?? "EUR";
  return (n) => new Intl.NumberFormat("en-GB", { style: "currency", currency, maximumFractionDigits: 0 }).format(n);
}
