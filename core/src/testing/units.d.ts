import type { Knowledge } from "../suspect/index.ts";
import type { Unit } from "../unit/index.ts";
/** A unit of the library, for tests. */
export declare const libraryUnit: (id: string) => Unit;
/** The diagnostic knowledge of the library, for tests. */
export declare function libraryKnowledge(): Knowledge;
