// Guards: why a link ended is said in words, whoever closed it and whatever was on its way.
import { type AddressInfo, createServer, type Server, type Socket } from "node:net";
import { afterEach, beforeEach, describe, expect, it } from "@jest/globals";
import { tcpWire } from "./tcp.ts";

let server: Server;
let port: number;
let there: Promise<Socket>;
beforeEach(async () => {
  server = createServer();
  there = new Promise((r) => server.once("connection", r));
  await new Promise<void>((r) => server.listen(0, "127.0.0.1", r));
  port = (server.address() as AddressInfo).port;
});
afterEach(() => new Promise((r) => server.close(r)));

describe("a wire over TCP", () => {
  it("carries text both ways", async () => {
    const wire = await tcpWire("127.0.0.1", port);
    const heard = new Promise<string>((r) => wire.onText(r));
    const far = await there;
    const said = new Promise<string>((r) => far.once("data", (b) => r(b.toString("latin1"))));
    wire.send("a\n");
    far.write("b\n");
    expect([await said, await heard]).toEqual(["a\n", "b\n"]);
    wire.close();
  });
  it.each(["end", "reset"] as const)("whose other side goes by %s says that the link is gone", async (how) => {
    const wire = await tcpWire("127.0.0.1", port);
    const why = new Promise<string>((r) => wire.onClose(r));
    const far = await there;
    const talk = setInterval(() => wire.send("still here\n".repeat(50)), 1);
    if (how === "end") far.destroy();
    else far.resetAndDestroy();
    expect(await why).toMatch(/^(the link is gone|the other side ended the link)$/);
    clearInterval(talk);
    wire.send("nobody hears this\n");
  });
  it("to a port where nobody listens is refused with its address", async () => {
    await new Promise((r) => server.close(r));
    await expect(tcpWire("127.0.0.1", port)).rejects.toThrow(`127.0.0.1:${port}: nobody listens there.`);
    server = createServer();
    await new Promise<void>((r) => server.listen(0, "127.0.0.1", r));
  });
});
