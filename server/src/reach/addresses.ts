import { hostname, networkInterfaces } from "node:os";

export const LOOPBACK = ["127.0.0.1", "localhost", "::1"] as const;

export const isLoopback = (host: string): boolean => /^(127(?:\.\d{1,3}){3}|localhost|::1)$/.test(host);
const everywhere = (host: string) => host === "0.0.0.0" || host === "::";

/** IPv4 addresses of this machine in its networks; link-local ones lead nowhere. */
function ownAddresses(): string[] {
  return Object.values(networkInterfaces())
    .flatMap((list) => list ?? [])
    .filter((i) => i.family === "IPv4" && !i.internal && !i.address.startsWith("169.254."))
    .map((i) => i.address);
}

/**
 * Names by which devices of the bay may call a server that listens on `host`, those to be shown first.
 * @param more - names that whoever runs it has given besides
 */
export function namesOf(host: string, more: readonly string[]): string[] {
  const here = everywhere(host) ? [...ownAddresses(), hostname().toLowerCase()] : [host];
  return [...new Set([...more, ...here])];
}

/** A host as it stands in an address. */
export const inAddress = (host: string): string => (host.includes(":") ? `[${host}]` : host);
