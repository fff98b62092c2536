import { API, type SessionView } from "@gearsense/contract";
import type { Express } from "express";
import { rateLimit } from "express-rate-limit";
import { HttpError } from "../http/errors.ts";
import type { Mount } from "../http/mount.ts";
import type { AccountStore } from "./store.ts";

const WINDOW_MS = 10 * 60 * 1000;

/** Failed sign-ins are limited per address and name. */
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
  const limit = rateLimit({
    windowMs: WINDOW_MS,
    limit: failuresAllowed,
    skipSuccessfulRequests: true,
    standardHeaders: "draft-8",
    legacyHeaders: false,
    keyGenerator: (req) => `${req.socket.remoteAddress}|${String(req.body?.signIn ?? "").toLowerCase()}`,
    handler: (_req, res) => {
      res.status(429).json({
        error: {
          code: "too-many",
          message: "Too many failed sign-ins for this name. Wait ten minutes, then try again.",
        },
      });
    },
  });
  app.post(API.signIn.path, limit);
  mount(API.signIn, async ({ body, req }) => {
    const account = await accounts.verify(body.signIn, body.password);
    if (!account)
      throw new HttpError(
        401,
        "wrong-credentials",
        "The sign-in name or the password is wrong. Check both and try again.",
      );
    await new Promise<void>((resolve, reject) => req.session.regenerate((e) => (e ? reject(e) : resolve())));
    req.session.signedIn = { accountId: account.id, shopId: account.shopId, name: account.name, role: account.role };
    return view(account.id);
  });
  mount(API.session, ({ who }) => view(who.accountId));
  mount(API.signOut, async ({ req }) => {
    await new Promise<void>((resolve, reject) => req.session.destroy((e) => (e ? reject(e) : resolve())));
  });
}
