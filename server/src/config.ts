import type { TlsFrom } from "./reach/certificate.ts";

/** What a process of the server does: answer requests, do the work they ask for, or both. */
export type ProcessRole = "web" | "worker" | "all";

export interface Config {
  readonly role: ProcessRole;
  readonly databaseUrl: string;
  readonly port: number;
  /** address to listen on; any but loopback only with TLS */
  readonly host: string;
  /** files of a certificate, or the folder in which this server keeps its own; undefined: no TLS */
  readonly tls: TlsFrom | undefined;
  /** names by which this server is called besides its addresses */
  readonly allowedHosts: readonly string[];
  readonly quiet: boolean;
  readonly demo: boolean;
  readonly metricsToken: string | undefined;
  /** proxies in front whose word on the client's address is taken: a number of hops, or addresses; undefined: none */
  readonly trustProxy: number | string | undefined;
  /** machines that a link to a vehicle may lead to */
  readonly linkHosts: readonly string[];
  /** folder for copies of everything; undefined: none are kept */
  readonly backupFolder: string | undefined;
  /** folder of the built interface; undefined = API only */
  readonly webFolder: string | undefined;
}

function trustOf(text: string | undefined): number | string | undefined {
  if (!text) return undefined;
  return /^\d+$/.test(text) ? Number(text) : text;
}

const listOf = (text: string | undefined): string[] =>
  (text ?? "")
    .split(",")
    .map((h) => h.trim())
    .filter((h) => h !== "");

function roleOf(text: string): ProcessRole {
  if (text === "web" || text === "worker" || text === "all") return text;
  throw new Error(`ROLE=${text} is not known; it is web, worker or all (both, which it is when nothing is said)`);
}

/** Reads the configuration from the environment. @throws Error when the database address is missing or the role unknown */
export function readConfig(env: NodeJS.ProcessEnv): Config {
  const databaseUrl = env.DATABASE_URL;
  if (!databaseUrl) throw new Error("DATABASE_URL is not set; start the application with ./gearsense start");
  return {
    role: roleOf(env.ROLE || "all"),
    databaseUrl,
    port: Number(env.PORT ?? 4100),
    host: env.GEARSENSE_HOST || "127.0.0.1",
    tls: env.TLS_CERT
      ? { certPath: env.TLS_CERT, keyPath: env.TLS_KEY ?? "" }
      : env.TLS_FOLDER
        ? { folder: env.TLS_FOLDER }
        : undefined,
    allowedHosts: listOf(env.ALLOWED_HOSTS),
    quiet: env.QUIET === "1",
    trustProxy: trustOf(env.TRUST_PROXY),
    linkHosts: listOf(env.LINK_HOSTS ?? "127.0.0.1"),
    metricsToken: env.METRICS_TOKEN || undefined,
    backupFolder: env.BACKUP_FOLDER || undefined,
    demo: env.GEARSENSE_DEMO !== "0",
    webFolder: env.GEARSENSE_WEB ?? new URL("../../web/dist", import.meta.url).pathname,
  };
}
