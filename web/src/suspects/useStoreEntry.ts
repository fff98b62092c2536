import type { NewEntryInput } from "@gearsense/contract";
import { toast } from "sonner";
import { ApiFailure } from "../api/client.ts";
import { useAddEntry } from "../offline/useAddEntry.ts";

/** Stores what a dialog holds and closes it; a refusal stays in the dialog as `refused`. */
export function useStoreEntry(jobId: string, said: string, onClose: () => void) {
  const add = useAddEntry(jobId);
  const store = async (entry: NewEntryInput): Promise<void> => {
    try {
      await add.mutateAsync(entry);
      toast(said);
      onClose();
    } catch (error) {
      if (!(error instanceof ApiFailure)) throw error;
    }
  };
  return { store, refused: add.error, pending: add.isPending };
}
