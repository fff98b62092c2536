import { randomBytes } from "node:crypto";
import type { Role } from "@gearsense/contract";
import pgSimple from "connect-pg-simple";
import type { RequestHandler } from "express";
import session from "express-session";
import type { Knex } from "knex";
import pg from "pg";

export interface SignedIn {
  readonly accountId: string;
  readonly shopId: string;
  readonly name: string;
  readonly role: Role;
}

declare module "express-session" {
  interface SessionData {
    signedIn: SignedIn;
  }
}

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
export function sessions(databaseUrl: string, secret: string): { handler: RequestHandler; close: () => Promise<void> } {
  const Store = pgSimple(session);
  const pool = new pg.Pool({ connectionString: databaseUrl, max: 4 });
  const store = new Store({ pool, tableName: "session", pruneSessionInterval: 3600 });
  return {
    handler: session({
      name: "gearsense.sid",
      store,
      secret,
      resave: false,
      saveUninitialized: false,
      rolling: true,
      cookie: { httpOnly: true, sameSite: "strict", maxAge: TWO_WEEKS_MS, path: "/" },
    }),
    close: async () => {
      store.close();
      await pool.end();
    },
  };
}
