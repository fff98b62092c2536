import { Command } from "cmdk";
import { useDeferredValue, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { useFoundJobs } from "../api/queries.ts";
import { Button } from "../shared/controls.tsx";
import { Modal } from "../shared/Modal.tsx";

/** Finds a job by number, vehicle, plate, owner, unit, complaint, or whatever was written on its timeline, among all of the shop. */
export default function JobSearchDialog({ onClose }: { onClose: () => void }) {
  const [typed, setTyped] = useState("");
  const find = useDeferredValue(typed.trim());
  const { data: found, error, isPlaceholderData, hasNextPage, fetchNextPage, isFetchingNextPage } = useFoundJobs(find);
  const data = found && { jobs: found.pages.flatMap((p) => p.jobs) };
  const navigate = useNavigate();
  const open = (id: string) => {
    onClose();
    void navigate(`/jobs/${id}`);
  };
  // what is shown may still be of what was typed before: Enter then waits for what it is meant for
  const stale = !data || isPlaceholderData || find !== typed.trim();
  const [entered, setEntered] = useState(false);
  const first = data?.jobs[0]?.id;
  // what was chosen of an earlier list may be gone: Enter is never without one that it opens
  const [chosen, setChosen] = useState("");
  const marked = data?.jobs.some((j) => j.id === chosen) ? chosen : (first ?? "");
  // biome-ignore lint/correctness/useExhaustiveDependencies: opens once, when the answer to what was entered is there
  useEffect(() => {
    if (!entered || stale) return;
    setEntered(false);
    if (first) open(first);
  }, [entered, stale, first]);
  return (
    <Modal open onClose={onClose} title="Search jobs">
      <Command
        label="Search jobs"
        shouldFilter={false}
        value={marked}
        onValueChange={setChosen}
        onKeyDown={(e) => {
          if (e.key !== "Enter" || !stale) return;
          e.preventDefault();
          setEntered(true);
        }}
      >
        <Command.Input
          value={typed}
          onValueChange={(text) => {
            setTyped(text);
            setEntered(false);
          }}
          placeholder="Number, vehicle, plate, owner, complaint, part, code, note"
          className="min-h-11 w-full border border-field bg-ground px-3"
        />
        {error && (
          <p role="alert" className="p-3 text-stop">
            {error.message}
          </p>
        )}
        {/* no list before there is one: an empty one would say that nothing matches */}
        {!data && !error && (
          <p role="status" className="p-3 text-quiet">
            Loading the jobs …
          </p>
        )}
        {data && (
          <Command.List className="mt-2 max-h-96 overflow-auto">
            <Command.Empty className="p-3 text-quiet">No job matches.</Command.Empty>
            {data.jobs.map((j) => (
              <Command.Item
                key={j.id}
                value={j.id}
                onSelect={() => open(j.id)}
                className="flex min-h-11 cursor-pointer items-baseline gap-3 px-3 py-2 data-[selected=true]:bg-slate data-[selected=true]:text-on-slate"
              >
                <span className="figures text-lg">{j.number}</span>
                <span className="label">{j.vehicle.name}</span>
                <span className="truncate text-sm">{j.complaint}</span>
              </Command.Item>
            ))}
          </Command.List>
        )}
        {hasNextPage && (
          <Button className="mt-2" disabled={isFetchingNextPage} onClick={() => void fetchNextPage()}>
            {isFetchingNextPage ? "Looking further …" : "More"}
          </Button>
        )}
      </Command>
    </Modal>
  );
}
