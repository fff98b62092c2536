import { lazy, Suspense } from "react";

const JobSearchDialog = lazy(() => import("./JobSearchDialog.tsx"));

/** The search palette, loaded when it is first asked for. */
export function JobSearch({ onClose }: { onClose: () => void }) {
  return (
    <Suspense fallback={null}>
      <JobSearchDialog onClose={onClose} />
    </Suspense>
  );
}
