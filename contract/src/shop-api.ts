import { route } from "./route.ts";
import { ROUTES } from "./routes.ts";
import { OwnPassword, People, PersonAdd, PersonChange, Shop, ShopSave } from "./shop.ts";

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
    summary: "Name, currency and hourly rate of the shop",
    role: "viewer",
    response: Shop,
  }),
  saveShop: route({
    ...ROUTES.saveShop,
    summary: "Change name, currency and hourly rate of the shop",
    role: "owner",
    body: ShopSave,
    response: Shop,
  }),
} as const;
