import type {
  InstrumentsView,
  JobView,
  LinkFileData,
  RecordingStartInput,
  RecordingView,
  RelearnRunView,
  RelearnStartInput,
  VehiclesQueryView,
} from "@gearsense/contract";
import {
  keepPreviousData,
  type QueryClient,
  queryOptions,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useCallback, useEffect } from "react";
import { deviceKeep } from "../offline/entry-queue.ts";
import { keepJob } from "../offline/kept.ts";
import { withWaiting } from "../offline/overlay.ts";
import { type WaitingPhoto, waitingPhotos } from "../photos/photo-queue.ts";
import { ApiFailure, call } from "./client.ts";
import { networkNow } from "./network.ts";

export const keys = {
  session: ["session"] as const,
  jobs: ["jobs"] as const,
  job: (id: string) => ["job", id] as const,
  /** computed from a timeline as far as an entry: of another entry it is another answer */
  suspects: (id: string, seq: number | undefined) => ["job", id, "suspects", seq] as const,
  orders: (id: string, seq: number | undefined) => ["job", id, "orders", seq] as const,
  /** of the unit as the job has it, with the shop's own prices */
  catalogue: (id: string) => ["catalogue", id] as const,
  proof: (id: string, seq: number | undefined) => ["job", id, "proof", seq] as const,
  analysis: (id: string, logId: string) => ["job", id, "analysis", logId] as const,
  analyses: (id: string, logId: string) => ["job", id, "analyses", logId] as const,
  /** entries kept on this device until the server has them */
  waiting: ["waiting"] as const,
  waitingPhotos: ["waiting-photos"] as const,
  profiles: ["import-profiles"] as const,
  linkDefinitions: ["link-definitions"] as const,
  copies: ["copies"] as const,
  reach: ["reach"] as const,
  colleagues: ["colleagues"] as const,
  figures: (period: object) => ["figures", period] as const,
  parts: (find: string) => ["parts", find] as const,
  prices: ["prices"] as const,
  ownJobs: ["own-jobs"] as const,
  setup: ["setup"] as const,
  work: (id: string) => ["work", id] as const,
  plan: (id: string, of: string) => ["job", id, "plan", of] as const,
  ways: (id: string, of: string) => ["job", id, "ways", of] as const,
  people: ["people"] as const,
  shop: ["shop"] as const,
  week: ["week"] as const,
  bench: (id: string, seq: number | undefined) => ["job", id, "bench", seq] as const,
  instruments: ["instruments"] as const,
  recording: (id: string) => ["recording", id] as const,
  relearn: (id: string) => ["relearn", id] as const,
  learned: (id: string, seq: number | undefined) => ["job", id, "learned", seq] as const,
  report: (id: string, system: string, seq: number | undefined) => ["job", id, "report", system, seq] as const,
};

export const useSession = () =>
  useQuery({
    queryKey: keys.session,
    queryFn: ({ signal }) => call("session", { signal }),
    retry: false,
    staleTime: 60_000,
  });
/** Jobs page by page, newest first. */
/** @param assignedTo - only this person's; empty: everybody's */
export const useJobs = (which: "open" | "closed", assignedTo = "") =>
  useInfiniteQuery({
    queryKey: [...keys.jobs, which, assignedTo],
    queryFn: ({ signal, pageParam }) =>
      call("jobs", {
        query: { which, ...(pageParam ? { after: pageParam } : {}), ...(assignedTo ? { assignedTo } : {}) },
        signal,
      }),
    initialPageParam: "",
    getNextPageParam: (page) => page.next,
  });
/** Jobs that hold every word of a text, page by page, newest first. */
export const useFoundJobs = (find: string) =>
  useInfiniteQuery({
    queryKey: [...keys.jobs, "find", find],
    queryFn: ({ signal, pageParam }) =>
      call("jobs", { query: { find, limit: 20, ...(pageParam ? { after: pageParam } : {}) }, signal }),
    initialPageParam: "",
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
/** Entries that wait on this device, read from it whether or not there is a network. */
export const useWaiting = () =>
  useQuery({ queryKey: keys.waiting, queryFn: deviceKeep.list, staleTime: Number.POSITIVE_INFINITY });
const samePhotos = (before: unknown, now: unknown): boolean => {
  const say = (list: unknown) =>
    JSON.stringify((list as WaitingPhoto[] | undefined)?.map((p) => [p.photoId, p.refused]));
  return before !== undefined && say(before) === say(now);
};
export const useWaitingPhotos = () =>
  useQuery({
    queryKey: keys.waitingPhotos,
    queryFn: waitingPhotos,
    staleTime: Number.POSITIVE_INFINITY,
    // each reading hands out pictures anew: a list is another one only when it holds others
    structuralSharing: (before, now) => (samePhotos(before, now) ? before : now),
  });
/** A job, with what waits on this device in its place on the timeline. */
export function useJobQuery(jobId: string) {
  const client = useQueryClient();
  const { data: waiting } = useWaiting();
  return useQuery({
    queryKey: keys.job(jobId),
    queryFn: async ({ signal }) => {
      const job = await call("job", { params: { jobId }, signal });
      if (networkNow().cutSinceMs === undefined) return job;
      // what this device kept may be of before the last write
      const held = client.getQueryData<JobView>(keys.job(jobId));
      return held && held.entries.length > job.entries.length ? held : job;
    },
    refetchInterval: 20_000,
    select: useCallback((job: JobView) => withWaiting(job, waiting ?? []), [waiting]),
  });
}
/** The newest entry of a job, by its number; undefined until the job is here. */
const useSeq = (jobId: string) => useJobQuery(jobId).data?.entries.at(-1)?.seq;
/** While the odds of a newer timeline are computed, those of before are shown, as placeholder data. */
export function useSuspects(jobId: string) {
  const seq = useSeq(jobId);
  return useQuery({
    queryKey: keys.suspects(jobId, seq),
    queryFn: ({ signal }) => call("suspects", { params: { jobId }, signal }),
    enabled: seq !== undefined,
    placeholderData: keepOfJob(jobId),
  });
}
/** What stood there before stays in sight, of the same job only. */
const keepOfJob =
  (jobId: string) =>
  <T>(before: T | undefined, query: { queryKey: readonly unknown[] } | undefined): T | undefined =>
    query?.queryKey[1] === jobId ? before : undefined;
/** What is being computed for a job, asked each second while `wanted`. */
export const useWork = (jobId: string, wanted: boolean) =>
  useQuery({
    queryKey: keys.work(jobId),
    queryFn: ({ signal }) => call("work", { params: { jobId }, signal }),
    enabled: wanted,
    refetchInterval: 1000,
    gcTime: 0,
  });
/** Names the entries that a plan is made of: ticks do not change it. */
function usePlanOf(jobId: string): string | undefined {
  const { data } = useJobQuery(jobId);
  const newest = (kind: "decision" | "plan" | "identity" | "retraction") =>
    data?.entries.findLast((e) => e.kind === kind)?.seq ?? 0;
  return data && `${newest("decision")}.${newest("plan")}.${newest("identity")}.${newest("retraction")}`;
}
/** The plan of the decision and the ways that were chosen. */
export function usePlan(jobId: string, wanted = true) {
  const of = usePlanOf(jobId);
  return useQuery({
    queryKey: keys.plan(jobId, of ?? ""),
    queryFn: ({ signal }) => call("plan", { params: { jobId }, signal }),
    enabled: wanted && of !== undefined,
    placeholderData: keepOfJob(jobId),
    retry: false,
  });
}
/** The ways to what was decided, compared on drawn jobs. */
export function useWays(jobId: string, wanted: boolean) {
  const of = usePlanOf(jobId);
  return useQuery({
    queryKey: keys.ways(jobId, of ?? ""),
    queryFn: ({ signal }) => call("ways", { params: { jobId }, signal }),
    enabled: wanted && of !== undefined,
    placeholderData: keepOfJob(jobId),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
}
/** What the bench comes to: causes, contradictions, earlier builds. */
export function useBench(jobId: string) {
  const seq = useSeq(jobId);
  return useQuery({
    queryKey: keys.bench(jobId, seq),
    queryFn: ({ signal }) => call("bench", { params: { jobId }, signal }),
    enabled: seq !== undefined,
    placeholderData: keepOfJob(jobId),
  });
}
/** The shop's instruments, to be changed. */
export const useInstruments = (wanted: boolean) =>
  useQuery({
    queryKey: keys.instruments,
    queryFn: ({ signal }) => call("instruments", { signal }),
    enabled: wanted,
  });
export function useSaveInstruments() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { instruments: InstrumentsView["instruments"]; baseSeq: number }) =>
      call("saveInstruments", { body }),
    onSuccess: (made) => {
      client.setQueryData(keys.instruments, made);
      return client.invalidateQueries({ queryKey: ["knowledge"] });
    },
  });
}
/** Who is where with which job from now on. */
export const useWeek = () =>
  useQuery({ queryKey: keys.week, queryFn: ({ signal }) => call("week", { signal }), refetchInterval: 60_000 });
export const useCatalogue = (jobId: string) =>
  useQuery({
    queryKey: keys.catalogue(jobId),
    queryFn: ({ signal }) => call("catalogue", { params: { jobId }, signal }),
    staleTime: 60_000,
  });
export function useOrders(jobId: string, wanted: boolean) {
  const seq = useSeq(jobId);
  return useQuery({
    queryKey: keys.orders(jobId, seq),
    queryFn: ({ signal }) => call("orders", { params: { jobId }, signal }),
    enabled: wanted && seq !== undefined,
  });
}
/** As the shop prices it for a unit: another owner may change that meanwhile. */
export const useKnowledge = (unitId: string) =>
  useQuery({
    queryKey: ["knowledge", unitId],
    queryFn: ({ signal }) => call("knowledge", { query: { unitId }, signal }),
    staleTime: 60_000,
  });
export function useProof(jobId: string) {
  const seq = useSeq(jobId);
  return useQuery({
    queryKey: keys.proof(jobId, seq),
    queryFn: ({ signal }) => call("proof", { params: { jobId }, signal }),
    enabled: seq !== undefined,
    placeholderData: keepOfJob(jobId),
  });
}
export const useAnalysis = (jobId: string, logId: string | undefined) =>
  useQuery({
    queryKey: keys.analysis(jobId, logId ?? ""),
    queryFn: ({ signal }) => call("analysis", { params: { jobId, logId: logId as string }, signal }),
    enabled: logId !== undefined,
    staleTime: Infinity,
    retry: (count, error) => !(error instanceof ApiFailure && error.status === 404) && count < 2,
  });
export const useAnalyses = (jobId: string, logId: string) =>
  useQuery({
    queryKey: keys.analyses(jobId, logId),
    queryFn: ({ signal }) => call("analyses", { params: { jobId, logId }, signal }),
  });
export const profilesQuery = queryOptions({
  queryKey: keys.profiles,
  queryFn: ({ signal }) => call("importProfiles", { signal }),
  staleTime: 60_000,
});
export const useProfiles = () => useQuery(profilesQuery);

/** The shop's own definitions of a link, kept and forgotten by name. */
export function useLinkDefinitions() {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: keys.linkDefinitions,
    queryFn: ({ signal }) => call("linkDefinitions", { signal }),
  });
  const settled = {
    onSuccess: (kept: { definitions: LinkFileData[] }) => client.setQueryData(keys.linkDefinitions, kept),
  };
  const save = useMutation({
    mutationFn: (body: LinkFileData) => call("saveLinkDefinition", { body }),
    ...settled,
  });
  const drop = useMutation({
    mutationFn: (name: string) => call("dropLinkDefinition", { params: { name } }),
    ...settled,
  });
  return { definitions: data?.definitions ?? [], save, drop };
}
export const useUnits = () =>
  useQuery({ queryKey: ["units"], queryFn: ({ signal }) => call("units", { signal }), staleTime: 60_000 });
/** @param unit - undefined for one that is not stored yet */
export const useUnitVersions = (unit: string | undefined) =>
  useQuery({
    queryKey: ["units", unit, "versions"],
    queryFn: ({ signal }) => call("unitVersions", { params: { unit: unit as string }, signal }),
    enabled: unit !== undefined,
  });
/** One stored version of a unit. @param version - undefined = not asked for */
export const useUnitVersion = (unit: string, version: string | undefined) =>
  useQuery({
    queryKey: ["units", unit, "versions", version],
    queryFn: ({ signal }) => call("unitVersion", { params: { unit, version: version as string }, signal }),
    enabled: version !== undefined,
    staleTime: Infinity,
  });
export const useCautions = () =>
  useQuery({ queryKey: ["cautions"], queryFn: ({ signal }) => call("cautions", { signal }), staleTime: Infinity });
export const useSamples = (jobId: string, wanted: boolean) =>
  useQuery({
    queryKey: ["job", jobId, "samples"],
    queryFn: ({ signal }) => call("samples", { params: { jobId }, signal }),
    staleTime: Infinity,
    enabled: wanted,
  });
export const useObservations = () =>
  useQuery({
    queryKey: ["observations"],
    queryFn: ({ signal }) => call("observations", { signal }),
    staleTime: Infinity,
  });
/** Vehicles that were here before and that what is typed may mean. */
export const useVehicles = (typed: VehiclesQueryView) =>
  useQuery({
    queryKey: ["vehicles", typed],
    queryFn: ({ signal }) => call("vehicles", { query: { ...typed }, signal }),
    staleTime: 30_000,
    placeholderData: keepPreviousData,
    enabled: Object.values(typed).some((text) => text.length >= 3),
  });
export function useReport(jobId: string, system: "metric" | "imperial") {
  const seq = useSeq(jobId);
  return useQuery({
    queryKey: keys.report(jobId, system, seq),
    queryFn: ({ signal }) => call("report", { params: { jobId }, query: { system }, signal }),
    enabled: seq !== undefined,
  });
}

/**
 * Puts a job that came back from the server in place. What is computed from it has the number of its newest entry in its
 * key and is asked for anew by that; a fetch of the job that was under way would bring back the one of before.
 */
export async function takeJob(client: QueryClient, job: JobView): Promise<void> {
  await client.cancelQueries({ queryKey: keys.job(job.id), exact: true });
  const before = client.getQueryData<JobView>(keys.job(job.id));
  client.setQueryData(keys.job(job.id), job);
  void keepJob(job);
  // a corrected unit has its logs judged anew
  if (before && before.unitId !== job.unitId)
    for (const what of ["analysis", "analyses"]) void client.invalidateQueries({ queryKey: ["job", job.id, what] });
  void client.invalidateQueries({ queryKey: keys.jobs });
}

const LIVE_MS = 500;
const SETTLED_MS = 10_000;
/** The newest recording of a job, twice a second while it runs. */
export const useRecording = (jobId: string) =>
  useQuery({
    queryKey: keys.recording(jobId),
    queryFn: async ({ signal }) => (await call("recording", { params: { jobId }, signal })).recording,
    refetchInterval: ({ state }) => (state.data?.state === "open" ? LIVE_MS : SETTLED_MS),
    // the screen beside the driver may be dark, and the recording goes on
    refetchIntervalInBackground: false,
  });
/** Learned values of the vehicle over its visits, as far as this entry of the timeline. */
export const useLearned = (jobId: string, seq: number | undefined) =>
  useQuery({
    queryKey: keys.learned(jobId, seq),
    queryFn: ({ signal }) => call("learned", { params: { jobId }, signal }),
    placeholderData: keepPreviousData,
  });
const LOOK_MS = 300;
/** The newest relearn at a link of a job, three times a second while it holds the link; how it ended is on the timeline then. */
export function useRelearn(jobId: string) {
  const client = useQueryClient();
  const query = useQuery({
    queryKey: keys.relearn(jobId),
    queryFn: async ({ signal }) => (await call("relearn", { params: { jobId }, signal })).run,
    refetchInterval: ({ state }) => {
      const phase = state.data?.phase;
      return phase === "preparing" || phase === "running" ? LOOK_MS : SETTLED_MS;
    },
  });
  const over = query.data?.phase === "over" ? query.data.id : undefined;
  useEffect(() => {
    if (over !== undefined) void client.invalidateQueries({ queryKey: keys.job(jobId), exact: true });
  }, [client, jobId, over]);
  return query;
}
/** Takes a link for a relearn, begins and ends it. */
export function useRelearning(jobId: string) {
  const client = useQueryClient();
  const take = async ({ run }: { run: RelearnRunView }) => {
    await client.cancelQueries({ queryKey: keys.relearn(jobId) });
    client.setQueryData(keys.relearn(jobId), run);
    // how it ended stands on the timeline
    if (run.phase === "over") await client.invalidateQueries({ queryKey: keys.job(jobId) });
  };
  return {
    start: useMutation({
      mutationFn: (body: RelearnStartInput) => call("startRelearn", { params: { jobId }, body }),
      onSuccess: take,
      retry: false,
    }),
    begin: useMutation({
      mutationFn: () => call("beginRelearn", { params: { jobId }, body: {} }),
      onSuccess: take,
      retry: false,
    }),
    end: useMutation({
      mutationFn: () => call("endRelearn", { params: { jobId }, body: {} }),
      onSuccess: take,
      retry: false,
    }),
  };
}
/** Who is at the other end of a link; asked when somebody says so. */
export const useLookAtLink = (jobId: string) =>
  useMutation({
    mutationFn: (at: { host: string; port: number }) => call("link", { params: { jobId }, query: at }),
    retry: false,
  });
/** Begins, marks and ends a recording of a job. */
export function useRecorder(jobId: string) {
  const client = useQueryClient();
  const take = async ({ recording }: { recording: RecordingView }) => {
    await client.cancelQueries({ queryKey: keys.recording(jobId) });
    client.setQueryData(keys.recording(jobId), recording);
  };
  return {
    start: useMutation({
      mutationFn: (body: RecordingStartInput) => call("startRecording", { params: { jobId }, body }),
      onSuccess: take,
    }),
    // a mark that the network kept back goes later, and says how long ago it was felt
    mark: useMutation({
      mutationFn: ({ id, name, feltAtMs }: { id: string; name: string; feltAtMs: number }) =>
        call("markRecording", {
          params: { jobId },
          body: { id, name, agoS: Math.max(0, (performance.now() - feltAtMs) / 1000) },
        }),
      retry: (_, error) => error instanceof ApiFailure && error.passes,
      retryDelay: 1000,
      onSuccess: take,
    }),
    end: useMutation({
      mutationFn: (wanted: "keep" | "drop") => call("endRecording", { params: { jobId }, body: { wanted } }),
      onSuccess: async (ended) => {
        await take(ended);
        // the log, its marks and its analysis stand on the timeline now
        await client.invalidateQueries({ queryKey: keys.job(jobId) });
      },
      onError: () => client.invalidateQueries({ queryKey: keys.recording(jobId) }),
    }),
  };
}
