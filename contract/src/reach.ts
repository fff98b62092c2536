import { z } from "zod";

/** How other devices reach the server. */
export const Reach = z
  .object({
    /** only from the machine itself */
    loopback: z.boolean(),
    /** best first */
    addresses: z.array(z.string()),
    /** of the certificate, SHA-256; null: without TLS */
    fingerprint: z.string().nullable(),
    /** made by the server itself: a device has to be told to trust it */
    ownCertificate: z.boolean(),
  })
  .meta({ id: "Reach" });
