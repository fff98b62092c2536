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

type Typed = keyof typeof TypedBodies;
const writes = (Object.keys(TypedBodies) as Typed[]).map((kind) => write(kind, TypedBodies[kind])) as unknown as [
  { [K in Typed]: ReturnType<typeof write<K>> }[Typed],
];

/** A new entry. `baseSeq` is the seq of the entry that the writer saw in the slot, 0 for none: a stale one is refused. */
export const NewEntry = z.discriminatedUnion("kind", writes).meta({ id: "NewEntry" });
export type NewEntryInput = z.infer<typeof NewEntry>;
