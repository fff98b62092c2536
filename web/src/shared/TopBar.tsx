import { useQueryClient } from "@tanstack/react-query";
import { LogOut, Moon, Search, Sun, UserRound } from "lucide-react";
import { type ReactNode, useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { ApiFailure, call } from "../api/client.ts";
import { useSession } from "../api/queries.ts";
import { JobSearch } from "../keys/JobSearch.tsx";
import { KeyList } from "../keys/KeyList.tsx";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { NetworkBar } from "../offline/NetworkBar.tsx";
import { useSettings } from "../settings/settings.tsx";

const TOOL = "label inline-flex min-h-11 items-center gap-1.5 rounded-sm border border-rule px-2.5 hover:border-ink";

/** The bar at the top of every screen: where you are, and search, units, theme, keys, account. */
export function TopBar({ children }: { children: ReactNode }) {
  const { system, theme, toggleSystem, toggleTheme } = useSettings();
  const { data: session } = useSession();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [searching, setSearching] = useState(false);
  const [keysShown, setKeysShown] = useState(false);
  useShortcuts([
    { key: "/", label: "Search jobs", group: "Everywhere", run: () => setSearching(true) },
    { key: "?", label: "This list of keys", group: "Everywhere", run: () => setKeysShown(true) },
    { key: "b", label: "Bay board", group: "Everywhere", run: () => void navigate("/") },
    { key: "m", label: "Switch units of measure", group: "Everywhere", run: toggleSystem },
    { key: "y", label: "Switch bay light and night bay", group: "Everywhere", run: toggleTheme },
  ]);
  const signOut = async () => {
    try {
      await call("signOut");
    } catch (error) {
      if (!(error instanceof ApiFailure)) throw error;
      toast("Signing out needs the network: until then you are signed in on this device.");
      return;
    }
    client.clear();
    await navigate("/sign-in");
  };
  return (
    <>
      <header className="no-print flex min-h-14 flex-wrap items-center justify-between gap-x-4 gap-y-1 py-1 border-b border-ink bg-panel px-4">
        <div className="flex min-w-0 items-baseline gap-4">{children}</div>
        <div className="flex flex-wrap items-center gap-1.5 sm:shrink-0 sm:flex-nowrap">
          <button type="button" className={TOOL} onClick={() => setSearching(true)}>
            <Search aria-hidden="true" className="size-4" />
            Search <kbd className="figures text-quiet">/</kbd>
          </button>
          <button
            type="button"
            className={TOOL}
            onClick={toggleSystem}
            aria-label={`Units of measure: ${system}. Switch`}
          >
            {system === "metric" ? "km · °C · N·m" : "mi · °F · lbf·ft"}
          </button>
          <button
            type="button"
            className={TOOL}
            onClick={toggleTheme}
            aria-label={`Theme: ${theme === "bay-light" ? "bay light" : "night bay"}. Switch`}
          >
            {theme === "bay-light" ? (
              <Sun aria-hidden="true" className="size-4" />
            ) : (
              <Moon aria-hidden="true" className="size-4" />
            )}
          </button>
          <button type="button" className={TOOL} onClick={() => setKeysShown(true)} aria-label="Keys">
            <kbd className="figures">?</kbd>
          </button>
          <Link to="/shop" className={TOOL} title={session?.shop.name} aria-label={session?.account.name}>
            <UserRound aria-hidden="true" className="size-4" />
            <span className="hidden lg:inline">{session?.account.name}</span>
          </Link>
          <button type="button" className={TOOL} onClick={() => void signOut()} aria-label="Sign out">
            <LogOut aria-hidden="true" className="size-4" />
          </button>
        </div>
        {searching && <JobSearch onClose={() => setSearching(false)} />}
        <KeyList open={keysShown} onClose={() => setKeysShown(false)} />
      </header>
      <NetworkBar />
    </>
  );
}
