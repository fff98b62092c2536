import { type Readiness, useReadiness } from "../offline/register.ts";

const WORDS: Readonly<Record<Readiness, string>> = {
  ready:
    "Ready: without a network the application, the jobs that were opened here and what the library says of them are there; what is entered waits and goes up by itself. Logs and their traces are not kept.",
  "getting ready": "Getting ready: pages that are opened from now on will be there without a network.",
  "not from this address":
    "Entries wait on this device without a network, but a page that is not open cannot be opened then: a browser keeps pages only of an address that begins with https, or of the machine itself.",
  refused:
    "Entries wait on this device without a network, but a page that is not open cannot be opened then: this browser doesn’t trust the certificate of the shop yet. Install it on this device, then load this page anew.",
};

/** Whether this phone, tablet or computer can go on without a network. */
export function DevicePanel() {
  return (
    <section aria-label="This device" className="flex flex-col gap-2 border border-rule bg-panel p-4">
      <h2 className="text-xl">This device without a network</h2>
      <p role="status">{WORDS[useReadiness()]}</p>
    </section>
  );
}
