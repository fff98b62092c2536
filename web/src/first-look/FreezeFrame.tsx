/** What the controller kept when it stored a code. */
export function FreezeFrame({ frame }: { frame: Readonly<Record<string, string>> | undefined }) {
  const pairs = Object.entries(frame ?? {});
  if (pairs.length === 0) return null;
  return (
    <details>
      <summary className="text-sm text-quiet">freeze frame, {pairs.length}</summary>
      <dl className="grid grid-cols-[auto_1fr] gap-x-3 text-sm">
        {pairs.map(([k, v]) => (
          <div key={k} className="contents">
            <dt className="text-quiet">{k}</dt>
            <dd className="figures">{v}</dd>
          </div>
        ))}
      </dl>
    </details>
  );
}
