import type { QueryClient } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import { SAYS_GO_ON } from "./kept.ts";

/** Whether this device can go on without a network, and if not, why. */
export type Readiness = "ready" | "getting ready" | "not from this address" | "refused";
let readiness: Readiness = "getting ready";
const listeners = new Set<() => void>();
const become = (next: Readiness) => {
  readiness = next;
  for (const tell of listeners) tell();
};
const subscribe = (tell: () => void) => {
  listeners.add(tell);
  return () => void listeners.delete(tell);
};
export const useReadiness = (): Readiness => useSyncExternalStore(subscribe, () => readiness);

/** Has the service worker keep the application on this device; a browser allows it over TLS it trusts, or on the machine itself. */
export async function keepOnDevice(client: QueryClient): Promise<void> {
  if (!("serviceWorker" in navigator)) return become("not from this address");
  if (navigator.serviceWorker.controller) become("ready");
  else
    navigator.serviceWorker.addEventListener(
      "controllerchange",
      () => {
        become("ready");
        // what was asked before it listened is asked once more, so that it is kept
        void client.invalidateQueries();
      },
      { once: true },
    );
  try {
    await navigator.serviceWorker.register("/sw.js");
  } catch (error) {
    // a certificate that the device does not trust, or a browser told not to
    console.warn("Nothing is kept for times without a network:", error);
    become("refused");
  }
}

/** Loads the application anew, with the service worker that came with it. */
export async function loadAnew(): Promise<void> {
  const registration = await navigator.serviceWorker?.getRegistration();
  await registration?.update().catch(() => undefined);
  registration?.waiting?.postMessage(SAYS_GO_ON);
  window.location.reload();
}
