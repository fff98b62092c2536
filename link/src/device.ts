import { FUNCTIONAL } from "./addresses.ts";
import { type Answer, Ecu, type EcuModel } from "./ecu.ts";
import type { CanFrame } from "./frame.ts";
import { NEGATIVE, REFUSAL } from "./services.ts";
import { TransportEndpoint } from "./transport.ts";

/** How a device misbehaves, 0…1 each; a sound one does nothing of it. */
export interface DeviceFaults {
  /** frames that get lost, either way */
  readonly lost?: number | undefined;
  /** requests that are answered with "busy" */
  readonly busy?: number | undefined;
  /** requests that are answered after "pending" */
  readonly slow?: number | undefined;
  readonly ignitionOff?: boolean | undefined;
}

/** Time a control unit takes for an answer, and longer when it asks for patience, ms. */
const ANSWER_MS = [4, 22] as const;
const PENDING_MS = 30;
const SLOW_MS = [150, 900] as const;

interface Waiting {
  readonly atMs: number;
  readonly data: Uint8Array;
}

/** Control units on one bus: frames come in, frames go out. Pure: time is told, chance is given. */
export class Device {
  private readonly units: { readonly ecu: Ecu; readonly endpoint: TransportEndpoint; queue: Waiting[] }[];
  private readonly faults: DeviceFaults;
  private readonly random: () => number;

  constructor(models: readonly EcuModel[], random: () => number, faults: DeviceFaults = {}) {
    this.random = random;
    this.faults = faults;
    this.units = models.map((model) => ({
      ecu: new Ecu(model),
      endpoint: new TransportEndpoint({ sends: model.address.response, hears: model.address.request, blockSize: 8 }),
      queue: [],
    }));
  }

  hear(frame: CanFrame, nowMs: number): CanFrame[] {
    if (this.faults.ignitionOff || this.chance(this.faults.lost)) return [];
    const out: CanFrame[] = [];
    for (const unit of this.units) {
      if (!unit.ecu.hears(frame.id) || frame.extended) continue;
      const functional = frame.id === FUNCTIONAL;
      // everybody is asked by single frames only
      if (functional && (frame.data[0] ?? 0xff) >> 4 !== 0) continue;
      const own = functional ? { ...frame, id: unit.ecu.model.address.request } : frame;
      for (const e of unit.endpoint.hear(own, nowMs)) {
        if (e.kind === "frame") out.push(e.frame);
        if (e.kind === "message") unit.queue.push(...this.answers(unit.ecu, e.data, functional, nowMs));
      }
    }
    return this.kept(out);
  }

  tick(nowMs: number): CanFrame[] {
    if (this.faults.ignitionOff) return [];
    const out: CanFrame[] = [];
    for (const unit of this.units) {
      unit.ecu.tick(nowMs);
      for (const e of unit.endpoint.tick(nowMs)) if (e.kind === "frame") out.push(e.frame);
      const [first] = unit.queue;
      if (!first || first.atMs > nowMs || unit.endpoint.busy) continue;
      unit.queue.shift();
      for (const e of unit.endpoint.send(first.data, nowMs)) if (e.kind === "frame") out.push(e.frame);
    }
    return this.kept(out);
  }

  private answers(ecu: Ecu, request: Uint8Array, functional: boolean, nowMs: number): Waiting[] {
    const service = request[0] as number;
    if (!functional && this.chance(this.faults.busy))
      return [{ atMs: nowMs + this.between(ANSWER_MS), data: Uint8Array.from([NEGATIVE, service, REFUSAL.busy]) }];
    const data = ecu.answer(request, functional, nowMs);
    if (!data) return [];
    const made: Answer[] = this.chance(this.faults.slow)
      ? [
          { afterMs: PENDING_MS, data: Uint8Array.from([NEGATIVE, service, REFUSAL.pending]) },
          { afterMs: PENDING_MS + this.between(SLOW_MS), data },
        ]
      : [{ afterMs: this.between(ANSWER_MS), data }];
    return made.map((a) => ({ atMs: nowMs + a.afterMs, data: a.data }));
  }

  private kept(frames: CanFrame[]): CanFrame[] {
    return this.faults.lost ? frames.filter(() => !this.chance(this.faults.lost)) : frames;
  }
  private chance(share: number | undefined): boolean {
    return share !== undefined && share > 0 && this.random() < share;
  }
  private between([low, high]: readonly [number, number]): number {
    return low + (high - low) * this.random();
  }
}
