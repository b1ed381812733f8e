import { useId, useLayoutEffect, useRef, useState } from "react";
import { clock } from "../state/clock";
import { unitOf } from "./lengths";
import { formatQuantity, parseQuantity, type Kind } from "./quantity";

interface Props {
  label: string;
  value: number; // as the document keeps it
  kind: Kind;
  unit?: string; // that it is shown in
  step?: number; // of the arrow keys, in the shown unit
  digits?: number;
  min?: number; // in the document's unit
  max?: number;
  whole?: boolean;
  inline?: boolean; // a stitched word of a sentence rather than a row
  disabled?: boolean;
  mixed?: boolean; // it stands for several that differ
  holds?: boolean; // what is typed is set even where it is there already: a pin that holds
  title?: string; // what it is for, in a line
  onChange: (value: number) => void;
}

/**
 * A number field that thinks: it takes arithmetic and units, steps with the arrow keys, is scrubbed by
 * dragging its label (or itself, in a sentence), and refuses nonsense with the reason, keeping the old
 * value.
 */
export function NumberField(p: Props) {
  const { kind } = p;
  const {
    unit = "",
    step = 1,
    digits = 4,
  } = kind === "length" && p.unit === "mm" && unitOf(p.value).unit === "m" ? unitOf(p.value) : p;
  const [text, setText] = useState<string | null>(null); // while it is being edited
  const [begun, setBegun] = useState(""); // what stood there when it was entered
  const [reason, setReason] = useState("");
  const scrub = useRef<{ x: number; from: number; moved: boolean } | null>(null);
  const [drag, setDrag] = useState<number | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const saved = useRef(false); // what is left now has been saved, or given up
  const id = useId();
  const worth = Number(parseQuantityOne(kind, unit));
  const kept = p.mixed ? "mixed" : formatQuantity(p.value, kind, unit, digits);
  const touched = text !== null && text !== begun;
  const shown = drag !== null ? formatQuantity(drag, kind, unit, digits) : touched ? text : kept;

  // A value that comes from elsewhere while the field is entered takes the place of what is selected, and is selected as
  // that was: what is typed next replaces it, and is not put behind it.
  const all = useRef(false);
  useLayoutEffect(() => {
    const field = input.current;
    if (!field || document.activeElement !== field || touched) return;
    setBegun(kept);
    setText(kept);
    if (all.current) field.select();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- it is for the value alone
  }, [kept]);

  const clampWhole = (v: number) => {
    let out = p.whole ? Math.round(v / worth) * worth : v;
    if (p.min !== undefined) out = Math.max(p.min, out);
    if (p.max !== undefined) out = Math.min(p.max, out);
    return out;
  };
  const commit = (raw: string, entered = false): boolean => {
    if (raw === kept) {
      setText(null); // untouched: the value may have more digits than are shown
      if (p.holds && entered) p.onChange(p.value);
      return true;
    }
    const got = parseQuantity(raw, kind, unit, { rate: clock.rate });
    if (!got.ok) {
      setReason(got.reason);
      return false;
    }
    const lowest = p.min !== undefined && got.value < p.min - 1e-12;
    const highest = p.max !== undefined && got.value > p.max + 1e-12;
    if (lowest || highest) {
      const limit = formatQuantity((lowest ? p.min : p.max)!, kind, unit, digits);
      setReason(`It is at ${lowest ? "least" : "most"} ${limit}${unit ? " " + unit : ""}.`);
      return false;
    }
    if (p.whole && Math.abs(got.value / worth - Math.round(got.value / worth)) > 1e-9) {
      setReason("It is a whole number.");
      return false;
    }
    setReason("");
    setText(null);
    if (p.mixed || p.holds || Math.abs(got.value - p.value) > 1e-12) p.onChange(got.value);
    return true;
  };
  const nudge = (by: number) => {
    const got = parseQuantity(shown, kind, unit, { rate: clock.rate });
    const v = clampWhole((got.ok ? got.value : p.value) + by * worth);
    setText(null);
    setReason("");
    p.onChange(v);
  };
  const scrubbing = {
    onPointerDown: (e: React.PointerEvent) => {
      if (p.disabled || e.button !== 0 || document.activeElement === input.current) return;
      scrub.current = { x: e.clientX, from: p.value, moved: false };
      e.currentTarget.setPointerCapture(e.pointerId);
    },
    onPointerMove: (e: React.PointerEvent) => {
      const s = scrub.current;
      if (!s) return;
      const dx = e.clientX - s.x;
      if (Math.abs(dx) > 3) s.moved = true;
      const rate = e.shiftKey ? 10 : e.altKey ? 0.1 : 1;
      if (s.moved) setDrag(clampWhole(s.from + Math.round(dx / 4) * step * rate * worth));
    },
    onPointerUp: () => {
      const s = scrub.current;
      scrub.current = null;
      if (s?.moved && drag !== null) {
        setText(null);
        p.onChange(drag);
        saved.current = document.activeElement === input.current;
        input.current?.blur();
      } else if (s) input.current?.select();
      setDrag(null);
    },
    onPointerCancel: () => {
      scrub.current = null;
      setDrag(null);
    },
  };
  const field = (
    <input
      ref={input}
      id={id}
      type="text"
      inputMode="decimal"
      autoComplete="off"
      aria-label={p.label}
      aria-invalid={reason !== ""}
      aria-describedby={reason ? id + "-reason" : undefined}
      disabled={p.disabled}
      title={p.title}
      value={shown}
      style={p.inline ? { width: `${Math.max(1, shown.length) + 0.6}ch` } : undefined}
      className={
        p.inline
          ? "stitched cursor-ew-resize bg-transparent p-0 text-center font-mono text-[12.5px] text-ink focus:cursor-text focus:bg-raised"
          : `h-[24px] w-[104px] rounded-sm border border-line bg-ground pl-1.5 text-right font-mono text-[12px] disabled:opacity-50 ${unit ? "pr-[30px]" : "pr-1.5"}`
      }
      onChange={(e) => {
        setText(e.target.value);
        setReason("");
      }}
      onFocus={(e) => {
        setBegun(kept);
        setText(kept);
        setReason("");
        e.target.select();
        all.current = true;
      }}
      onSelect={(e) => {
        const { selectionStart: from, selectionEnd: to, value } = e.currentTarget;
        all.current = from === 0 && to === value.length;
      }}
      onBlur={() => {
        if (!saved.current && touched && !commit(text)) setText(null); // the old value stays, with the reason
        saved.current = false;
      }}
      onKeyDown={(e) => {
        e.stopPropagation();
        const by = step * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1);
        if (e.key === "Enter") {
          saved.current = commit(e.currentTarget.value, true);
          if (saved.current) e.currentTarget.blur();
        } else if (e.key === "Escape") {
          setText(null);
          setReason("");
          saved.current = true;
          e.currentTarget.blur();
        } else if (e.key === "ArrowUp" || e.key === "ArrowDown") {
          e.preventDefault();
          nudge(e.key === "ArrowUp" ? by : -by);
        }
      }}
      {...(p.inline ? scrubbing : {})}
    />
  );
  const why = reason && (
    <span
      id={id + "-reason"}
      role="alert"
      className={
        p.inline
          ? "absolute top-full left-0 z-20 mt-1 w-max max-w-56 rounded-sm bg-raised px-2 py-1 text-[11px] leading-tight text-coral shadow-lg"
          : "col-span-full pl-1 text-right text-[11px] leading-tight text-coral"
      }
    >
      {reason}
    </span>
  );
  if (p.inline)
    return (
      <span className="relative inline-block whitespace-nowrap">
        {field}
        {unit && (
          <span className="stitched font-mono text-[12.5px]">
            {unit === "°" || unit === "%" ? unit : "\u00a0" + unit}
          </span>
        )}
        {why}
      </span>
    );
  return (
    <div title={p.title} className="grid min-h-[28px] grid-cols-[1fr_auto] items-center gap-x-1.5">
      <label htmlFor={id} className="cursor-ew-resize truncate text-quiet select-none" {...scrubbing}>
        {p.label}
      </label>
      <span className="relative">
        {field}
        <span className="pointer-events-none absolute top-[4px] right-1.5 w-[22px] text-[11px] text-quiet">
          {unit}
        </span>
      </span>
      {why}
    </div>
  );
}

/** Value of one of the shown unit in the document's unit. */
function parseQuantityOne(kind: Kind, unit: string): number {
  const one = parseQuantity("1", kind, unit, { rate: clock.rate });
  return one.ok ? one.value : 1;
}
