import { connect } from "node:net";
import type { Wire } from "./session.ts";

const CONNECT_MS = 3000;

/** What an error of the system means for a link; a link that is written to after the other side went breaks as a pipe. */
const MEANS: Readonly<Record<string, string>> = {
  ECONNREFUSED: "nobody listens there",
  ECONNRESET: "the other side ended the link",
  EPIPE: "the other side ended the link",
};

/** A wire to an address of this machine or network. @throws Error in words when nobody is there */
export function tcpWire(host: string, port: number): Promise<Wire> {
  return new Promise((resolve, reject) => {
    const socket = connect({ host, port });
    socket.setNoDelay(true);
    socket.setEncoding("latin1");
    let take: (text: string) => void = () => undefined;
    let closed: (why: string) => void = () => undefined;
    let why = "the link is gone";
    const late = setTimeout(() => socket.destroy(new Error("nobody answered")), CONNECT_MS);
    socket.once("connect", () => {
      clearTimeout(late);
      resolve({
        send: (text) => {
          if (!socket.destroyed) socket.write(text, "latin1");
        },
        close: () => socket.destroy(),
        onText: (t) => {
          take = t;
        },
        onClose: (c) => {
          closed = c;
        },
      });
    });
    socket.on("data", (text: string) => take(text));
    socket.on("error", (e: NodeJS.ErrnoException) => {
      why = MEANS[e.code ?? ""] ?? e.message;
    });
    socket.once("close", () => {
      clearTimeout(late);
      reject(new Error(`${host}:${port}: ${why}.`));
      closed(why);
    });
  });
}
