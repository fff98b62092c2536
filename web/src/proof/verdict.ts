/** Colour of a verdict, beside its word. */
export const VERDICT: Readonly<Record<string, string>> = {
  gone: "bg-clear-wash text-clear",
  "not shown yet": "bg-caution-wash text-caution",
  better: "bg-clear-wash text-clear",
  same: "bg-caution-wash text-caution",
  worse: "bg-stop-wash text-stop",
  "not exercised": "bg-caution-wash text-caution",
};
