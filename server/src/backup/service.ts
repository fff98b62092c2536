import { createReadStream } from "node:fs";
import { join } from "node:path";
import type { Readable, Writable } from "node:stream";
import { type CopiesView, CopyRule, type CopyRuleData } from "@gearsense/contract";
import type { Knex } from "knex";
import type { Logger } from "pino";
import { HttpError, notFound } from "../http/errors.ts";
import { copiesIn, isDue, makeCopy, withClient } from "./copies.ts";
import { restoreBackup } from "./restore.ts";
import { writeBackup } from "./write.ts";

const USUAL: CopyRuleData = { everyHours: 24, keep: 7 };
const RULE = "copies";
const TROUBLE = "copies-trouble";
/** Somebody records: a recording gives a sign of life every second. */
const RECORDS_MS = 20_000;

/**
 * Backups as an owner makes them, and copies that are kept by themselves.
 * @param folder - where copies are kept; undefined: none are
 */
export function createBackupService(
  db: Knex,
  databaseUrl: string,
  folder: string | undefined,
  now: () => Date,
  log: Logger,
) {
  let running: number | null = null;
  const setting = async (name: string): Promise<unknown> => {
    const row = await db("setting").where({ name }).first<{ value: string } | undefined>();
    return row && JSON.parse(row.value);
  };
  const set = (name: string, value: unknown) =>
    db("setting")
      .insert({ name, value: JSON.stringify(value) })
      .onConflict("name")
      .merge();
  const rule = async (): Promise<CopyRuleData> => CopyRule.safeParse(await setting(RULE)).data ?? USUAL;
  const alone = async () => (await db("shop").limit(2).pluck("id")).length === 1;
  const where = (): string => {
    if (folder === undefined)
      throw new HttpError(
        409,
        "no-folder",
        "No copies are kept on this server: whoever runs it gives BACKUP_FOLDER, see docs/running.md.",
      );
    return folder;
  };
  const make = async (signal?: AbortSignal) => {
    running = 0;
    try {
      await makeCopy(databaseUrl, where(), "kept", (await rule()).keep, {
        madeAt: now(),
        signal,
        onBytes: (bytes) => {
          running = bytes;
        },
      });
      await db("setting").where({ name: TROUBLE }).delete();
    } finally {
      running = null;
    }
  };
  const view = async (): Promise<CopiesView> => ({
    copies: folder === undefined ? [] : await copiesIn(folder),
    rule: await rule(),
    kept: folder !== undefined,
    alone: await alone(),
    running,
    trouble: ((await setting(TROUBLE)) as CopiesView["trouble"] | undefined) ?? null,
  });
  const onlyAlone = async () => {
    if (!(await alone()))
      throw new HttpError(
        403,
        "several-shops",
        "Other shops are on this server too: a copy of everything is fetched and restored by whoever runs it, with ./gearsense restore.",
      );
  };
  const pathOf = async (name: string) => {
    await onlyAlone();
    const found = (await copiesIn(where())).find((c) => c.name === name);
    if (!found) throw notFound("copy");
    return { path: join(where(), found.name), bytes: found.bytes };
  };
  const restore = async (source: Readable, confirm: string, signal: AbortSignal) => {
    await onlyAlone();
    const shop = await db("shop").first<{ name: string }>();
    if (confirm.trim() !== shop.name)
      throw new HttpError(
        422,
        "not-confirmed",
        `Everything in this shop will be replaced: type its name, ${shop.name}, to confirm it. Nothing was changed.`,
        { fields: { confirm: `type ${shop.name}` } },
      );
    const lately = new Date(now().getTime() - RECORDS_MS);
    const held =
      (await db("recording").where({ state: "open" }).where("beat_at", ">", lately).first("id")) ??
      (await db("relearn").whereNot({ phase: "over" }).where("beat_at", ">", lately).first("id"));
    if (held)
      throw new HttpError(
        409,
        "link-open",
        "A link to a vehicle is in use: end the recording or the relearn first. Nothing was changed.",
      );
    const { madeAt, shops } = await withClient(databaseUrl, (client) => restoreBackup(client, source, { signal }));
    return { madeAt, shops };
  };
  return {
    view,
    alone,

    /** Makes a copy beside the rule. */
    async makeNow(signal: AbortSignal): Promise<CopiesView> {
      where();
      await make(signal);
      return view();
    },

    async keep(wanted: CopyRuleData): Promise<CopiesView> {
      await set(RULE, wanted);
      return view();
    },

    /** @throws HttpError 404; 403 where there are other shops */
    copy: pathOf,

    /** Everything of one shop, to a stream. */
    async write(shopId: string, sink: Writable, signal: AbortSignal): Promise<void> {
      const work = { madeAt: now(), signal, ...((await alone()) ? {} : { shopId }) };
      await withClient(databaseUrl, (client) => writeBackup(client, sink, work));
    },

    restore,

    async restoreCopy(name: string, confirm: string, signal: AbortSignal) {
      const { path } = await pathOf(name);
      return restore(createReadStream(path), confirm, signal);
    },

    /** Makes a copy when one is due; what goes wrong is kept for the page. Never throws. */
    async tick(): Promise<void> {
      if (folder === undefined || running !== null) return;
      try {
        if (isDue(await copiesIn(folder), await rule(), now())) await make();
      } catch (error) {
        if (error instanceof HttpError && error.code === "copy-runs") return;
        log.error({ err: error }, "the copy that was due could not be made");
        const message = error instanceof Error ? error.message : String(error);
        await set(TROUBLE, { at: now().toISOString(), message }).catch((e: unknown) =>
          log.error({ err: e }, "that could not be written down"),
        );
      }
    },
  };
}

export type BackupService = ReturnType<typeof createBackupService>;
