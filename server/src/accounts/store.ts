import { randomInt, randomUUID } from "node:crypto";
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

/** With what a customer is asked to pay and to agree to besides. */
export interface ShopTerms extends Shop {
  readonly taxPercent: number;
  readonly terms: string;
  /** whether its own proved jobs move the odds */
  readonly ownOdds: boolean;
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

/** Signs an account out everywhere. @param keep - of a session that stays */
async function endSessions(db: Knex, accountId: string, keep = ""): Promise<void> {
  await db("session").whereRaw("sess -> 'signedIn' ->> 'accountId' = ?", [accountId]).whereNot({ sid: keep }).delete();
}

/** Accounts and shops. They stand above the shop scope: a sign-in name finds the shop. */
const SETUP_CODE = "setup-code";
/** Letters and digits that nobody mistakes for one another on a screen across the room. */
const CODE_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789";
const newCode = (): string => {
  const letters = Array.from({ length: 8 }, () => CODE_LETTERS[randomInt(CODE_LETTERS.length)]).join("");
  return `${letters.slice(0, 4)}-${letters.slice(4)}`;
};

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
    async people(shopId: string): Promise<Account[]> {
      const rows = await db<AccountRow>("account").where({ shop_id: shopId }).orderBy("name");
      return rows.map(toAccount);
    },
    /** @returns false when the sign-in name is taken, in whichever shop */
    async addPerson(account: Omit<Account, "id">, password: string): Promise<boolean> {
      const made = await db("account")
        .insert({
          id: randomUUID(),
          shop_id: account.shopId,
          name: account.name,
          sign_in: normalName(account.signIn),
          password_hash: await hash(password),
          role: account.role,
        })
        .onConflict("sign_in")
        .ignore()
        .returning("id");
      return made.length > 0;
    },
    /**
     * Changes or removes somebody of a shop. The owners are held meanwhile, so that two who take each other's role at once do not
     * leave the shop without one.
     * @param change - what becomes of the account; undefined: it goes
     * @returns why not
     */
    async settlePerson(
      shopId: string,
      id: string,
      change:
        | {
            readonly name?: string | undefined;
            readonly role?: Role | undefined;
            readonly password?: string | undefined;
          }
        | undefined,
    ): Promise<"unknown" | "last-owner" | undefined> {
      const passwordHash = change?.password === undefined ? undefined : await hash(change.password);
      return db.transaction(async (trx) => {
        const owners = await trx<AccountRow>("account").where({ shop_id: shopId, role: "owner" }).forUpdate();
        const known = await trx<AccountRow>("account").where({ shop_id: shopId, id }).first();
        if (!known) return "unknown";
        const stays = change !== undefined && (change.role ?? known.role) === "owner";
        if (known.role === "owner" && !stays && owners.length < 2) return "last-owner";
        if (change === undefined) await trx("account").where({ id }).delete();
        else
          await trx("account")
            .where({ id })
            .update({
              name: change.name ?? known.name,
              role: change.role ?? known.role,
              password_hash: passwordHash ?? known.password_hash,
            });
        if (change === undefined || passwordHash !== undefined) await endSessions(trx, id);
        return undefined;
      });
    },
    /** @returns false when the password of now is another */
    async setOwnPassword(id: string, current: string, password: string, keepSession: string): Promise<boolean> {
      const row = await db<AccountRow>("account").where({ id }).first();
      if (!row || !(await verify(row.password_hash, current))) return false;
      const passwordHash = await hash(password);
      await db.transaction(async (trx) => {
        await trx("account").where({ id }).update({ password_hash: passwordHash });
        await endSessions(trx, id, keepSession);
      });
      return true;
    },
    async shop(id: string): Promise<ShopTerms & { readonly version: number }> {
      const row = await db("shop").where({ id }).first<{
        name: string;
        currency: string;
        hourly_rate: string;
        tax_percent: string;
        terms: string;
        own_odds: boolean;
        version: number;
      }>();
      const { name, currency, terms, version, own_odds: ownOdds } = row;
      const [hourlyRate, taxPercent] = [Number(row.hourly_rate), Number(row.tax_percent)];
      return { id, name, currency, hourlyRate, taxPercent, terms, ownOdds, version };
    },
    /** @returns false when somebody else has changed it since this version */
    async saveShop(shop: ShopTerms, baseVersion: number): Promise<boolean> {
      const changed = await db("shop")
        .where({ id: shop.id, version: baseVersion })
        .update({
          name: shop.name,
          currency: shop.currency,
          hourly_rate: shop.hourlyRate,
          tax_percent: shop.taxPercent,
          terms: shop.terms,
          own_odds: shop.ownOdds,
          version: baseVersion + 1,
        });
      return changed > 0;
    },
    /** The first shop and its owner. @returns undefined when there is a shop already, by whoever was quicker */
    async setUp(
      shop: Omit<Shop, "id">,
      owner: { readonly name: string; readonly signIn: string },
      password: string,
    ): Promise<Account | undefined> {
      return db.transaction(async (trx) => {
        await trx.raw("lock table shop in exclusive mode");
        const store = createAccountStore(trx);
        if (await store.anyShop()) return undefined;
        const { id: shopId } = await store.createShop(shop);
        await trx("setting").where({ name: SETUP_CODE }).delete();
        return store.createAccount({ ...owner, shopId, role: "owner" }, password);
      });
    },
    /** The code with which a fresh machine is set up, the same for all its processes; undefined once there is a shop. */
    async setupCode(): Promise<string | undefined> {
      if (await this.anyShop()) return undefined;
      await db("setting").insert({ name: SETUP_CODE, value: newCode() }).onConflict("name").ignore();
      return (await db("setting").where({ name: SETUP_CODE }).first<{ value: string }>()).value;
    },
    async anyShop(): Promise<boolean> {
      return (await db("shop").first("id")) !== undefined;
    },
  };
}

export type AccountStore = ReturnType<typeof createAccountStore>;
