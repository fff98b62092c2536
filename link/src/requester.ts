import type { EcuAddress } from "./addresses.ts";
import type { CanFrame } from "./frame.ts";
import { REFUSAL, readResponse, refusalWords } from "./services.ts";
import { TransportEndpoint, type TransportFailure } from "./transport.ts";

/** How long a tester waits, ms and times. */
export interface Patience {
  /** from the end of a request until its answer begins */
  readonly answerMs: number;
  /** after "pending" */
  readonly pendingMs: number;
  /** "pending" said more often than this counts as silence */
  readonly mostPending: number;
  /** asked again so often when it is busy, or nothing came */
  readonly again: number;
  readonly busyMs: number;
  /** all of it together */
  readonly wholeMs: number;
}

export const USUAL_PATIENCE: Patience = {
  answerMs: 600,
  pendingMs: 5200,
  mostPending: 30,
  again: 2,
  busyMs: 120,
  wholeMs: 60_000,
};

export type Outcome =
  | { readonly kind: "answer"; readonly data: Uint8Array }
  | { readonly kind: "refused"; readonly code: number; readonly words: string }
  | { readonly kind: "failed"; readonly why: string };

type Phase = "sending" | "answer" | "pending" | "resting";

const FAILURES: Readonly<Record<TransportFailure, string>> = {
  "no flow control": "the control unit stopped taking the request",
  "no consecutive frame": "the answer broke off",
  "wrong sequence number": "a part of the answer was lost",
  "too many waits": "the control unit asked to wait too often",
  "the other side has no room": "the control unit has no room for the request",
  "message too long": "the answer is longer than any that is read",
  "unknown flow status": "the control unit answered what no standard has",
};

/**
 * One question at a time to one control unit, until it is answered, refused, or given up with its reason. Pure: frames and time come
 * in, frames go out; it always ends, whatever the other side does.
 */
export class Requester {
  private readonly endpoint: TransportEndpoint;
  private readonly patience: Patience;
  private request: Uint8Array | undefined;
  private phase: Phase = "answer";
  private sinceMs = 0;
  private beganMs = 0;
  private tries = 0;
  private pendings = 0;
  private last = "";
  outcome: Outcome | undefined;

  constructor(address: EcuAddress, patience: Patience = USUAL_PATIENCE) {
    this.endpoint = new TransportEndpoint({ sends: address.request, hears: address.response });
    this.patience = patience;
  }

  get asking(): boolean {
    return this.request !== undefined && this.outcome === undefined;
  }

  /** @throws RangeError while another question is open */
  ask(request: Uint8Array, nowMs: number): CanFrame[] {
    if (this.asking) throw new RangeError("another question is open");
    this.request = request;
    this.outcome = undefined;
    this.tries = 0;
    this.pendings = 0;
    this.beganMs = nowMs;
    this.last = "the control unit did not answer";
    return this.begin(nowMs);
  }

  /** Ends an open question. */
  cancel(why: string): void {
    if (this.asking) this.end({ kind: "failed", why });
  }

  hear(frame: CanFrame, nowMs: number): CanFrame[] {
    if (!this.asking) return [];
    return this.take(this.endpoint.hear(frame, nowMs), nowMs);
  }

  tick(nowMs: number): CanFrame[] {
    if (!this.asking) return [];
    const { patience, phase } = this;
    if (nowMs - this.beganMs > patience.wholeMs) {
      this.end({ kind: "failed", why: `no answer within ${Math.round(patience.wholeMs / 1000)} s: ${this.last}` });
      return [];
    }
    const out = this.take(this.endpoint.tick(nowMs), nowMs);
    if (!this.asking) return out;
    const waited = nowMs - this.sinceMs;
    if (phase === "resting" && waited >= patience.busyMs) return [...out, ...this.begin(nowMs)];
    if (phase === "pending" && waited > patience.pendingMs) {
      this.end({ kind: "failed", why: "the control unit asked for more time and never answered" });
      return out;
    }
    if (phase === "answer" && waited > patience.answerMs && !this.endpoint.receivingNow)
      return [...out, ...this.again(nowMs)];
    return out;
  }

  private begin(nowMs: number): CanFrame[] {
    this.endpoint.reset();
    this.phase = "sending";
    this.sinceMs = nowMs;
    return this.take(this.endpoint.send(this.request as Uint8Array, nowMs), nowMs);
  }

  private again(nowMs: number): CanFrame[] {
    this.tries++;
    if (this.tries > this.patience.again) {
      this.end({ kind: "failed", why: `${this.last}, asked ${this.tries} times` });
      return [];
    }
    return this.begin(nowMs);
  }

  private take(events: ReturnType<TransportEndpoint["hear"]>, nowMs: number): CanFrame[] {
    const out: CanFrame[] = [];
    for (const e of events) {
      if (!this.asking) break;
      switch (e.kind) {
        case "frame":
          out.push(e.frame);
          break;
        case "sent":
          this.phase = "answer";
          this.sinceMs = nowMs;
          break;
        case "failed":
          this.last = FAILURES[e.why];
          if (e.why === "message too long") this.end({ kind: "failed", why: this.last });
          else out.push(...this.again(nowMs));
          break;
        case "message":
          this.answered(e.data, nowMs);
          break;
      }
    }
    return out;
  }

  private answered(message: Uint8Array, nowMs: number): void {
    const response = readResponse(this.request as Uint8Array, message);
    switch (response.kind) {
      case "stray":
        return;
      case "positive":
        this.end({ kind: "answer", data: response.data });
        return;
      case "pending":
        this.pendings++;
        this.phase = "pending";
        this.sinceMs = nowMs;
        if (this.pendings > this.patience.mostPending)
          this.end({ kind: "failed", why: "the control unit asks for more time again and again" });
        return;
      case "refused":
        if (response.code === REFUSAL.busy && this.tries < this.patience.again) {
          this.tries++;
          this.last = refusalWords(response.code);
          this.phase = "resting";
          this.sinceMs = nowMs;
          return;
        }
        this.end({ kind: "refused", code: response.code, words: refusalWords(response.code) });
    }
  }

  private end(outcome: Outcome): void {
    this.outcome = outcome;
    this.endpoint.reset();
  }
}
