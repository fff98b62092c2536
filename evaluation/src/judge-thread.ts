import { judgeCase } from "./judge.ts";
import type { ThreadTask } from "./run.ts";

/** Entry of the threads; piscina calls the default export. */
export default ({ spec, unit, library }: ThreadTask) => judgeCase(spec, unit, library);
