import { API } from "@gearsense/contract";
import { notFound } from "../http/errors.ts";
import type { Mount } from "../http/mount.ts";

/** How this server is reached. */
export interface Reach {
  /** only from this machine */
  readonly loopback: boolean;
  /** best first */
  readonly addresses: readonly string[];
  /** undefined: served without TLS */
  readonly certificate: { readonly pem: string; readonly fingerprint: string; readonly own: boolean } | undefined;
}

export function mountReach(mount: Mount, reach: Reach): void {
  const { certificate, loopback, addresses } = reach;
  mount(API.reach, async () => ({
    loopback,
    addresses: [...addresses],
    fingerprint: certificate?.fingerprint ?? null,
    ownCertificate: certificate?.own ?? false,
  }));
  // it is no secret: every connection shows it
  mount(API.certificate, async ({ res }) => {
    if (!certificate?.own) throw notFound("certificate");
    res.attachment("gearsense.crt");
    res.type("application/x-x509-ca-cert").send(certificate.pem);
  });
}
