import { type FeltProof, feltProofs } from "../drive/index.ts";
import { type JobState, SYMPTOM_WORDS } from "../job/index.ts";

/** What the road test of a job proves of each complaint; all "not exercised" while none was typed since the last work. */
export const feltOf = (state: Pick<JobState, "intake" | "roadTest">): FeltProof[] =>
  feltProofs(
    (state.intake?.body.symptoms ?? []).map((s) => ({ ...s, what: SYMPTOM_WORDS[s.kind] })),
    state.roadTest?.body.drives ?? [],
  );
