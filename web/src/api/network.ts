import { useSyncExternalStore } from "react";

/** What the last answers told of the network and of the server behind it. */
export interface Network {
  /** since when no answer came from the server itself, milliseconds; undefined: it answers */
  readonly cutSinceMs: number | undefined;
  /** when the oldest of what is shown now was kept on this device, milliseconds; undefined: all is from the server */
  readonly keptAtMs: number | undefined;
  /** application or library changed on the server since this page was loaded */
  readonly renewed: boolean;
}

/** Set by the service worker on an answer that it kept: when it came from the server. */
export const KEPT_HEADER = "x-gearsense-kept";
/** Set by the server: names its application and library. */
export const VERSION_HEADER = "x-gearsense-version";

let now: Network = { cutSinceMs: undefined, keptAtMs: undefined, renewed: false };
let firstVersion: string | undefined;
const listeners = new Set<() => void>();
const become = (next: Network) => {
  now = next;
  for (const tell of listeners) tell();
};

/** No answer came at all. */
export function noAnswer(): void {
  if (now.cutSinceMs === undefined) become({ ...now, cutSinceMs: Date.now() });
}

/** An answer came, from the server or kept on this device. */
export function heard(headers: Headers): void {
  const version = headers.get(VERSION_HEADER);
  firstVersion ??= version ?? undefined;
  const renewed = now.renewed || (version !== null && version !== firstVersion);
  const kept = headers.get(KEPT_HEADER);
  if (kept !== null) {
    const atMs = Date.parse(kept);
    const keptAtMs = Math.min(now.keptAtMs ?? atMs, atMs);
    become({ cutSinceMs: now.cutSinceMs ?? Date.now(), keptAtMs, renewed });
  } else if (now.cutSinceMs !== undefined || renewed !== now.renewed)
    become({ cutSinceMs: undefined, keptAtMs: undefined, renewed });
}

/** For tests: as a page that has just been loaded. */
export function forgetNetwork(): void {
  firstVersion = undefined;
  become({ cutSinceMs: undefined, keptAtMs: undefined, renewed: false });
}

const subscribe = (tell: () => void) => {
  listeners.add(tell);
  return () => void listeners.delete(tell);
};
export const networkNow = (): Network => now;
export const useNetwork = (): Network => useSyncExternalStore(subscribe, networkNow);
