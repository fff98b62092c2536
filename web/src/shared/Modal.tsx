import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./controls.tsx";

/** A dialog with a title; Esc and the cross close it. */
export function Modal({
  open,
  onClose,
  title,
  description,
  children,
  wide = false,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  description?: string;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-black/50" />
        <Dialog.Content
          onOpenAutoFocus={(e) => {
            // the first thing to fill in, rather than the cross in the corner
            const first = (e.currentTarget as HTMLElement).querySelector<HTMLElement>("input, textarea, [role=radio]");
            if (!first) return;
            e.preventDefault();
            first.focus();
          }}
          {...(description ? {} : { "aria-describedby": undefined })}
          className={`fixed top-16 left-1/2 z-40 max-h-[80vh] -translate-x-1/2 overflow-auto border-2 border-ink bg-panel p-5 text-ink ${wide ? "w-[820px]" : "w-[560px]"} max-w-[94vw]`}
        >
          <div className="mb-3 flex items-start justify-between gap-3">
            <div>
              <Dialog.Title className="text-2xl">{title}</Dialog.Title>
              {description && <Dialog.Description className="text-quiet">{description}</Dialog.Description>}
            </div>
            <Dialog.Close asChild>
              <Button tone="quiet" aria-label="Close">
                <X aria-hidden="true" className="size-5" />
              </Button>
            </Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
