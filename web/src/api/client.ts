import type { ApiName, BodyOf, ResponseOf } from "@gearsense/contract";
import { ROUTES } from "@gearsense/contract/routes";
import type { Entry } from "@gearsense/core/job";
import { heard, noAnswer } from "./network.ts";

/** A refusal of the server, or a network that is not there (`code` "offline"). */
export class ApiFailure extends Error {
  /** trouble that passes by itself, or by signing in again */
  readonly passes: boolean;
  readonly status: number;
  readonly code: string;
  readonly fields: Readonly<Record<string, string>>;
  readonly current: Entry | undefined;
  /** under which a write went out that was not answered */
  readonly writeKey: string | undefined;
  constructor(
    status: number,
    code: string,
    message: string,
    fields: Readonly<Record<string, string>> = {},
    current?: Entry,
    writeKey?: string,
  ) {
    super(message);
    // signed out, no network, a server that is ill: what was sent is not at fault and may be sent again
    this.passes = code === "offline" || status === 401 || status >= 500;
    this.status = status;
    this.code = code;
    this.fields = fields;
    this.current = current;
    this.writeKey = writeKey;
  }
}

const OFFLINE = "The server cannot be reached. What you typed is kept; try again when the network is back.";

interface ErrorBody {
  error?: { code?: string; message?: string; fields?: Record<string, string>; current?: Entry };
}

export function failureFrom(status: number, text: string): ApiFailure {
  let body: ErrorBody = {};
  try {
    body = JSON.parse(text) as ErrorBody;
  } catch {
    // not our server's answer: a proxy or a stopped server
  }
  const e = body.error;
  return new ApiFailure(
    status,
    e?.code ?? "unexpected",
    e?.message ?? `The server answered ${status}. Try again.`,
    e?.fields,
    e?.current,
  );
}

type Params = Readonly<Record<string, string>>;

export function urlOf(
  name: ApiName,
  params: Params = {},
  query: Readonly<Record<string, string | number>> = {},
): string {
  const filled = ROUTES[name].path.replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(params[key] ?? ""));
  const search = new URLSearchParams(Object.entries(query).map(([k, v]) => [k, String(v)])).toString();
  return search ? `${filled}?${search}` : filled;
}

export interface CallOptions<N extends ApiName> {
  readonly params?: Params;
  readonly query?: Readonly<Record<string, string | number>>;
  readonly body?: BodyOf<N> | Blob;
  readonly signal?: AbortSignal | undefined;
  /** of a write that is kept and sent again by itself: the same every time */
  readonly writeKey?: string;
}

/** Writes that may be sent once more when nobody knows whether the first arrived. */
const KEYED: ReadonlySet<ApiName> = new Set<ApiName>(["addEntry", "openJob", "analyseLog", "analyseAnew"]);
/** Keys of writes that were sent and not answered, by what was sent. */
const unanswered = new Map<string, string>();

/** An id for what is made on this device. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  // a random UUID, RFC 9562 section 5.4; `crypto.randomUUID` is missing where the page is served without TLS
  bytes[6] = ((bytes[6] as number) & 0x0f) | 0x40;
  bytes[8] = ((bytes[8] as number) & 0x3f) | 0x80;
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, "$1-$2-$3-$4-$5");
}

/** A key for one write. */
export const newKey = () => newId().replaceAll("-", "");

/** The same key for the same write until it is answered, so that the server stores it once. */
function keyOf(name: ApiName, what: string): string | undefined {
  if (!KEYED.has(name)) return undefined;
  const key = unanswered.get(what) ?? newKey();
  unanswered.set(what, key);
  return key;
}

/** The write is kept elsewhere now and goes up with its key from there: another of the same words is another write. */
export function releaseKey(key: string | undefined): void {
  for (const [what, k] of unanswered) if (k === key) unanswered.delete(what);
}

async function send<N extends ApiName>(name: N, options: CallOptions<N>): Promise<Response> {
  const { body, signal } = options;
  const raw = body instanceof Blob;
  const text = body === undefined || raw ? undefined : JSON.stringify(body);
  const what = `${urlOf(name, options.params, options.query)} ${text}`;
  const key = options.writeKey ?? keyOf(name, what);
  let response: Response;
  try {
    response = await fetch(urlOf(name, options.params, options.query), {
      method: ROUTES[name].method.toUpperCase(),
      ...(signal ? { signal } : {}),
      ...(body === undefined ? {} : { body: text ?? (body as Blob) }),
      headers: {
        ...(body === undefined ? {} : { "content-type": raw ? "application/octet-stream" : "application/json" }),
        ...(key ? { "idempotency-key": key } : {}),
      },
    });
  } catch (error) {
    if (signal?.aborted) throw error;
    noAnswer();
    throw new ApiFailure(0, "offline", OFFLINE, {}, undefined, key);
  }
  heard(response.headers);
  // a server in trouble may have stored it or not
  if (response.status < 500) unanswered.delete(what);
  if (!response.ok) throw failureFrom(response.status, await response.text());
  return response;
}

/** Calls a route of the contract. @throws ApiFailure */
export async function call<N extends ApiName>(name: N, options: CallOptions<N> = {}): Promise<ResponseOf<N>> {
  const response = await send(name, options);
  return (response.status === 204 ? undefined : await response.json()) as ResponseOf<N>;
}

export async function callBytes(name: ApiName, params: Params, signal?: AbortSignal): Promise<Uint8Array> {
  return new Uint8Array(await (await send(name, { params, signal })).arrayBuffer());
}

/** Calls a route that answers with a file. @throws ApiFailure */
export async function callFile<N extends ApiName>(name: N, options: CallOptions<N>): Promise<Blob> {
  return (await send(name, options)).blob();
}

/** Sends a file with progress. Only XMLHttpRequest tells how much has gone up. @throws ApiFailure; DOMException when aborted */
export function upload(
  url: string,
  file: Blob,
  onProgress: (share: number) => void,
  signal: AbortSignal,
): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", url);
    request.setRequestHeader("content-type", "application/octet-stream");
    request.upload.onprogress = (e) => e.lengthComputable && onProgress(e.loaded / e.total);
    request.onload = () =>
      request.status < 300
        ? resolve(JSON.parse(request.responseText))
        : reject(failureFrom(request.status, request.responseText));
    request.onerror = () =>
      reject(
        new ApiFailure(
          0,
          "offline",
          "The connection broke while the file was sent. Nothing was stored; send it again when the network is back.",
        ),
      );
    request.onabort = () => reject(new DOMException("Cancelled", "AbortError"));
    signal.addEventListener("abort", () => request.abort());
    request.send(file);
  });
}
