/** Hands a file to the browser to be kept. */
export function download(name: string, content: Blob): void {
  const url = URL.createObjectURL(content);
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  // the browser has taken it up by then
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
