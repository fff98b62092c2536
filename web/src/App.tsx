import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
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
import { SignIn } from "./sign-in/SignIn.tsx";

const NewJobPage = lazy(() => import("./intake/NewJobPage.tsx"));
const JobPage = lazy(() => import("./job/JobPage.tsx"));
const FluidPage = lazy(() => import("./fluid/FluidPage.tsx"));
const UnitsPage = lazy(() => import("./units/UnitsPage.tsx"));
const UnitPage = lazy(() => import("./units/UnitPage.tsx"));
const EditUnitPage = lazy(() => import("./units/EditUnitPage.tsx"));
const SetUp = lazy(() => import("./set-up/SetUp.tsx"));
const FiguresPage = lazy(() => import("./figures/FiguresPage.tsx"));
const PartsPage = lazy(() => import("./figures/PartsPage.tsx"));
const PricesPage = lazy(() => import("./prices/PricesPage.tsx"));
const ShopPage = lazy(() => import("./shop/ShopPage.tsx"));
const WeekPage = lazy(() => import("./week/WeekPage.tsx"));
const ReportPage = lazy(() => import("./handover/ReportPage.tsx"));

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
        <Route path="/jobs/new" element={<NewJobPage />} />
        <Route path="/jobs/:jobId/report" element={<ReportPage />} />
        <Route path="/jobs/:jobId/:stop?" element={<JobPage />} />
        <Route path="/week" element={<WeekPage />} />
        <Route path="/shop" element={<ShopPage />} />
        <Route path="/shop/parts" element={<PartsPage />} />
        <Route path="/shop/prices" element={<PricesPage />} />
        <Route path="/shop/figures" element={<FiguresPage />} />
        <Route path="/fluid" element={<FluidPage />} />
        <Route path="/units" element={<UnitsPage />} />
        <Route path="/units/:unit/edit" element={<EditUnitPage />} />
        <Route path="/units/:unit/:part?" element={<UnitPage />} />
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
                      <SetUp />
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
