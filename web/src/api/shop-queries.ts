import type {
  CopiesView,
  CopyRuleData,
  OwnPasswordInput,
  PersonAddInput,
  PersonChangeInput,
  PersonView,
  PricesSaveInput,
  ShopSaveInput,
} from "@gearsense/contract";
import { LEAST_PART_LETTERS } from "@gearsense/core/figures";
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call } from "./client.ts";
import { keys } from "./queries.ts";

export const usePeople = (enabled: boolean) =>
  useQuery({
    queryKey: keys.people,
    queryFn: async ({ signal }) => (await call("people", { signal })).people,
    enabled,
  });
/** Adds, changes and removes people of the shop. */
export function usePeopleChanges() {
  const client = useQueryClient();
  const take = async ({ people }: { people: PersonView[] }) => {
    client.setQueryData(keys.people, people);
    // one's own name or role may be another now
    await client.invalidateQueries({ queryKey: keys.session });
  };
  return {
    add: useMutation({ mutationFn: (body: PersonAddInput) => call("addPerson", { body }), onSuccess: take }),
    change: useMutation({
      mutationFn: ({ id, ...body }: PersonChangeInput & { id: string }) =>
        call("changePerson", { params: { personId: id }, body }),
      onSuccess: take,
    }),
    remove: useMutation({
      mutationFn: (id: string) => call("removePerson", { params: { personId: id } }),
      onSuccess: take,
    }),
  };
}
export const useOwnPassword = () =>
  useMutation({ mutationFn: (body: OwnPasswordInput) => call("ownPassword", { body }) });
export const useShop = () => useQuery({ queryKey: keys.shop, queryFn: ({ signal }) => call("shop", { signal }) });
export function useSaveShop() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: ShopSaveInput) => call("saveShop", { body }),
    onSuccess: async (shop) => {
      client.setQueryData(keys.shop, shop);
      await client.invalidateQueries({ queryKey: keys.session });
    },
    onError: () => client.invalidateQueries({ queryKey: keys.shop }),
  });
}

/** @param wanted - only owners may ask */
export const useReach = (wanted: boolean) =>
  useQuery({ queryKey: keys.reach, queryFn: ({ signal }) => call("reach", { signal }), enabled: wanted });
/** Is the server still without a shop? */
export const useSetup = () => useQuery({ queryKey: keys.setup, queryFn: ({ signal }) => call("setup", { signal }) });

/** @param wanted - only owners may ask */
export const useFigures = (period: { readonly from: string; readonly to: string }, wanted: boolean) =>
  useQuery({
    queryKey: keys.figures(period),
    queryFn: ({ signal }) => call("figures", { query: period, signal }),
    enabled: wanted && period.from !== "" && period.to !== "",
  });

/** Parts that were fitted, by words of their names, page by page. */
export const useParts = (find: string) =>
  useInfiniteQuery({
    queryKey: keys.parts(find),
    queryFn: ({ signal, pageParam }) =>
      call("parts", { query: { find, ...(pageParam ? { after: pageParam } : {}) }, signal }),
    initialPageParam: "",
    getNextPageParam: (page) => page.next,
    enabled: find.length >= LEAST_PART_LETTERS,
  });
/** Own prices and hours over the library's. */
export const usePrices = (wanted: boolean) =>
  useQuery({ queryKey: keys.prices, queryFn: ({ signal }) => call("prices", { signal }), enabled: wanted });
export function useSavePrices() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: PricesSaveInput) => call("savePrices", { body }),
    // what is priced anywhere is asked for anew
    onSuccess: () => client.invalidateQueries(),
    onError: () => client.invalidateQueries({ queryKey: keys.prices }),
  });
}

/** What the shop's own proved jobs teach. */
export const useOwnJobs = (wanted: boolean) =>
  useQuery({ queryKey: keys.ownJobs, queryFn: ({ signal }) => call("ownJobs", { signal }), enabled: wanted });

/** Those who work on jobs here. */
export const useColleagues = () =>
  useQuery({ queryKey: keys.colleagues, queryFn: ({ signal }) => call("colleagues", { signal }), staleTime: 60_000 });

const COPYING_MS = 1000;
/** Copies of everything on the server, and what is done with them. */
export function useCopies() {
  const client = useQueryClient();
  const copies = useQuery({
    queryKey: keys.copies,
    queryFn: ({ signal }) => call("copies", { signal }),
    refetchInterval: (query) => (query.state.data?.running == null ? false : COPYING_MS),
  });
  const settled = {
    onSuccess: (now: CopiesView) => client.setQueryData(keys.copies, now),
    onError: () => client.invalidateQueries({ queryKey: keys.copies }),
  };
  const make = useMutation({ mutationFn: (signal: AbortSignal) => call("makeCopy", { signal }), ...settled });
  const keep = useMutation({ mutationFn: (body: CopyRuleData) => call("keepCopies", { body }), ...settled });
  return { copies, make, keep };
}
