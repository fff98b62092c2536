import { z } from "zod";
import { TypedBodies } from "./entries.ts";

/** Nothing waits on a device for longer. */
const MOST_AGO_S = 90 * 86_400;

const write = <K extends keyof typeof TypedBodies>(kind: K, body: (typeof TypedBodies)[K]) =>
  z.object({
    kind: z.literal(kind),
    body,
    baseSeq: z.int().min(0),
    /** how long ago it was made, where there was no network, s */
    agoS: z.number().min(0).max(MOST_AGO_S).optional(),
  });

/** A new entry. `baseSeq` is the seq of the entry that the writer saw in the slot, 0 for none: a stale one is refused. */
export const NewEntry = z
  .discriminatedUnion("kind", [
    write("intake", TypedBodies.intake),
    write("identity", TypedBodies.identity),
    write("level", TypedBodies.level),
    write("fluid", TypedBodies.fluid),
    write("observation", TypedBodies.observation),
    write("pan", TypedBodies.pan),
    write("photo", TypedBodies.photo),
    write("code", TypedBodies.code),
    write("codes-read", TypedBodies["codes-read"]),
    write("felt", TypedBodies.felt),
    write("check", TypedBodies.check),
    write("fluid-plan", TypedBodies["fluid-plan"]),
    write("tried", TypedBodies.tried),
    write("sources", TypedBodies.sources),
    write("estimate", TypedBodies.estimate),
    write("decision", TypedBodies.decision),
    write("plan", TypedBodies.plan),
    write("tray", TypedBodies.tray),
    write("emptied", TypedBodies.emptied),
    write("filling", TypedBodies.filling),
    write("bench", TypedBodies.bench),
    write("supply", TypedBodies.supply),
    write("promise", TypedBodies.promise),
    write("step", TypedBodies.step),
    write("work", TypedBodies.work),
    write("learned", TypedBodies.learned),
    write("relearn", TypedBodies.relearn),
    write("break-in", TypedBodies["break-in"]),
    write("comeback", TypedBodies.comeback),
    write("road-test", TypedBodies["road-test"]),
    write("proof", TypedBodies.proof),
    write("assigned", TypedBodies.assigned),
    write("approval", TypedBodies.approval),
    write("handover", TypedBodies.handover),
    write("caution", TypedBodies.caution),
    write("note", TypedBodies.note),
    write("retraction", TypedBodies.retraction),
  ])
  .meta({ id: "NewEntry" });
export type NewEntryInput = z.infer<typeof NewEntry>;
