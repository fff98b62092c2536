import { REPORT_PHOTOS } from "@gearsense/core/report";
import { useJob } from "../job/job-context.tsx";
import { ABOUT_WORDS, PhotoStrip } from "../photos/PhotoStrip.tsx";
import type { PhotoAbout } from "../photos/usePhotos.ts";

const ABOUT = Object.keys(ABOUT_WORDS) as PhotoAbout[];

/** All photos of the job: what the owner is shown at the hand-over, and what the report takes of them. */
export function FoundPhotos() {
  const { state } = useJob();
  const n = state.photos.length;
  return (
    <section aria-label="Photos of what was found" className="mt-4 flex flex-col gap-2 border border-rule bg-panel p-3">
      <h2 className="text-xl">Photos of what was found</h2>
      <p className="text-quiet">
        {n > REPORT_PHOTOS
          ? `The report shows ${REPORT_PHOTOS} of ${n}: those with a caption or a mark first, then the newest.`
          : "The report shows them, with their captions and marks."}
      </p>
      <PhotoStrip about={ABOUT} take="other" />
    </section>
  );
}
