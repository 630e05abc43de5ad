import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { buttonClass } from "./Button";

/** A sheet over the page for one task; Escape and the button close it. */
export function Sheet({
  open,
  onOpenChange,
  title,
  description,
  children,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  description: string;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-black/45" />
        <Dialog.Content className="fixed inset-y-0 right-0 z-30 flex w-full max-w-2xl flex-col overflow-y-auto border-l border-rule bg-ground p-6 shadow-2xl">
          <div className="flex items-start justify-between gap-4">
            <div>
              <Dialog.Title className="text-2xl font-bold">{title}</Dialog.Title>
              <Dialog.Description className="mt-1 text-muted">{description}</Dialog.Description>
            </div>
            <Dialog.Close className={buttonClass("outlined")}>Close</Dialog.Close>
          </div>
          <div className="mt-5">{children}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
