import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Suspense } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { BrowserRouter, Navigate, Route, Routes, useLocation } from "react-router";
import { Toaster } from "sonner";
import { ApiFailure } from "./api/client.ts";
import { useSession } from "./api/queries.ts";
import { BayBoard } from "./board/BayBoard.tsx";
import { ShortcutProvider } from "./keys/shortcuts.tsx";
import { keepOnDevice } from "./offline/register.ts";
import { useSendWaiting } from "./offline/useWaiting.ts";
import { SettingsProvider, useSettings } from "./settings/settings.tsx";
import { Button, Notice } from "./shared/controls.tsx";
import { PageCode, Show } from "./shared/page-code.tsx";
import { SignIn } from "./sign-in/SignIn.tsx";

const NewJobPage = new PageCode(() => import("./intake/NewJobPage.tsx"));
const JobPage = new PageCode(() => import("./job/JobPage.tsx"));
const FluidPage = new PageCode(() => import("./fluid/FluidPage.tsx"));
const UnitsPage = new PageCode(() => import("./units/UnitsPage.tsx"));
const UnitPage = new PageCode(() => import("./units/UnitPage.tsx"));
const EditUnitPage = new PageCode(() => import("./units/EditUnitPage.tsx"));
const SetUp = new PageCode(() => import("./set-up/SetUp.tsx"));
const FiguresPage = new PageCode(() => import("./figures/FiguresPage.tsx"));
const PartsPage = new PageCode(() => import("./figures/PartsPage.tsx"));
const PricesPage = new PageCode(() => import("./prices/PricesPage.tsx"));
const ShopPage = new PageCode(() => import("./shop/ShopPage.tsx"));
const WeekPage = new PageCode(() => import("./week/WeekPage.tsx"));
const ReportPage = new PageCode(() => import("./handover/ReportPage.tsx"));

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // without a network what this device keeps is shown, and what it hasn't fails with a word
      networkMode: "always",
      refetchOnReconnect: true,
      retry: (count, error) => error instanceof ApiFailure && error.code === "offline" && count < 2,
    },
    // a write that fails must say so at once: only what is shown as waiting waits
    mutations: { retry: false, networkMode: "always" },
  },
});

// beside the session, not after it: most pages that are opened by their address are jobs
if (window.location.pathname.startsWith("/jobs/")) JobPage.fetch();

// in development the page is served from its sources, which change while one looks
if (import.meta.env.PROD) void keepOnDevice(client);

function Loading() {
  return (
    <p role="status" className="p-8 text-quiet">
      Loading …
    </p>
  );
}

function Gate() {
  const session = useSession();
  useSendWaiting();
  const location = useLocation();
  if (session.isPending) return <Loading />;
  if (session.error) {
    if (session.error instanceof ApiFailure && session.error.status === 401)
      return <Navigate to={`/sign-in?next=${encodeURIComponent(location.pathname)}`} replace />;
    return (
      <div className="p-8">
        <Notice
          tone="stop"
          title="Gearsense cannot be reached"
          live
          actions={<Button onClick={() => void session.refetch()}>Try again</Button>}
        >
          {session.error.message}
        </Notice>
      </div>
    );
  }
  return (
    <Suspense fallback={<Loading />}>
      <Routes>
        <Route path="/" element={<BayBoard />} />
        <Route path="/jobs/new" element={<Show page={NewJobPage} />} />
        <Route path="/jobs/:jobId/report" element={<Show page={ReportPage} />} />
        <Route path="/jobs/:jobId/:stop?" element={<Show page={JobPage} />} />
        <Route path="/week" element={<Show page={WeekPage} />} />
        <Route path="/shop" element={<Show page={ShopPage} />} />
        <Route path="/shop/parts" element={<Show page={PartsPage} />} />
        <Route path="/shop/prices" element={<Show page={PricesPage} />} />
        <Route path="/shop/figures" element={<Show page={FiguresPage} />} />
        <Route path="/fluid" element={<Show page={FluidPage} />} />
        <Route path="/units" element={<Show page={UnitsPage} />} />
        <Route path="/units/:unit/edit" element={<Show page={EditUnitPage} />} />
        <Route path="/units/:unit/:part?" element={<Show page={UnitPage} />} />
        <Route path="*" element={<NoSuchPage />} />
      </Routes>
    </Suspense>
  );
}

function NoSuchPage() {
  return (
    <main className="p-8">
      <Notice tone="stop" title="This page doesn’t exist">
        The address may have been mistyped.{" "}
        <a className="underline" href="/">
          Go to the bay board
        </a>
        .
      </Notice>
    </main>
  );
}

function Crash({ error, resetErrorBoundary }: { error: unknown; resetErrorBoundary: () => void }) {
  return (
    <main className="p-8">
      <Notice
        tone="stop"
        title="This screen broke"
        live
        actions={<Button onClick={resetErrorBoundary}>Show it again</Button>}
      >
        What you typed is kept. {error instanceof Error ? error.message : String(error)}
      </Notice>
    </main>
  );
}

function Toasts() {
  const { theme } = useSettings();
  return (
    <Toaster
      position="bottom-center"
      theme={theme === "night-bay" ? "dark" : "light"}
      toastOptions={{
        style: {
          fontFamily: "var(--font-text)",
          borderRadius: 2,
          background: "var(--slate)",
          color: "var(--on-slate)",
          border: "none",
        },
      }}
    />
  );
}

export function App() {
  return (
    <QueryClientProvider client={client}>
      <SettingsProvider>
        <ShortcutProvider>
          <BrowserRouter>
            <ErrorBoundary FallbackComponent={Crash}>
              <Routes>
                <Route path="/sign-in" element={<SignIn />} />
                <Route
                  path="/set-up"
                  element={
                    <Suspense fallback={<Loading />}>
                      <Show page={SetUp} />
                    </Suspense>
                  }
                />
                <Route path="*" element={<Gate />} />
              </Routes>
            </ErrorBoundary>
            <Toasts />
          </BrowserRouter>
        </ShortcutProvider>
      </SettingsProvider>
    </QueryClientProvider>
  );
}
