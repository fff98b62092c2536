import { createPrivateKey, X509Certificate } from "node:crypto";
import { mkdir, readFile, rename, writeFile } from "node:fs/promises";
import { isIP } from "node:net";
import { join } from "node:path";
import { generate } from "selfsigned";
import { isLoopback } from "./addresses.ts";

const DAY_MS = 24 * 3600 * 1000;
/** Browsers take none that lasts longer (CA/Browser Forum: 398 days for public ones; 825 for one's own). */
const LASTS_MS = 820 * DAY_MS;
/** Made anew so long before its end, so that it does not end on a working day. */
const ENDS_SOON_MS = 30 * DAY_MS;

export interface Certificate {
  readonly cert: string;
  readonly key: string;
  /** SHA-256 in pairs, as browsers show it */
  readonly fingerprint: string;
  readonly endsAt: Date;
  /** was it made just now */
  readonly fresh: boolean;
}

const read = (cert: string, key: string, fresh: boolean): Certificate => {
  const x = new X509Certificate(cert);
  return { cert, key, fingerprint: x.fingerprint256, endsAt: new Date(x.validTo), fresh };
};

/** Does it name all of these, and last a while? */
function fits(cert: string, names: readonly string[], now: Date): boolean {
  const x = new X509Certificate(cert);
  const named = (n: string) => (isIP(n) ? x.checkIP(n) : x.checkHost(n)) !== undefined;
  return Date.parse(x.validTo) - now.getTime() > ENDS_SOON_MS && names.every(named);
}

/**
 * The certificate of this machine: that of `folder`, or a new one when there is none, when it soon ends, or when it lacks a
 * name. It signs itself: a device has to be told once that it is the shop's.
 * @param names - addresses and names by which it is called
 */
export async function ownCertificate(folder: string, names: readonly string[], now: Date): Promise<Certificate> {
  const [certPath, keyPath] = [join(folder, "certificate.pem"), join(folder, "key.pem")];
  const kept = await Promise.all([readFile(certPath, "utf8"), readFile(keyPath, "utf8")]).catch(
    (error: NodeJS.ErrnoException) => {
      if (error.code === "ENOENT") return undefined;
      throw error;
    },
  );
  if (kept && fits(kept[0], names, now)) return read(kept[0], kept[1], false);
  const made = await generate([{ name: "commonName", value: `Gearsense at ${names[0] ?? "the bay"}` }], {
    keyType: "ec",
    curve: "P-256",
    algorithm: "sha256",
    notBeforeDate: new Date(now.getTime() - DAY_MS),
    notAfterDate: new Date(now.getTime() + LASTS_MS),
    extensions: [
      // so that a phone can be told to trust it
      { name: "basicConstraints", cA: true, critical: true },
      { name: "keyUsage", digitalSignature: true, keyCertSign: true, critical: true },
      { name: "extKeyUsage", serverAuth: true },
      {
        name: "subjectAltName",
        altNames: names.map((n) => (isIP(n) ? { type: 7 as const, ip: n } : { type: 2 as const, value: n })),
      },
    ],
  });
  await mkdir(folder, { recursive: true, mode: 0o700 });
  for (const [path, text] of [
    [keyPath, made.private],
    [certPath, made.cert],
  ] as const) {
    await writeFile(`${path}.part`, text, { mode: 0o600 });
    await rename(`${path}.part`, path);
  }
  return read(made.cert, made.private, true);
}

/** A certificate that whoever runs it has given. @throws Error when a file is missing, no certificate, or the key is another's */
export async function givenCertificate(certPath: string, keyPath: string): Promise<Certificate> {
  const [cert, key] = await Promise.all(
    [certPath, keyPath].map((path) =>
      readFile(path, "utf8").catch((error: NodeJS.ErrnoException) => {
        throw new Error(
          `${path} cannot be read (${error.code}). Give the files of the certificate and its key as PEM.`,
        );
      }),
    ),
  );
  try {
    if (new X509Certificate(cert as string).checkPrivateKey(createPrivateKey(key as string)))
      return read(cert as string, key as string, false);
  } catch (error) {
    throw new Error(`${certPath} and ${keyPath} aren’t a certificate and its key as PEM: ${(error as Error).message}`);
  }
  throw new Error(`The key in ${keyPath} isn’t that of the certificate in ${certPath}.`);
}

/** Files of a certificate, or the folder in which this server keeps its own. */
export type TlsFrom = { readonly certPath: string; readonly keyPath: string } | { readonly folder: string };

/**
 * The certificate to serve with on an address.
 * @param tls - undefined: none is wanted
 * @throws Error for anything but loopback without one: passwords would go in the clear
 */
export async function certificateFor(
  host: string,
  tls: TlsFrom | undefined,
  names: readonly string[],
  now: Date,
): Promise<Certificate | undefined> {
  if (tls)
    return "folder" in tls ? ownCertificate(tls.folder, names, now) : givenCertificate(tls.certPath, tls.keyPath);
  if (isLoopback(host)) return undefined;
  throw new Error(
    `GEARSENSE_HOST=${host} would send passwords in the clear: give TLS_CERT and TLS_KEY, or TLS_FOLDER for a certificate of its own`,
  );
}
