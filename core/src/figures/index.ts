export { type RepairFigures, type ShopFigures, shopFigures } from "./figures.ts";
export { provedBy } from "./proved.ts";
export { type JobOfShop, type MoneyLine, moneyLines, type Visit, visitsOf } from "./visits.ts";
