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

/** @throws HttpError 403 for a machine that is not among `hosts`, 502 when nobody is there */
export async function openLink({ host, port }: LinkAddress, hosts: readonly string[]): Promise<LinkSession> {
  if (!hosts.includes(host))
    throw new HttpError(
      403,
      "host-not-allowed",
      `${host} is not among the machines that a link may lead to (${hosts.join(", ")}); whoever runs the server adds it to LINK_HOSTS.`,
    );
  try {
    return await LinkSession.open(await tcpWire(host, port));
  } catch (error) {
    throw noLink(error);
  }
}

/** The shop's own definition, or the usual one. @throws HttpError 422 for one that cannot be used */
export function definitionFor(unit: Unit, own: LinkDefinition | undefined): LinkDefinition {
  if (!own) return usualDefinition(unit.name, readableChannels(unit));
  const problems = checkLinkDefinition(own);
  if (problems.length > 0)
    throw new HttpError(
      422,
      "definition-wrong",
      `The definition cannot be used: ${problems.map((p) => `${p.path}: ${p.reason}`).join("; ")}.`,
    );
  return own;
}

/** Is a number that a vehicle tells another than the one that is known? Nobody knows what is not told. */
export const otherVin = (vin: string | undefined, known: string): boolean =>
  vin !== undefined && known !== "" && vin !== known.replace(/\s/g, "").toUpperCase();

/** Opens a link and sees who is there; the link is closed again when that, or what is done then, fails. */
export async function linkTo<T>(
  at: LinkAddress,
  hosts: readonly string[],
  known: string,
  otherIsRight: boolean,
  then: (session: LinkSession, vin: string | undefined) => Promise<T>,
): Promise<T> {
  const session = await openLink(at, hosts);
  try {
    const vin = await readVin(session);
    if (otherVin(vin, known) && !otherIsRight)
      throw new HttpError(
        409,
        "other-vehicle",
        `The vehicle on the line is ${vin}, the job’s is ${known}. Is it the right one? Nothing was begun.`,
      );
    return await then(session, vin);
  } catch (error) {
    session.close();
    throw error instanceof LinkError ? noLink(error) : error;
  }
}
