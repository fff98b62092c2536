// The server ends when it is asked to, whatever its clients are doing.
import { spawn } from "node:child_process";
import { once } from "node:events";
import { connect } from "node:net";
import { expect, test } from "@playwright/test";

const PORT = 4179;

test("Ctrl-C ends a server whose clients are in the middle of something", async () => {
  const server = spawn("scripts/e2e-server.sh", {
    env: { ...process.env, PORT: String(PORT), GEARSENSE_DEMO: "0" },
    stdio: ["ignore", "pipe", "inherit"],
  });
  const ended = once(server, "exit");
  await new Promise<void>((ready) => server.stdout.on("data", (d: Buffer) => d.includes("is ready") && ready()));
  // one who has sent half a request and waits, one who reads nothing of what comes
  const half = connect(PORT, "127.0.0.1");
  half.on("error", () => undefined);
  half.write("POST /api/session HTTP/1.1\r\nhost: x\r\ncontent-length: 100\r\ncontent-type: application/json\r\n\r\n{");
  const deaf = connect(PORT, "127.0.0.1");
  deaf.on("error", () => undefined);
  deaf.pause();
  deaf.write("GET /api/openapi.json HTTP/1.1\r\nhost: x\r\n\r\n".repeat(50));
  await Promise.all([once(half, "connect"), once(deaf, "connect")]);
  server.kill("SIGINT");
  const [code] = await ended;
  expect(code).toBe(0);
});
