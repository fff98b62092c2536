import { type BusDefinition, isCapture, readCapture } from "./capture.ts";
import { type DecodedText, decodeLog } from "./decode.ts";
import { type DialectChoice, sniffDialect } from "./dialect.ts";
import { widen } from "./long.ts";
import { type ReadOptions, readTable, type Table } from "./table.ts";
import { type Unpacked, unpackLog } from "./unpack.ts";

/** How a file is to be read, where a person or a profile knows better than the guess. */
export interface ReadingChoice {
  readonly dialect?: DialectChoice | undefined;
  /** for raw bus captures */
  readonly definition?: BusDefinition | undefined;
}

export interface OpenedLog {
  readonly table: Table;
  readonly encoding: DecodedText["encoding"];
  readonly container: Unpacked["container"];
  readonly entry: string | undefined;
}

/**
 * From the bytes of a file to its table: unpacked, decoded, cut into cells. The one way in, for the worker, the server and
 * the command line.
 * @throws InputError
 */
export function openLog(bytes: Uint8Array, choice: ReadingChoice = {}, options: ReadOptions = {}): OpenedLog {
  const { bytes: plain, container, entry, repair } = unpackLog(bytes);
  const { text, encoding } = decodeLog(plain);
  const table = isCapture(text)
    ? readCapture(text, choice.definition, options)
    : widen(readTable(text, sniffDialect(text, choice.dialect), options));
  return { table: repair ? { ...table, repair } : table, encoding, container, entry };
}
