import { Copies, CopyRule, RestoreConfirm, Restored } from "./copies.ts";
import { Figures, OwnJobs, Parts, PartsQuery, Period } from "./figures.ts";
import { OwnPrices, Prices, PricesSave } from "./prices.ts";
import { Reach } from "./reach.ts";
import { route } from "./route.ts";
import { ROUTES } from "./routes.ts";
import { Colleagues, OwnPassword, People, PersonAdd, PersonChange, SetUp, Setup, Shop, ShopSave } from "./shop.ts";
import { Session } from "./views.ts";

/** Routes of the shop itself: people, own password, name and prices. */
export const SHOP_API = {
  ownPassword: route({
    ...ROUTES.ownPassword,
    summary: "Change one's own password; every other session of this account ends",
    role: "viewer",
    body: OwnPassword,
    response: "none",
  }),
  people: route({
    ...ROUTES.people,
    summary: "Who may sign in to this shop",
    role: "owner",
    response: People,
  }),
  colleagues: route({
    ...ROUTES.colleagues,
    summary: "Names of those who work on jobs here",
    role: "viewer",
    response: Colleagues,
  }),
  addPerson: route({
    ...ROUTES.addPerson,
    summary: "Add somebody with a first password",
    role: "owner",
    body: PersonAdd,
    response: People,
  }),
  changePerson: route({
    ...ROUTES.changePerson,
    summary: "Change somebody's name or role, or give a new password",
    role: "owner",
    body: PersonChange,
    response: People,
  }),
  removePerson: route({
    ...ROUTES.removePerson,
    summary: "Remove somebody; what they wrote stays, with their name",
    role: "owner",
    response: People,
  }),
  shop: route({
    ...ROUTES.shop,
    summary: "Name, currency, hourly rate, tax and terms of the shop",
    role: "viewer",
    response: Shop,
  }),
  saveShop: route({
    ...ROUTES.saveShop,
    summary: "Change name, currency, hourly rate, tax and terms of the shop",
    role: "owner",
    body: ShopSave,
    response: Shop,
  }),
  setup: route({
    ...ROUTES.setup,
    summary: "Is this server still without a shop",
    role: undefined,
    response: Setup,
  }),
  setUp: route({
    ...ROUTES.setUp,
    summary: "The first shop and its owner, with the code that the terminal shows; signs the owner in",
    role: undefined,
    body: SetUp,
    response: Session,
  }),
  reach: route({
    ...ROUTES.reach,
    summary: "By which addresses the devices of the bay reach this server",
    role: "owner",
    response: Reach,
  }),
  certificate: route({
    ...ROUTES.certificate,
    summary: "The certificate that the server has made for itself, to be trusted on a device",
    role: undefined,
    response: "bytes",
  }),
  figures: route({
    ...ROUTES.figures,
    summary: "What the shop’s own jobs of a period came to, and what its open jobs wait for",
    role: "owner",
    query: Period,
    response: Figures,
  }),
  parts: route({
    ...ROUTES.parts,
    summary:
      "Parts that were fitted, by words of their names: in which jobs, for what, and whether it lasted; newest jobs first",
    role: "viewer",
    query: PartsQuery,
    response: Parts,
  }),
  prices: route({
    ...ROUTES.prices,
    summary: "The shop’s own prices and hours, and the library’s that they stand over",
    role: "technician",
    response: Prices,
  }),
  savePrices: route({
    ...ROUTES.savePrices,
    summary: "Set own prices and hours over the library’s",
    role: "owner",
    body: PricesSave,
    response: OwnPrices,
  }),
  ownJobs: route({
    ...ROUTES.ownJobs,
    summary: "What the shop’s own proved jobs say of how often each fault comes, and whether the odds move with it",
    role: "technician",
    response: OwnJobs,
  }),
  moneyLines: route({
    ...ROUTES.moneyLines,
    summary: "Lines of money of the jobs handed over in a period, for books that are kept elsewhere (CSV)",
    role: "owner",
    query: Period,
    response: "bytes",
  }),
  copies: route({
    ...ROUTES.copies,
    summary: "Copies of everything that are kept on the server, and the rule by which they are made",
    role: "owner",
    response: Copies,
  }),
  makeCopy: route({
    ...ROUTES.makeCopy,
    summary: "Make a copy of everything now; ends when the caller goes away",
    role: "owner",
    response: Copies,
  }),
  keepCopies: route({
    ...ROUTES.keepCopies,
    summary: "How often a copy is made by itself, and how many are kept",
    role: "owner",
    body: CopyRule,
    response: Copies,
  }),
  copy: route({
    ...ROUTES.copy,
    summary: "One of the copies (tar)",
    role: "owner",
    response: "bytes",
  }),
  restoreCopy: route({
    ...ROUTES.restoreCopy,
    summary: "Put a kept copy in the place of everything; the name of the shop is typed to confirm it",
    role: "owner",
    body: RestoreConfirm,
    response: Restored,
  }),
  backup: route({
    ...ROUTES.backup,
    summary: "Everything of this shop as one archive (tar)",
    role: "owner",
    response: "bytes",
  }),
  restore: route({
    ...ROUTES.restore,
    summary: "Put a backup in the place of everything; the name of the shop is typed to confirm it",
    role: "owner",
    query: RestoreConfirm,
    body: "bytes",
    response: Restored,
  }),
} as const;
