import { timingSafeEqual } from "node:crypto";
import type { RequestHandler } from "express";
import { collectDefaultMetrics, Gauge, Histogram, Registry } from "prom-client";
import { HttpError } from "./errors.ts";

function same(a: string, b: string): boolean {
  const [x, y] = [Buffer.from(a), Buffer.from(b)];
  return x.length === y.length && timingSafeEqual(x, y);
}

/**
 * Figures of this process as Prometheus reads them: requests by route and answer, connections to the database, work that
 * waits and is done, what the runtime tells of itself. Given only to who brings the token of the setting `METRICS_TOKEN`; without one there are none.
 */
export function createMetrics(
  connections: () => Readonly<Record<string, number>>,
  work: () => Promise<readonly { kind: string; state: string; count: number }[]>,
  token: string | undefined,
): { /** has to see every request */ readonly measure: RequestHandler; readonly show: RequestHandler } {
  const registry = new Registry();
  collectDefaultMetrics({ register: registry });
  const took = new Histogram({
    name: "gearsense_request_seconds",
    help: "time to the end of an answer, by route of the contract",
    labelNames: ["method", "route", "status"],
    buckets: [0.01, 0.05, 0.1, 0.5, 1, 5, 20, 60],
    registers: [registry],
  });
  new Gauge({
    name: "gearsense_database_connections",
    help: "connections of the pool, by what they do",
    labelNames: ["state"],
    registers: [registry],
    collect() {
      for (const [state, count] of Object.entries(connections())) this.set({ state }, count);
    },
  });
  new Gauge({
    name: "gearsense_work",
    help: "pieces of work in the queue that all processes share, by kind and state",
    labelNames: ["kind", "state"],
    registers: [registry],
    async collect() {
      this.reset();
      for (const { kind, state, count } of await work()) this.set({ kind, state }, count);
    },
  });
  const show: RequestHandler = async (req, res) => {
    const given = /^Bearer (.+)$/.exec(req.get("authorization") ?? "")?.[1] ?? "";
    if (!token || !same(given, token))
      throw new HttpError(404, "not-found", "The API doesn’t have this address; see /api/openapi.json.");
    res.setHeader("content-type", registry.contentType);
    res.end(await registry.metrics());
  };
  const measure: RequestHandler = (req, res, next) => {
    const began = process.hrtime.bigint();
    res.on("finish", () => {
      // by the route as it is written, never by what was asked: ids would make a row each
      const route = typeof res.locals.route === "string" ? res.locals.route : "none";
      took.observe(
        { method: req.method, route, status: String(res.statusCode) },
        Number(process.hrtime.bigint() - began) / 1e9,
      );
    });
    next();
  };
  return { measure, show };
}
