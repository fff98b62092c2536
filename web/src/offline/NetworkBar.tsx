import { format } from "date-fns";
import { CloudOff, RefreshCw } from "lucide-react";
import { useCallback, useState } from "react";
import { call } from "../api/client.ts";
import { useNetwork } from "../api/network.ts";
import { useSession, useWaiting, useWaitingPhotos } from "../api/queries.ts";
import { Button } from "../shared/controls.tsx";
import { useAgain } from "../shared/useAgain.ts";
import { isStuck } from "./entry-queue.ts";
import { loadAnew } from "./register.ts";
import { WaitingList } from "./WaitingList.tsx";

const ASK_MS = 5_000;
const counted = (n: number, one: string, many: string) => (n === 0 ? "" : n === 1 ? `1 ${one}` : `${n} ${many}`);

/** Under the top bar, when there is something to say: no network, what waits on this device, a server that was renewed. */
export function NetworkBar() {
  const network = useNetwork();
  const me = useSession().data?.account.id;
  const { data: entries = [] } = useWaiting();
  const { data: photos = [] } = useWaitingPhotos();
  const [listed, setListed] = useState(false);
  const cut = network.cutSinceMs !== undefined;
  const stuck = entries.filter((e) => isStuck(e) && e.by === me).length;
  const waits = entries.filter((e) => !isStuck(e)).length;
  const told = [counted(waits, "entry", "entries"), counted(photos.length, "photo", "photos")]
    .filter(Boolean)
    .join(" and ");
  const one = waits + photos.length === 1;
  return (
    <>
      {network.renewed && (
        <p
          role="status"
          className="no-print flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-caution bg-caution-wash px-4 py-1"
        >
          <RefreshCw aria-hidden="true" className="size-5" />
          <span className="min-w-0 flex-1">
            Gearsense or its library has been renewed since this page was loaded: faults, checks, prices and procedures
            shown here may be out of date.
          </span>
          <Button onClick={() => void loadAnew()}>Load it anew</Button>
        </p>
      )}
      {(cut || told !== "" || stuck > 0) && (
        <div className="no-print flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-caution bg-caution-wash px-4 py-1">
          <CloudOff aria-hidden="true" className="size-5" />
          <p role="status" className="min-w-0 flex-1">
            {network.cutSinceMs !== undefined && (
              <span>
                No network since {format(network.cutSinceMs, "HH:mm")}.
                {network.keptAtMs !== undefined &&
                  ` What is shown is of ${format(network.keptAtMs, "d MMM HH:mm")}; odds, plan and report don’t count what is entered now. `}
              </span>
            )}{" "}
            {told !== "" && (
              <span>
                {told} {one ? "waits" : "wait"} on this device and {one ? "goes" : "go"} up by{" "}
                {one ? "itself" : "themselves"}.
              </span>
            )}{" "}
            {stuck > 0 && (
              <strong>{counted(stuck, "entry of yours needs", "entries of yours need")} a decision.</strong>
            )}
          </p>
          {entries.length > 0 && <Button onClick={() => setListed(true)}>What waits</Button>}
        </div>
      )}
      {cut && <AskAgain />}
      {listed && <WaitingList onClose={() => setListed(false)} />}
    </>
  );
}

/** Asks the server until it answers. */
function AskAgain() {
  const ask = useCallback(async () => {
    await call("health").catch(() => undefined);
  }, []);
  useAgain(ask, ASK_MS);
  return null;
}
