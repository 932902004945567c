import { AlertDialog } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./button";

/** Asks before something that cannot be taken back. */
export function Confirm({
  trigger,
  title,
  children,
  action,
  onConfirm,
}: {
  trigger: ReactNode;
  title: string;
  children: ReactNode;
  action: string;
  onConfirm: () => void;
}) {
  return (
    <AlertDialog.Root>
      <AlertDialog.Trigger asChild>{trigger}</AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <AlertDialog.Content className="fixed top-1/3 left-1/2 z-30 w-[28rem] max-w-[92vw] -translate-x-1/2 -translate-y-1/2 rounded-lg border border-rule bg-sheet p-5 shadow-xl">
          <AlertDialog.Title className="text-[16px] font-semibold">{title}</AlertDialog.Title>
          <AlertDialog.Description className="mt-2 text-ink-soft">{children}</AlertDialog.Description>
          <div className="mt-5 flex justify-end gap-2">
            <AlertDialog.Cancel asChild>
              <Button>Keep</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button look="danger" onClick={onConfirm}>
                {action}
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
