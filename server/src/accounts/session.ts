import { randomBytes } from "node:crypto";
import type { Role } from "@gearsense/contract";
import pgSimple from "connect-pg-simple";
import type { RequestHandler } from "express";
import session from "express-session";
import type { Knex } from "knex";
import pg from "pg";
import type { Logger } from "pino";

export interface SignedIn {
  readonly accountId: string;
  readonly shopId: string;
  readonly name: string;
  readonly role: Role;
}

declare module "express-session" {
  interface SessionData {
    /** who it is; what the person may do is asked of the account each time */
    signedIn: { readonly accountId: string };
  }
}

export const SESSION_COOKIE = "gearsense.sid";
export const COOKIE = { httpOnly: true, sameSite: "strict", path: "/" } as const;

const TWO_WEEKS_MS = 14 * 24 * 3600 * 1000;

/** The secret that signs session cookies, made once and kept in the database, so that every server process shares it. */
export async function sessionSecret(db: Knex): Promise<string> {
  await db("setting")
    .insert({ name: "session-secret", value: randomBytes(32).toString("hex") })
    .onConflict("name")
    .ignore();
  const row = await db("setting").where({ name: "session-secret" }).first<{ value: string }>();
  return row.value;
}

/** Server-side sessions in PostgreSQL behind an http-only cookie. Close the pool at the end. */
export function sessions(
  databaseUrl: string,
  secret: string,
  log: Logger,
): { handler: RequestHandler; close: () => Promise<void> } {
  const Store = pgSimple(session);
  const pool = new pg.Pool({ connectionString: databaseUrl, max: 4 });
  // an idle connection that the database ends (a restart) is replaced by the pool; unheard, it would end the process
  pool.on("error", (err) => log.warn({ err }, "a connection for sessions was lost; the next request opens another"));
  const store = new Store({
    pool,
    tableName: "session",
    pruneSessionInterval: 3600,
    errorLog: (...about: unknown[]) => log.error({ about }, "sessions"),
  });
  return {
    handler: session({
      name: SESSION_COOKIE,
      store,
      secret,
      resave: false,
      saveUninitialized: false,
      rolling: true,
      // over TLS, as the proxy in front says, it is sent over TLS only
      cookie: { ...COOKIE, maxAge: TWO_WEEKS_MS, secure: "auto" },
    }),
    close: async () => {
      store.close();
      // end() does not wait until the connections are closed
      let open = pool.totalCount;
      const closed = new Promise<void>((done) => {
        if (open === 0) done();
        pool.on("remove", () => {
          open -= 1;
          if (open === 0) done();
        });
      });
      await pool.end();
      await closed;
    },
  };
}
