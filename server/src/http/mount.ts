import { ROLES, type Role, type RouteSpec } from "@gearsense/contract";
import type { Express, Request, Response } from "express";
import type { z } from "zod";
import type { SignedIn } from "../accounts/session.ts";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "./errors.ts";
import { refuseBrokenText } from "./text.ts";

type Parsed<S> = S extends z.ZodType<infer T> ? T : undefined;
type ParamNames<P extends string> = P extends `${string}:${infer N}/${infer Rest}`
  ? N | ParamNames<Rest>
  : P extends `${string}:${infer N}`
    ? N
    : never;

export interface Call<R extends RouteSpec> {
  readonly params: Readonly<Record<ParamNames<R["path"]>, string>>;
  readonly query: R extends { query: z.ZodType } ? Parsed<R["query"]> : undefined;
  readonly body: R extends { body: z.ZodType } ? Parsed<R["body"]> : undefined;
  readonly who: SignedIn;
  readonly scope: ShopScope;
  /** aborted when the client has gone before it was answered */
  readonly signal: AbortSignal;
  /** the same for every attempt at one write, chosen by the client; undefined without one */
  readonly writeKey: string | undefined;
  readonly req: Request;
  readonly res: Response;
}

export type Handler<R extends RouteSpec> = (
  call: Call<R>,
) => Promise<R["response"] extends z.ZodType ? z.input<R["response"]> : void>;

const atLeast = (role: Role, needed: Role) => ROLES.indexOf(role) >= ROLES.indexOf(needed);
const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

const WRITE_KEY = /^[\w-]{8,80}$/;

function writeKeyOf(req: Request): string | undefined {
  const key = req.get("idempotency-key");
  if (key !== undefined && !WRITE_KEY.test(key))
    throw new HttpError(400, "invalid", "idempotency-key: 8 to 80 letters, digits, - and _.");
  return key;
}

/** A form of another page can send text, never these two: a browser asks first, and is refused. */
function refuseOtherTypes(req: Request, bytes: boolean): void {
  const type = bytes ? "application/octet-stream" : "application/json";
  if (!req.is(type)) throw new HttpError(415, "wrong-type", `content-type: send ${type}.`);
}

function signalOf(res: Response): AbortSignal {
  const gone = new AbortController();
  res.on("close", () => {
    if (!res.writableFinished) gone.abort();
  });
  return gone.signal;
}

/**
 * Mounts a route of the contract: sign-in, role, parameters, query and body are checked here, for every route alike.
 * @param accountOf - who an account is now: a role that was taken away, or a person, counts at once
 */
export function mounter(
  app: Express,
  scopeOf: (shopId: string) => ShopScope,
  accountOf: (accountId: string) => Promise<SignedIn | undefined>,
) {
  return function mount<const R extends RouteSpec>(spec: R, handler: Handler<R>): void {
    app[spec.method](spec.path, async (req: Request, res: Response) => {
      res.locals.route = spec.path;
      const known = req.session?.signedIn;
      const who = spec.role && known ? await accountOf(known.accountId) : undefined;
      if (spec.role) {
        if (!who)
          throw new HttpError(
            401,
            "signed-out",
            "You are not signed in, or the session has ended. Sign in again; what you typed is kept.",
          );
        if (!atLeast(who.role, spec.role)) {
          throw new HttpError(
            403,
            "not-allowed",
            `Your role (${who.role}) may look but not change this. Ask ${spec.role === "owner" ? "the owner" : "a technician"} of the shop.`,
          );
        }
      }
      for (const [name, value] of Object.entries(req.params)) {
        if (name.endsWith("Id") && !UUID.test(String(value)))
          throw new HttpError(
            404,
            "not-found",
            `Your shop doesn’t have this ${name.slice(0, -2)}. The address may be mistyped; go back to the bay board.`,
          );
      }
      refuseBrokenText("address", { ...req.params, ...req.query });
      if (spec.body) refuseOtherTypes(req, spec.body === "bytes");
      if (spec.body && spec.body !== "bytes") refuseBrokenText("body", req.body);
      const call = {
        params: req.params,
        query: spec.query ? spec.query.parse(req.query) : undefined,
        body: spec.body && spec.body !== "bytes" ? spec.body.parse(req.body) : undefined,
        who,
        // an open route has no shop: its scope finds nothing
        scope: scopeOf(who?.shopId ?? "00000000-0000-0000-0000-000000000000"),
        signal: signalOf(res),
        writeKey: writeKeyOf(req),
        req,
        res,
      } as unknown as Call<R>;
      let result: Awaited<ReturnType<typeof handler>>;
      try {
        result = await handler(call);
      } catch (error) {
        // nobody is there to be told
        if (call.signal.aborted) return;
        throw error;
      }
      if (spec.response === "none") res.status(204).end();
      else if (spec.response !== "bytes") res.json(result);
    });
  };
}

export type Mount = ReturnType<typeof mounter>;
