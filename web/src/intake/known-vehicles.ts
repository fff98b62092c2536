import type { KnownVehicleView } from "@gearsense/contract";

const MOST = 3;
const plain = (s: string) => s.toLowerCase().replace(/[\s-]/g, "");

/**
 * Vehicles that what is typed may mean: by number, by plate, by owner or name from three letters on; surest first. One that
 * is typed out already is not offered.
 */
export function matchVehicles(
  known: readonly KnownVehicleView[],
  typed: { readonly name: string; readonly plate: string; readonly owner: string; readonly vin: string },
): KnownVehicleView[] {
  const [name, plate, owner, vin] = [typed.name, typed.plate, typed.owner, typed.vin ?? ""].map(plain) as [
    string,
    string,
    string,
    string,
  ];
  const begins = (value: string, part: string) => part.length >= 3 && plain(value).startsWith(part);
  const score = (v: KnownVehicleView) =>
    (vin.length >= 6 && plain(v.vin).startsWith(vin) ? 8 : 0) +
    (begins(v.plate, plate) ? 4 : 0) +
    (begins(v.owner, owner) ? 2 : 0) +
    (begins(v.name, name) ? 1 : 0);
  const same = (v: KnownVehicleView) =>
    plain(v.name) === name &&
    plain(v.plate) === plate &&
    plain(v.owner) === owner &&
    (plain(v.vin) === vin || v.vin === "");
  return known
    .map((v) => ({ v, s: score(v) }))
    .filter(({ v, s }) => s > 0 && !same(v))
    .sort((a, b) => b.s - a.s)
    .slice(0, MOST)
    .map(({ v }) => v);
}
