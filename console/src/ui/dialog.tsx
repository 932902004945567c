import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

/** Something to look at or fill in, in front of the page. */
export function Sheet({
  open,
  onClose,
  title,
  about,
  children,
  wide = false,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  about?: ReactNode;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-1/2 left-1/2 z-30 max-h-[88vh] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-lg border border-rule bg-sheet shadow-xl ${wide ? "w-[64rem]" : "w-[34rem]"}`}
        >
          <header className="sticky top-0 z-10 flex items-start gap-4 border-b border-rule bg-sheet px-5 py-3">
            <div>
              <Dialog.Title className="text-[16px] font-semibold">{title}</Dialog.Title>
              {about && <p className="text-[13px] text-ink-soft">{about}</p>}
            </div>
            <Dialog.Close
              aria-label="Close this"
              className="ml-auto rounded px-2 text-[18px] text-ink-soft hover:bg-inset"
            >
              ×
            </Dialog.Close>
          </header>
          <div className="px-5 py-4">{children}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
