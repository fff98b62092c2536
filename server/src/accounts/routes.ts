import { API, type SessionView } from "@gearsense/contract";
import type { Express, Request } from "express";
import { ipKeyGenerator, rateLimit } from "express-rate-limit";
import { HttpError } from "../http/errors.ts";
import type { Mount } from "../http/mount.ts";
import { COOKIE, SESSION_COOKIE } from "./session.ts";
import { type AccountStore, normalName } from "./store.ts";

const WINDOW_MS = 10 * 60 * 1000;

/** From one address several people sign in; one name is asked for from one address, or from all over. */
const FROM_ONE_ADDRESS = 5;
const OF_ONE_NAME = 10;

/**
 * Failed sign-ins are limited by name and address together, by address, and by name.
 * @param failuresAllowed - of one name from one address in ten minutes
 */
export function mountAccounts(app: Express, mount: Mount, accounts: AccountStore, failuresAllowed: number): void {
  const view = async (accountId: string): Promise<SessionView> => {
    const account = await accounts.account(accountId);
    if (!account) throw new HttpError(401, "signed-out", "This account no longer exists. Sign in with another.");
    const { name, currency, hourlyRate, taxPercent, terms } = await accounts.shop(account.shopId);
    return {
      account: { id: account.id, name: account.name, signIn: account.signIn, role: account.role },
      shop: { name, currency, hourlyRate, taxPercent, terms },
    };
  };
  const enter = async (req: Request, accountId: string) => {
    await new Promise<void>((resolve, reject) => req.session.regenerate((e) => (e ? reject(e) : resolve())));
    req.session.signedIn = { accountId };
  };
  const limit = (times: number, keyGenerator: (req: Request) => string) =>
    rateLimit({
      windowMs: WINDOW_MS,
      limit: failuresAllowed * times,
      skipSuccessfulRequests: true,
      standardHeaders: "draft-8",
      legacyHeaders: false,
      keyGenerator,
      handler: (_req, res) => {
        res.status(429).json({
          error: { code: "too-many", message: "Too many failed sign-ins. Wait ten minutes, then try again." },
        });
      },
    });
  const addressOf = (req: Request) => ipKeyGenerator(req.ip ?? "");
  const nameOf = (req: Request) => normalName(String(req.body?.signIn ?? "")).slice(0, 200);
  app.post(
    API.signIn.path,
    limit(1, (req) => `${addressOf(req)}|${nameOf(req)}`),
    limit(FROM_ONE_ADDRESS, addressOf),
    limit(OF_ONE_NAME, nameOf),
  );
  mount(API.signIn, async ({ body, req }) => {
    const account = await accounts.verify(body.signIn, body.password);
    if (!account)
      throw new HttpError(
        401,
        "wrong-credentials",
        "The sign-in name or the password is wrong. Check both and try again.",
      );
    await enter(req, account.id);
    return view(account.id);
  });
  app.post(API.setUp.path, limit(1, addressOf));
  mount(API.setup, async () => ({ open: !(await accounts.anyShop()) }));
  mount(API.setUp, async ({ body: { code, shop, owner }, req }) => {
    const wanted = await accounts.setupCode();
    const done = new HttpError(409, "set-up", "This server is set up already. Sign in with the name you were given.");
    if (wanted === undefined) throw done;
    if (code.toUpperCase() !== wanted)
      throw new HttpError(403, "wrong-code", "The code is wrong. It stands where Gearsense was started.", {
        fields: { code: "isn’t the code of this start" },
      });
    const { password, ...who } = owner;
    const account = await accounts.setUp(shop, who, password);
    if (!account) throw done;
    await enter(req, account.id);
    return view(account.id);
  });
  mount(API.session, ({ who }) => view(who.accountId));
  mount(API.ownPassword, async ({ body, who, req }) => {
    if (!(await accounts.setOwnPassword(who.accountId, body.current, body.password, req.sessionID)))
      throw new HttpError(422, "wrong-password", "The current password is wrong. Nothing was changed.", {
        fields: { current: "isn’t your current password" },
      });
  });
  const people = async (shopId: string) => ({
    people: (await accounts.people(shopId)).map(({ id, name, signIn, role }) => ({ id, name, signIn, role })),
  });
  mount(API.people, ({ who }) => people(who.shopId));
  mount(API.colleagues, async ({ who }) => ({
    names: (await accounts.people(who.shopId)).filter((p) => p.role !== "viewer").map((p) => p.name),
  }));
  mount(API.addPerson, async ({ body: { password, ...person }, who }) => {
    if (!(await accounts.addPerson({ ...person, shopId: who.shopId }, password)))
      throw new HttpError(409, "name-taken", `“${normalName(person.signIn)}” is taken: choose another sign-in name.`, {
        fields: { signIn: "is taken" },
      });
    return people(who.shopId);
  });
  const settle = async (shopId: string, id: string, change: Parameters<AccountStore["settlePerson"]>[2]) => {
    const not = await accounts.settlePerson(shopId, id, change);
    if (not === "unknown") throw new HttpError(404, "not-found", "This person isn’t in the shop any more.");
    if (not === "last-owner")
      throw new HttpError(
        409,
        "last-owner",
        "This is the last owner: nobody could change the shop afterwards. Make somebody else an owner first.",
      );
    return people(shopId);
  };
  mount(API.changePerson, ({ body, params, who }) => settle(who.shopId, params.personId, body));
  mount(API.removePerson, ({ params, who }) => settle(who.shopId, params.personId, undefined));
  const shop = async (shopId: string) => {
    const { id: _, ...shop } = await accounts.shop(shopId);
    return shop;
  };
  mount(API.shop, ({ who }) => shop(who.shopId));
  mount(API.saveShop, async ({ body: { baseVersion, ...typed }, who }) => {
    if (!(await accounts.saveShop({ id: who.shopId, ...typed }, baseVersion)))
      throw new HttpError(
        409,
        "stale",
        "Another owner has changed the shop meanwhile. Yours is kept and not stored: compare it with what stands now, then save again.",
      );
    return shop(who.shopId);
  });
  mount(API.signOut, async ({ req, res }) => {
    await new Promise<void>((resolve, reject) => req.session.destroy((e) => (e ? reject(e) : resolve())));
    res.clearCookie(SESSION_COOKIE, COOKIE);
  });
}
