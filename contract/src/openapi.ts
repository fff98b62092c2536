import { z } from "zod";
import { API } from "./api.ts";
import type { RouteSpec } from "./route.ts";
import { ApiError } from "./views.ts";

type Json = Record<string, unknown>;

/** JSON Schema of a Zod schema; shapes that core owns come out as open objects with a description. */
export function jsonSchemaOf(schema: z.ZodType): Json {
  const made = z.toJSONSchema(schema, { unrepresentable: "any", io: "output", reused: "inline" }) as Json;
  const { $schema: _dialect, ...rest } = made;
  return rest;
}

/** A schema as a document of its own, with its dialect, for other programs. */
export function publishedSchema(schema: z.ZodType, title: string): Json {
  const { $defs, $ref } = jsonSchemaOf(schema) as { $defs: Record<string, Json>; $ref: string };
  return { $schema: "https://json-schema.org/draft/2020-12/schema", title, ...$defs[$ref.replace("#/$defs/", "")] };
}

/** Named schemas are written once and referred to. @throws Error when a route's schema has no name */
function reference(schema: z.ZodType): Json {
  const id = schema.meta()?.id;
  if (!id) throw new Error("a schema of a route needs a name: .meta({ id })");
  return { $ref: `#/components/schemas/${id}` };
}

const header = (name: string, description: string): Json => ({
  name,
  in: "header",
  required: false,
  description,
  schema: { type: "string" },
});
const OF_WRITES: readonly Json[] = [
  header(
    "x-gearsense-client",
    "Says that a program writes; a page is told by its Origin instead. One of the two is needed.",
  ),
  header(
    "idempotency-key",
    "The same for every attempt at one write: 8 to 80 letters, digits, - and _. Heeded for jobs and entries.",
  ),
];

function operation(name: string, route: RouteSpec): Json {
  const parameters: Json[] = [...route.path.matchAll(/:(\w+)/g)].map((m) => ({
    name: m[1],
    in: "path",
    required: true,
    schema: { type: "string" },
  }));
  if (route.query) {
    const query = z.toJSONSchema(route.query, { unrepresentable: "any", io: "input" }) as {
      properties?: Record<string, Json>;
      required?: string[];
    };
    for (const [key, schema] of Object.entries(query.properties ?? {}))
      parameters.push({ name: key, in: "query", required: query.required?.includes(key) ?? false, schema });
  }
  if (route.method !== "get") parameters.push(...OF_WRITES);
  const bytes = { "application/octet-stream": { schema: { type: "string", format: "binary" } } };
  const content = (part: z.ZodType | "bytes") =>
    part === "bytes" ? bytes : { "application/json": { schema: reference(part) } };
  const error = {
    description: "What is wrong, where, and what to do",
    content: { "application/json": { schema: reference(ApiError) } },
  };
  return {
    operationId: name,
    summary: route.summary,
    ...(route.role ? { description: `Needs the role ${route.role} or a higher one.` } : { security: [] }),
    ...(parameters.length > 0 ? { parameters } : {}),
    ...(route.body ? { requestBody: { required: true, content: content(route.body) } } : {}),
    responses: {
      ...(route.response === "none"
        ? { 204: { description: "Done" } }
        : { 200: { description: "Done", content: content(route.response) } }),
      default: error,
    },
  };
}

/** The OpenAPI document, made from the routes. */
export function openApiDocument(): Json {
  const paths: Record<string, Json> = {};
  for (const [name, route] of Object.entries(API)) {
    const path = route.path.replace(/:(\w+)/g, "{$1}");
    const entry = paths[path] ?? {};
    entry[route.method] = operation(name, route);
    paths[path] = entry;
  }
  return {
    openapi: "3.1.0",
    info: {
      title: "Gearsense",
      version: "1",
      description: "Diagnosis and service of automatic and dual-clutch transmissions.",
    },
    components: {
      schemas: z.toJSONSchema(z.globalRegistry, { unrepresentable: "any", uri: (id) => `#/components/schemas/${id}` })
        .schemas,
      securitySchemes: { session: { type: "apiKey", in: "cookie", name: "gearsense.sid" } },
    },
    security: [{ session: [] }],
    paths,
  };
}
