import { randomUUID } from "node:crypto";
import type { Role } from "@gearsense/contract";
import { hash, verify } from "@node-rs/argon2";
import type { Knex } from "knex";

export interface Account {
  readonly id: string;
  readonly shopId: string;
  readonly name: string;
  readonly signIn: string;
  readonly role: Role;
}

export interface Shop {
  readonly id: string;
  readonly name: string;
  readonly currency: string;
  readonly hourlyRate: number;
}

interface AccountRow {
  id: string;
  shop_id: string;
  name: string;
  sign_in: string;
  password_hash: string;
  role: Role;
}

const toAccount = (r: AccountRow): Account => ({
  id: r.id,
  shopId: r.shop_id,
  name: r.name,
  signIn: r.sign_in,
  role: r.role,
});

/** A sign-in name as it is kept and compared: " Marl" and "marl" are one. */
export const normalName = (typed: string): string => typed.normalize("NFKC").trim().toLowerCase();

/** Accounts and shops. They stand above the shop scope: a sign-in name finds the shop. */
export function createAccountStore(db: Knex) {
  /** Verified against when the name is unknown, so that a wrong name takes as long as a wrong password. */
  let decoy: Promise<string> | undefined;
  return {
    async createShop(shop: Omit<Shop, "id">): Promise<Shop> {
      const made = { id: randomUUID(), ...shop };
      await db("shop").insert({ id: made.id, name: made.name, currency: made.currency, hourly_rate: made.hourlyRate });
      return made;
    },
    async createAccount(account: Omit<Account, "id">, password: string): Promise<Account> {
      const made = { id: randomUUID(), ...account };
      await db("account").insert({
        id: made.id,
        shop_id: made.shopId,
        name: made.name,
        sign_in: normalName(made.signIn),
        password_hash: await hash(password),
        role: made.role,
      });
      return made;
    },
    /** @returns undefined when name or password is wrong; which of the two is not told */
    async verify(signIn: string, password: string): Promise<Account | undefined> {
      const row = await db<AccountRow>("account")
        .where({ sign_in: normalName(signIn) })
        .first();
      decoy ??= hash("decoy");
      const ok = await verify(row?.password_hash ?? (await decoy), password);
      return row && ok ? toAccount(row) : undefined;
    },
    async account(id: string): Promise<Account | undefined> {
      const row = await db<AccountRow>("account").where({ id }).first();
      return row && toAccount(row);
    },
    async shop(id: string): Promise<Shop> {
      const row = await db("shop")
        .where({ id })
        .first<{ id: string; name: string; currency: string; hourly_rate: string }>();
      return { id: row.id, name: row.name, currency: row.currency, hourlyRate: Number(row.hourly_rate) };
    },
    async anyShop(): Promise<boolean> {
      return (await db("shop").first("id")) !== undefined;
    },
  };
}

export type AccountStore = ReturnType<typeof createAccountStore>;
