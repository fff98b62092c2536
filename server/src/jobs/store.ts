import { randomUUID } from "node:crypto";
import type { JobSummaryView } from "@gearsense/contract";
import { type Entry, type EntryBodies, slotOf } from "@gearsense/core/job";
import type { ProvedJob } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import type { ShopScope } from "../db/shop-scope.ts";

export interface JobRecord {
  readonly id: string;
  readonly number: string;
  readonly unit: Unit;
  readonly odometerKm: number;
  readonly openedAt: string;
  readonly vehicle: VehicleRecord;
}

export interface VehicleRecord {
  readonly id: string;
  readonly name: string;
  readonly plate: string;
  readonly owner: string;
  readonly vin: string;
}

interface JobRow {
  id: string;
  number: string;
  vehicle_id: string;
  unit_id: string;
  unit: Unit;
  odometer_km: number;
  opened_at: Date;
}

interface EntryRow {
  id: string;
  job_id: string;
  seq: number;
  at: Date;
  author: string;
  source: Entry["source"];
  kind: Entry["kind"];
  slot: string;
  body: unknown;
}

const toEntry = (r: EntryRow): Entry =>
  ({
    id: r.id,
    seq: r.seq,
    at: r.at.toISOString(),
    author: r.author,
    source: r.source,
    kind: r.kind,
    // codes were kept one for all modules at first
    slot: r.kind === "code" ? slotOf("code", r.body as EntryBodies["code"], r.id) : r.slot,
    body: r.body,
  }) as Entry;

/** What a list shows of a job beside its vehicle and unit; made of the timeline with every entry. */
export type JobHead = Pick<JobSummaryView, "stage" | "waitsFor" | "complaint" | "done" | "assignedTo" | "lastEntryAt">;

export interface HeadsWanted {
  readonly which: "all" | "open" | "closed";
  readonly find: string;
  readonly limit: number;
  readonly after?: string | undefined;
  /** only this person's */
  readonly assignedTo?: string | undefined;
}

interface HeadRow extends Omit<VehicleRecord, "id"> {
  id: string;
  number: string;
  vehicle_id: string;
  unit_id: string;
  unit_name: string;
  odometer_km: number;
  opened_at: Date;
  stage: JobSummaryView["stage"] | null;
  waits_for: string;
  complaint: string;
  done: string;
  assigned_to: string;
  last_entry_at: Date | null;
}

const FOUND_IN = `concat_ws(' ', job.number, vehicle.name, vehicle.plate, replace(vehicle.plate, ' ', ''), vehicle.owner,
  vehicle.vin, job.unit_name, job.complaint, job.done)`;
/** Fewer letters mean too many vehicles. */
const LEAST_TYPED = 3;
const plain = (s: string) => s.toLowerCase().replace(/[\s-]/g, "");

/** Heads with their vehicles; never the unit file, which is larger than all the rest. */
const headsOf = (scope: ShopScope) =>
  scope
    .from("job")
    .join("vehicle", (on) => on.on("vehicle.id", "job.vehicle_id").andOn("vehicle.shop_id", "job.shop_id"))
    .select(
      ...["id", "number", "vehicle_id", "unit_id", "unit_name", "odometer_km", "opened_at"].map((c) => `job.${c}`),
      ...["stage", "waits_for", "complaint", "done", "assigned_to", "last_entry_at"].map((c) => `job.${c}`),
      ...["name", "plate", "owner", "vin"].map((c) => `vehicle.${c}`),
    );

const toSummary = (r: HeadRow): JobSummaryView => ({
  id: r.id,
  number: r.number,
  vehicle: { id: r.vehicle_id, name: r.name, plate: r.plate, owner: r.owner, vin: r.vin },
  unitId: r.unit_id,
  unitName: r.unit_name,
  odometerKm: r.odometer_km,
  openedAt: r.opened_at.toISOString(),
  stage: r.stage ?? "intake",
  waitsFor: r.waits_for,
  complaint: r.complaint,
  done: r.done,
  assignedTo: r.assigned_to,
  lastEntryAt: (r.last_entry_at ?? r.opened_at).toISOString(),
});

/** The first job of a shop is one more. */
const BEFORE_FIRST = 400;

/** Jobs, vehicles and timelines of one shop. */
export function createJobStore(scope: ShopScope) {
  const vehicles = async (ids: readonly string[]) => {
    const rows: VehicleRecord[] = await scope
      .from("vehicle")
      .whereIn("id", [...ids])
      .select("id", "name", "plate", "owner", "vin");
    return new Map(rows.map((v) => [v.id, v]));
  };
  const toRecords = async (rows: readonly JobRow[]): Promise<JobRecord[]> => {
    const byId = await vehicles(rows.map((r) => r.vehicle_id));
    return rows.map((r) => ({
      id: r.id,
      number: r.number,
      unit: r.unit,
      odometerKm: r.odometer_km,
      openedAt: r.opened_at.toISOString(),
      vehicle: byId.get(r.vehicle_id) as VehicleRecord,
    }));
  };
  return {
    /** Heads of jobs, newest number first: one more than asked for, when there are more. */
    async heads({ which, find, limit, after, assignedTo }: HeadsWanted): Promise<JobSummaryView[]> {
      const query = headsOf(scope)
        .orderByRaw("length(job.number) desc, job.number desc")
        .limit(limit + 1);
      if (which === "closed") query.where("job.stage", "closed");
      if (which === "open") query.whereNot("job.stage", "closed");
      if (assignedTo) query.where("job.assigned_to", assignedTo);
      if (after) query.whereRaw("(length(job.number), job.number) < (length(?::text), ?::text)", [after, after]);
      for (const word of find.split(/\s+/).filter((w) => w !== ""))
        query.where((q) => {
          const like = `%${word.replace(/[\\%_]/g, "\\$&")}%`;
          q.whereRaw(`${FOUND_IN} ilike ?`, [like]);
          // of fewer letters the index knows nothing, and they would be found everywhere
          if (word.length >= LEAST_TYPED)
            q.orWhereIn("job.id", scope.from("job").whereRaw("words ilike ?", [like]).select("id"));
        });
      return ((await query) as HeadRow[]).map(toSummary);
    },
    /** How many jobs there are of each stage. @param assignedTo - only this person's */
    async byStage(assignedTo?: string): Promise<Partial<Record<JobSummaryView["stage"], number>>> {
      const rows: { stage: JobSummaryView["stage"]; jobs: string }[] = await scope
        .from("job")
        .whereNotNull("stage")
        .modify((query) => {
          if (assignedTo) query.where({ assigned_to: assignedTo });
        })
        .groupBy("stage")
        .select("stage")
        .count({ jobs: "*" });
      return Object.fromEntries(rows.map((r) => [r.stage, Number(r.jobs)]));
    },
    /** Jobs whose head was never made of their timeline, or not all of it: those of before there were such. */
    async withoutHead(most: number): Promise<string[]> {
      return scope
        .from("job")
        .where((q) => q.whereNull("stage").orWhereNull("words"))
        .limit(most)
        .pluck("id");
    },
    async setHead(jobId: string, head: JobHead & { readonly words: string }): Promise<void> {
      await scope.from("job").where({ id: jobId }).update({
        stage: head.stage,
        waits_for: head.waitsFor,
        complaint: head.complaint,
        done: head.done,
        assigned_to: head.assignedTo,
        last_entry_at: head.lastEntryAt,
        words: head.words,
      });
    },
    /** Closed jobs of which it is not worked out what they have shown. */
    async withoutProved(most: number): Promise<string[]> {
      return scope.from("job").where({ stage: "closed" }).whereNull("proved").limit(most).pluck("id");
    },
    async setProved(jobId: string, proved: readonly ProvedJob[]): Promise<void> {
      await scope
        .from("job")
        .where({ id: jobId })
        .update({ proved: JSON.stringify(proved) });
    },
    /** What the newest proved jobs have shown. @param except - a job that is judged by the others */
    async proved(most: number, except?: string): Promise<ProvedJob[]> {
      const lists: (readonly ProvedJob[])[] = await scope
        .from("job")
        .whereRaw("proved <> '[]'")
        .modify((query) => {
          if (except !== undefined) query.whereNot({ id: except });
        })
        .orderBy("last_entry_at", "desc")
        .limit(most)
        .pluck("proved");
      return lists.flat();
    },
    /** Vehicles that what is typed may mean, those with the newest jobs first, with the heads of their jobs. */
    async vehiclesLike(
      typed: Omit<VehicleRecord, "id">,
      most: number,
    ): Promise<(VehicleRecord & { jobs: JobSummaryView[] })[]> {
      const query = scope.from("vehicle").select<VehicleRecord[]>("id", "name", "plate", "owner", "vin").limit(most);
      const begun = (["name", "plate", "owner", "vin"] as const)
        .map((column) => [column, plain(typed[column])] as const)
        .filter(([, text]) => text.length >= LEAST_TYPED);
      if (begun.length > 0)
        query.where((any) => {
          for (const [column, text] of begun)
            any.orWhereRaw(`lower(regexp_replace(vehicle.${column}, '[\\s-]', '', 'g')) like ?`, [
              `${text.replace(/[\\%_]/g, "\\$&")}%`,
            ]);
        });
      query.orderByRaw(
        "(select max(opened_at) from job where job.vehicle_id = vehicle.id and job.shop_id = vehicle.shop_id) desc nulls last",
      );
      const found = (await query) as VehicleRecord[];
      const rows: HeadRow[] = await headsOf(scope)
        .whereIn(
          "job.vehicle_id",
          found.map((v) => v.id),
        )
        .orderBy("job.opened_at", "desc");
      return found.map((v) => ({ ...v, jobs: rows.filter((r) => r.vehicle_id === v.id).map(toSummary) }));
    },
    async ofVehicle(vehicleId: string): Promise<JobRecord[]> {
      return toRecords(await scope.from("job").where({ vehicle_id: vehicleId }));
    },
    async byId(id: string): Promise<JobRecord | undefined> {
      return (await toRecords(await scope.from("job").where({ id })))[0];
    },
    /** Locks the job's row until the transaction ends, so that entries get their numbers one after another. */
    async lock(id: string): Promise<boolean> {
      return (await scope.from("job").where({ id }).forUpdate().first("id")) !== undefined;
    },
    /** The next number of the shop's own sequence. Others that open a job wait for the end of this transaction. */
    async nextNumber(): Promise<string> {
      await scope.insertNew("job_number", { last: BEFORE_FIRST });
      for (;;) {
        const [row] = await scope.from("job_number").increment("last", 1).returning<{ last: number }[]>("last");
        const number = String(row?.last).padStart(4, "0");
        // one that an imported job brought with it
        if (!(await this.numberTaken(number))) return number;
      }
    },
    /** Goes on after a number that was given. */
    async continueFrom(number: string): Promise<void> {
      await scope.insertNew("job_number", { last: BEFORE_FIRST });
      await scope
        .from("job_number")
        .where("last", "<", Number(number))
        .update({ last: Number(number) });
    },
    /** Keeps the key of a write. @returns the job that it was for, when it was kept before */
    async writtenBefore(key: string, jobId: string, at: Date): Promise<string | undefined> {
      if (await scope.insertNew("write_key", { key, job_id: jobId, at })) return undefined;
      return (await scope.from("write_key").where({ key }).first<{ job_id: string }>("job_id")).job_id;
    },
    async numberTaken(number: string): Promise<boolean> {
      return (await scope.from("job").where({ number }).first("id")) !== undefined;
    },
    /**
     * The same vehicle comes again: found by its identification number, else by plate, else by name and owner. A number
     * that was not known before is kept with it.
     */
    async vehicleFor(v: Omit<VehicleRecord, "id">): Promise<string> {
      const { vin, ...rest } = v;
      const known =
        (vin &&
          (await scope
            .from("vehicle")
            .where({ vin, owner: v.owner })
            .first<{ id: string; vin: string }>("id", "vin"))) ||
        (await scope
          .from("vehicle")
          .where(v.plate ? rest : { name: v.name, owner: v.owner })
          .whereIn("vin", ["", vin])
          .first<{ id: string; vin: string }>("id", "vin"));
      if (known) {
        if (vin && known.vin === "") await scope.from("vehicle").where({ id: known.id }).update({ vin });
        return known.id;
      }
      const id = randomUUID();
      await scope.insert("vehicle", { id, ...v });
      return id;
    },
    /** Sets vehicle, unit and mileage of a job right. A vehicle that no job is left of goes. */
    async setIdentity(
      jobId: string,
      to: { readonly vehicle: Omit<VehicleRecord, "id">; readonly unit: Unit; readonly odometerKm: number },
    ): Promise<void> {
      const job = (await scope.from("job").where({ id: jobId }).first<JobRow>()) as JobRow;
      const others = await scope
        .from("job")
        .where({ vehicle_id: job.vehicle_id })
        .whereNot({ id: jobId })
        .first<{ id: string } | undefined>("id");
      const vehicleId = await this.vehicleFor(to.vehicle);
      await scope
        .from("job")
        .where({ id: jobId })
        .update({
          vehicle_id: vehicleId,
          unit_id: to.unit.id,
          unit_name: to.unit.name,
          unit: JSON.stringify(to.unit),
          odometer_km: to.odometerKm,
        });
      if (vehicleId === job.vehicle_id)
        await scope.from("vehicle").where({ id: vehicleId }).update({ vin: to.vehicle.vin });
      else if (!others) await scope.from("vehicle").where({ id: job.vehicle_id }).delete();
    },
    async insertJob(job: {
      id: string;
      number: string;
      vehicleId: string;
      unit: Unit;
      odometerKm: number;
      openedAt: string;
    }): Promise<void> {
      await scope.insert("job", {
        id: job.id,
        number: job.number,
        vehicle_id: job.vehicleId,
        unit_id: job.unit.id,
        unit_name: job.unit.name,
        unit: JSON.stringify(job.unit),
        odometer_km: job.odometerKm,
        opened_at: job.openedAt,
      });
    },
    async entries(jobId: string): Promise<Entry[]> {
      const rows: EntryRow[] = await scope.from("entry").where({ job_id: jobId }).orderBy("seq");
      return rows.map(toEntry);
    },
    async insertEntries(jobId: string, entries: readonly Entry[]): Promise<void> {
      if (entries.length === 0) return;
      await scope.insert(
        "entry",
        entries.map((e) => ({ ...e, job_id: jobId, body: JSON.stringify(e.body) })),
      );
    },
  };
}
