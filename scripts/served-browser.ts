import { type ChildProcess, spawn } from "node:child_process";
import { type BrowserContext, chromium } from "@playwright/test";

function startServer(port: number): Promise<ChildProcess> {
  const child = spawn("scripts/e2e-server.sh", {
    env: { ...process.env, PORT: String(port), QUIET: "1" },
    stdio: ["ignore", "pipe", "inherit"],
  });
  return new Promise((resolve, reject) => {
    child.stdout?.on("data", (d: Buffer) => d.toString().includes("is ready") && resolve(child));
    child.on("exit", (code) => reject(new Error(`the server ended with ${code}`)));
  });
}

/**
 * The built application with demo data on a port of its own, and a browser signed in as a technician; both end when the
 * work is done.
 */
export async function withServedBrowser(port: number, work: (context: BrowserContext) => Promise<void>): Promise<void> {
  const server = await startServer(port);
  try {
    const browser = await chromium.launch({
      executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
      args: ["--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage", "--font-render-hinting=none"],
    });
    try {
      const context = await browser.newContext({
        viewport: { width: 1280, height: 800 },
        baseURL: `http://127.0.0.1:${port}`,
        extraHTTPHeaders: { "x-gearsense-client": "pictures" },
        locale: "en-GB",
      });
      // the runner of these scripts names functions by a helper that the page lacks
      await context.addInitScript("globalThis.__name = (f) => f");
      await context.request.post("/api/session", { data: { signIn: "iona", password: "skerrow-demo" } });
      await work(context);
    } finally {
      await browser.close();
    }
  } finally {
    server.removeAllListeners("exit");
    server.kill("SIGTERM");
  }
}
