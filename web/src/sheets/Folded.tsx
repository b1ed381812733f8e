import { useState, type ReactNode } from "react";

/** A word of a sentence that opens a list below it. */
export function Folded({ words, label, children }: { words: string; label: string; children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button
        type="button"
        className="stitched font-semibold"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {words}
      </button>
      {open && (
        <span
          className="my-1 block rounded-sm border border-line text-[12px] leading-6"
          role="list"
          aria-label={label}
        >
          {children}
        </span>
      )}
    </>
  );
}

const tool = "rounded-sm p-0.5 text-quiet hover:text-ink disabled:opacity-30";

/** A small button of a row. */
export function Tool(p: {
  label: string;
  title?: string;
  disabled?: boolean;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      className={tool}
      aria-label={p.label}
      title={p.title}
      disabled={p.disabled}
      onClick={p.onClick}
    >
      {p.children}
    </button>
  );
}
