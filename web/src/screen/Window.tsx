import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";
import { useUi } from "../state/ui";

export const close = () => useUi.setState({ dialog: null });

/** A dialog with a title, closed by Escape or a click beside it. */
export function Window({
  title,
  wide,
  children,
}: {
  title: string;
  wide?: boolean | "most";
  children: ReactNode;
}) {
  return (
    <Dialog open onClose={close} className="relative z-40">
      <div className="fixed inset-0 flex items-start justify-center bg-black/45 pt-[12vh]">
        <DialogPanel
          className={`flex max-h-[76vh] flex-col rounded-lg border border-line bg-panel p-4 shadow-2xl ${wide === "most" ? "w-[860px]" : wide ? "w-[620px]" : "w-[440px]"}`}
        >
          <DialogTitle className="mb-2 font-semibold">{title}</DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  );
}
