import { type ComponentProps, useRef } from "react";
import { Button } from "./controls.tsx";

/** A button that asks for a file. The same file may be chosen again. */
export function FileButton({
  label,
  accept,
  onFile,
  ...button
}: { label: string; accept?: string; onFile: (file: File) => void } & Omit<ComponentProps<typeof Button>, "onClick">) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={label}
        className="sr-only"
        tabIndex={-1}
        disabled={button.disabled}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) onFile(file);
        }}
      />
      <Button {...button} onClick={() => input.current?.click()} />
    </>
  );
}
