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
    const { name, currency, hourlyRate } = await accounts.shop(account.shopId);
    return {
      account: { id: account.id, name: account.name, signIn: account.signIn, role: account.role },
      shop: { name, currency, hourlyRate },
    };
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
    await new Promise<void>((resolve, reject) => req.session.regenerate((e) => (e ? reject(e) : resolve())));
    req.session.signedIn = { accountId: account.id };
    return view(account.id);
  });
  mount(API.session, ({ who }) => view(who.accountId));
  mount(API.signOut, async ({ req, res }) => {
    await new Promise<void>((resolve, reject) => req.session.destroy((e) => (e ? reject(e) : resolve())));
    res.clearCookie(SESSION_COOKIE, COOKIE);
  });
}
