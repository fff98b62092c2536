export interface Config {
  readonly databaseUrl: string;
  readonly port: number;
  readonly host: string;
  readonly quiet: boolean;
  readonly demo: boolean;
  /** folder of the built interface; undefined = API only */
  readonly webFolder: string | undefined;
}

/** Reads the configuration from the environment. @throws Error when the database address is missing */
export function readConfig(env: NodeJS.ProcessEnv): Config {
  const databaseUrl = env.DATABASE_URL;
  if (!databaseUrl) throw new Error("DATABASE_URL is not set; start the application with ./gearsense start");
  return {
    databaseUrl,
    port: Number(env.PORT ?? 4100),
    host: "127.0.0.1",
    quiet: env.QUIET === "1",
    demo: env.GEARSENSE_DEMO !== "0",
    webFolder: env.GEARSENSE_WEB ?? new URL("../../web/dist", import.meta.url).pathname,
  };
}
