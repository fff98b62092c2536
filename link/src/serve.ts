import { createServer, type Socket } from "node:net";
import { InOrder, LineClock } from "./bus-side.ts";
import type { Device } from "./device.ts";
import { type CanFrame, LineReader, readFrame, writeFrame } from "./frame.ts";

/** Somebody who does not read what the bus says is let go. */
const MOST_UNREAD_BYTES = 4 * 1024 * 1024;
const MOST_LISTENERS = 16;

export interface ServedDevice {
  readonly port: number;
  /** lets everybody go, and listens no more */
  readonly close: () => Promise<void>;
}

/**
 * A device on a port of this machine: frames as lines, both ways, for whoever listens.
 * @param o.port - 0: any that is free
 * @param o.lineMs - the time that its lines bear
 * @param o.everyMs - how often the device looks at its time
 * @param o.before - called before each look, with the time of this machine, ms
 * @throws Error of the system with `code` EADDRINUSE for a port that is taken
 */
export async function serveDevice(
  device: Device,
  o: { port: number; everyMs: number; lineMs: () => number; before?: (nowMs: number) => void },
): Promise<ServedDevice> {
  const clock = new LineClock();
  const sockets = new Set<Socket>();
  const say = (frames: readonly CanFrame[]) => {
    if (frames.length === 0) return;
    const text = frames.map((f) => `${writeFrame(f, clock.next(o.lineMs()))}\n`).join("");
    for (const s of sockets) {
      s.write(text);
      if (s.writableLength > MOST_UNREAD_BYTES) s.destroy();
    }
  };
  const server = createServer((socket) => {
    if (sockets.size >= MOST_LISTENERS) {
      socket.destroy();
      return;
    }
    sockets.add(socket);
    socket.setNoDelay(true);
    socket.setEncoding("latin1");
    const reader = new LineReader();
    const order = new InOrder();
    socket.on("data", (chunk: string) => {
      for (const line of reader.take(chunk)) {
        const read = readFrame(line);
        if (read && order.takes(read.frame, read.timeS)) say(device.hear(read.frame, performance.now()));
      }
    });
    socket.on("error", () => socket.destroy());
    socket.on("close", () => sockets.delete(socket));
  });
  const port = await new Promise<number>((resolve, reject) => {
    server.once("error", reject);
    server.listen(o.port, "127.0.0.1", () => {
      const address = server.address();
      resolve(typeof address === "object" && address ? address.port : o.port);
    });
  });
  const timer = setInterval(() => {
    const nowMs = performance.now();
    o.before?.(nowMs);
    say(device.tick(nowMs));
  }, o.everyMs);
  return {
    port,
    close: () =>
      new Promise((resolve) => {
        clearInterval(timer);
        for (const s of sockets) s.destroy();
        server.close(() => resolve());
      }),
  };
}
