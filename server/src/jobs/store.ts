import { randomUUID } from "node:crypto";
import { type Entry, type EntryBodies, slotOf } from "@gearsense/core/job";
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
    async all(): Promise<JobRecord[]> {
      return toRecords(await scope.from("job").orderByRaw("length(number) desc, number desc"));
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
        unit: JSON.stringify(job.unit),
        odometer_km: job.odometerKm,
        opened_at: job.openedAt,
      });
    },
    async entries(jobId: string): Promise<Entry[]> {
      const rows: EntryRow[] = await scope.from("entry").where({ job_id: jobId }).orderBy("seq");
      return rows.map(toEntry);
    },
    async entriesByJob(): Promise<Map<string, Entry[]>> {
      const rows: EntryRow[] = await scope.from("entry").orderBy(["job_id", "seq"]);
      const map = new Map<string, Entry[]>();
      for (const r of rows) map.set(r.job_id, [...(map.get(r.job_id) ?? []), toEntry(r)]);
      return map;
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

export type JobStore = ReturnType<typeof createJobStore>;
