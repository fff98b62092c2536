type Frame = Readonly<Record<string, string>>;
const MOST = 60;

/** What is typed of a freeze frame: a name and a value a line. A line without a value is not kept. */
export function frameFromText(text: string): Record<string, string> | undefined {
  const pairs = text.split(/\n/).flatMap((line) => {
    const at = line.search(/[:=]/);
    const [name, value] = [line.slice(0, at).trim(), line.slice(at + 1).trim()];
    return at > 0 && name && value ? [[name.slice(0, MOST), value.slice(0, MOST)] as const] : [];
  });
  return pairs.length > 0 ? Object.fromEntries(pairs) : undefined;
}

export const frameAsText = (frame: Frame | undefined): string =>
  Object.entries(frame ?? {})
    .map(([k, v]) => `${k}: ${v}`)
    .join("\n");
