import type { API, ApiName, BodyOf, ResponseOf } from "@gearsense/contract";
import type { Entry } from "@gearsense/core/job";

/** A refusal of the server, or a network that is not there (`code` "offline"). */
export class ApiFailure extends Error {
  readonly status: number;
  readonly code: string;
  readonly fields: Readonly<Record<string, string>>;
  readonly current: Entry | undefined;
  constructor(
    status: number,
    code: string,
    message: string,
    fields: Readonly<Record<string, string>> = {},
    current?: Entry,
  ) {
    super(message);
    this.status = status;
    this.code = code;
    this.fields = fields;
    this.current = current;
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

/** Method and path of each route. Types come from the contract; its schemas stay out of the first load. */
const ROUTES = {
  health: "get /api/health",
  signIn: "post /api/session",
  session: "get /api/session",
  signOut: "delete /api/session",
  jobs: "get /api/jobs",
  openJob: "post /api/jobs",
  job: "get /api/jobs/:jobId",
  addEntry: "post /api/jobs/:jobId/entries",
  vehicles: "get /api/vehicles",
  observations: "get /api/observations",
  uploadPhoto: "post /api/jobs/:jobId/photos",
  photo: "get /api/jobs/:jobId/photos/:photoId",
  calendar: "post /api/calendar",
  uploadLog: "post /api/jobs/:jobId/logs",
  samples: "get /api/jobs/:jobId/samples",
  sample: "get /api/jobs/:jobId/samples/:name",
  rawLog: "get /api/jobs/:jobId/logs/:logId/raw",
  analyseLog: "post /api/jobs/:jobId/logs/:logId/analysis",
  analysis: "get /api/jobs/:jobId/logs/:logId/analysis",
  analyses: "get /api/jobs/:jobId/logs/:logId/analyses",
  analyseAnew: "post /api/jobs/:jobId/logs/:logId/analyses",
  importProfiles: "get /api/import-profiles",
  saveImportProfile: "post /api/import-profiles",
  dropImportProfile: "delete /api/import-profiles/:name",
  suspects: "get /api/jobs/:jobId/suspects",
  orders: "get /api/jobs/:jobId/orders",
  knowledge: "get /api/knowledge",
  estimatePdf: "get /api/jobs/:jobId/estimate.pdf",
  catalogue: "get /api/jobs/:jobId/catalogue",
  proof: "get /api/jobs/:jobId/proof",
  report: "get /api/jobs/:jobId/report",
  reportPdf: "get /api/jobs/:jobId/report.pdf",
  exportJob: "get /api/jobs/:jobId/export",
  importJob: "post /api/import",
  units: "get /api/units",
  saveUnit: "post /api/units",
  unitVersions: "get /api/units/:unit/versions",
  unitVersion: "get /api/units/:unit/versions/:version",
  unitSchema: "get /api/schemas/unit.json",
  cautions: "get /api/cautions",
  openapi: "get /api/openapi.json",
} as const satisfies { [N in ApiName]: `${(typeof API)[N]["method"]} ${(typeof API)[N]["path"]}` };

type Params = Readonly<Record<string, string>>;

export function urlOf(
  name: ApiName,
  params: Params = {},
  query: Readonly<Record<string, string | number>> = {},
): string {
  const path = ROUTES[name].split(" ")[1] as string;
  const filled = path.replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(params[key] ?? ""));
  const search = new URLSearchParams(Object.entries(query).map(([k, v]) => [k, String(v)])).toString();
  return search ? `${filled}?${search}` : filled;
}

export interface CallOptions<N extends ApiName> {
  readonly params?: Params;
  readonly query?: Readonly<Record<string, string | number>>;
  readonly body?: BodyOf<N> | Blob;
  readonly signal?: AbortSignal | undefined;
}

async function send<N extends ApiName>(name: N, options: CallOptions<N>): Promise<Response> {
  const { body, signal } = options;
  const raw = body instanceof Blob;
  let response: Response;
  try {
    response = await fetch(urlOf(name, options.params, options.query), {
      method: (ROUTES[name].split(" ")[0] as string).toUpperCase(),
      ...(signal ? { signal } : {}),
      ...(body === undefined
        ? {}
        : {
            body: raw ? body : JSON.stringify(body),
            headers: { "content-type": raw ? "application/octet-stream" : "application/json" },
          }),
    });
  } catch (error) {
    if (signal?.aborted) throw error;
    throw new ApiFailure(0, "offline", OFFLINE);
  }
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
