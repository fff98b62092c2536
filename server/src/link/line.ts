import type { Unit } from "@gearsense/core/unit";
import {
  checkLinkDefinition,
  type LinkDefinition,
  LinkError,
  LinkSession,
  readVin,
  tcpWire,
  usualDefinition,
} from "@gearsense/link";
import { readableChannels } from "@gearsense/simulator";
import { HttpError } from "../http/errors.ts";

const inWords = (error: unknown) => (error instanceof Error ? error.message : String(error));

/** An error of a link as the API tells it; others as they are. */
export const noLink = (error: unknown): HttpError =>
  error instanceof HttpError
    ? error
    : new HttpError(
        502,
        "no-link",
        `The link cannot be used: ${inWords(error)} Look at address and port, at the ignition, and whether another program holds it.`,
      );

export interface LinkAddress {
  readonly host: string;
  readonly port: number;
}

/** Somebody stands there and waits: a device that answers nothing sensible is given so long, ms. */
const PATIENCE_MS = 20_000;

/**
 * Opens a link and has something asked over it, in limited time.
 * @param keep - the session stays open when all went well
 * @throws HttpError 403 for a machine that is not among `hosts`, 502 when nobody is there or nothing sensible is told
 */
async function over<T>(
  { host, port }: LinkAddress,
  hosts: readonly string[],
  keep: boolean,
  ask: (session: LinkSession, settled: () => void) => Promise<T>,
): Promise<T> {
  if (!hosts.includes(host))
    throw new HttpError(
      403,
      "host-not-allowed",
      `${host} is not among the machines that a link may lead to (${hosts.join(", ")}); whoever runs the server adds it to LINK_HOSTS.`,
    );
  let session: LinkSession | undefined;
  let wire: Awaited<ReturnType<typeof tcpWire>> | undefined;
  let late = false;
  const timer = setTimeout(() => {
    late = true;
    wire?.close();
  }, PATIENCE_MS);
  try {
    wire = await tcpWire(host, port);
    session = await LinkSession.open(wire);
    const answer = await ask(session, () => clearTimeout(timer));
    if (!keep) session.close();
    return answer;
  } catch (error) {
    session?.close();
    wire?.close();
    if (late) throw noLink(new Error(`${host}:${port}: nothing sensible was answered within ${PATIENCE_MS / 1000} s.`));
    throw session === undefined || error instanceof LinkError ? noLink(error) : error;
  } finally {
    clearTimeout(timer);
  }
}

/** Opens a link, asks what is wanted and closes it. */
export const askLink = <T>(
  at: LinkAddress,
  hosts: readonly string[],
  ask: (session: LinkSession) => Promise<T>,
): Promise<T> => over(at, hosts, false, ask);

/** @throws HttpError 422 for a definition that cannot be used */
export function refuseWrongDefinition(own: LinkDefinition): void {
  const problems = checkLinkDefinition(own);
  if (problems.length > 0)
    throw new HttpError(
      422,
      "definition-wrong",
      `The definition cannot be used: ${problems.map((p) => `${p.path}: ${p.reason}`).join("; ")}.`,
    );
}

/** The shop's own definition, or the usual one. @throws HttpError 422 for one that cannot be used */
export function definitionFor(unit: Unit, own: LinkDefinition | undefined): LinkDefinition {
  if (!own) return usualDefinition(unit.name, readableChannels(unit));
  refuseWrongDefinition(own);
  return own;
}

/** Is a number that a vehicle tells another than the one that is known? Nobody knows what is not told. */
export const otherVin = (vin: string | undefined, known: string): boolean =>
  vin !== undefined && known !== "" && vin !== known.replace(/\s/g, "").toUpperCase();

/** Opens a link and sees who is there; it stays open, and is closed again when that, or what is done then, fails. */
export const linkTo = <T>(
  at: LinkAddress,
  hosts: readonly string[],
  known: string,
  otherIsRight: boolean,
  begin: (session: LinkSession, vin: string | undefined) => Promise<T>,
): Promise<T> =>
  over(at, hosts, true, async (session, settled) => {
    const vin = await readVin(session);
    settled();
    if (otherVin(vin, known) && !otherIsRight)
      throw new HttpError(
        409,
        "other-vehicle",
        `The vehicle on the line is ${vin}, the job’s is ${known}. Is it the right one? Nothing was begun.`,
      );
    return begin(session, vin);
  });
