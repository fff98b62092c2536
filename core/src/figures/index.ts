export { type RepairFigures, type ShopFigures, shopFigures } from "./figures.ts";
export { holdsWords, LEAST_PART_LETTERS, type PartFitted, partsFitted } from "./parts.ts";
export { provedBy } from "./proved.ts";
export { type JobOfShop, type MoneyLine, moneyLines, type Visit, visitsOf } from "./visits.ts";
