import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

type OverlayProps = {
  title: string;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
  sub?: string;
};

export function Overlay({ title, open, onClose, children, wide, sub }: OverlayProps) {
  return (
    <Dialog.Root open={open} onOpenChange={(is) => !is && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/45" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-1/2 left-1/2 z-50 max-h-[90vh] w-[calc(100vw-40px)] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-xl border border-hair2 bg-panel p-6 text-ink ${wide ? "max-w-3xl" : "max-w-lg"}`}
        >
          <Dialog.Title className="text-xl font-bold">{title}</Dialog.Title>
          {sub && <p className="mt-1 text-soft">{sub}</p>}
          <div className="mt-4">{children}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
