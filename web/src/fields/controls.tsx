import { Listbox, ListboxButton, ListboxOption, ListboxOptions, Switch } from "@headlessui/react";
import { Check } from "lucide-react";
import { useState, type ReactNode } from "react";

export const listClass =
  "z-50 min-w-36 rounded-md border border-line bg-raised p-1 text-ink shadow-xl outline-none [--anchor-gap:4px]";
export const itemClass =
  "flex h-[26px] cursor-pointer items-center gap-2 rounded-sm px-2 whitespace-nowrap data-disabled:opacity-40 data-focus:bg-verdigris/20";

interface Choice<T> {
  value: T;
  name: string;
  note?: string;
}

/** A word of a sentence, or a row, that is picked from a short list. */
export function Pick<T extends string | number | boolean>(p: {
  label: string;
  value: T;
  choices: Choice<T>[];
  inline?: boolean;
  title?: string; // what it is for, in a line
  onChange: (v: T) => void;
}) {
  const now = p.choices.find((c) => c.value === p.value);
  const box = (
    <Listbox value={p.value} onChange={p.onChange}>
      <ListboxButton
        aria-label={`${p.label}: ${now?.name ?? String(p.value)}`}
        title={p.title}
        className={
          p.inline
            ? "stitched font-semibold"
            : "h-[24px] max-w-44 truncate rounded-sm border border-line bg-ground px-2 text-left"
        }
      >
        {now?.name ?? String(p.value)}
      </ListboxButton>
      <ListboxOptions anchor="bottom start" className={listClass}>
        {p.choices.map((c) => (
          <ListboxOption key={String(c.value)} value={c.value} className={itemClass}>
            <Check size={13} className={c.value === p.value ? "text-verdigris" : "invisible"} />
            {c.name}
            {c.note && <span className="ml-auto pl-4 text-[11px] text-quiet">{c.note}</span>}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
  return p.inline ? (
    box
  ) : (
    <Row label={p.label} title={p.title}>
      {box}
    </Row>
  );
}

export function Row(p: { label: string; title?: string; children: ReactNode }) {
  return (
    <div title={p.title} className="flex min-h-[28px] items-center justify-between gap-2">
      <span className="truncate text-quiet">{p.label}</span>
      {p.children}
    </div>
  );
}

export function Toggle(p: { label: string; on: boolean; title?: string; onChange: (on: boolean) => void }) {
  return (
    <Row label={p.label} title={p.title}>
      <Switch
        checked={p.on}
        onChange={p.onChange}
        aria-label={p.label}
        className="flex h-[16px] w-[30px] items-center rounded-full border border-line bg-ground px-[2px] data-checked:border-verdigris data-checked:bg-verdigris"
      >
        <span
          className={`size-[10px] rounded-full transition-transform ${p.on ? "translate-x-[14px] bg-on-verdigris" : "bg-quiet"}`}
        />
      </Switch>
    </Row>
  );
}

export function Button(p: {
  children: ReactNode;
  onClick?: () => void;
  primary?: boolean;
  disabled?: boolean;
  title?: string;
  label?: string;
  wraps?: boolean; // over several lines
}) {
  return (
    <button
      type="button"
      onClick={p.onClick}
      disabled={p.disabled}
      title={p.title}
      aria-label={p.label}
      className={`inline-flex items-center gap-1.5 rounded-md border px-2.5 font-medium disabled:opacity-45 ${p.wraps ? "min-h-[26px] py-0.5 text-left" : "h-[26px] whitespace-nowrap"} ${
        p.primary
          ? "border-verdigris bg-verdigris text-on-verdigris hover:brightness-110"
          : "border-line bg-panel hover:bg-raised"
      }`}
    >
      {p.children}
    </button>
  );
}

/** A line of text that is saved when it is left or Enter is pressed. */
export function TextField(p: {
  label: string;
  value: string;
  mono?: boolean;
  bare?: boolean;
  onChange: (v: string) => void;
}) {
  const [text, setText] = useState<string | null>(null); // while it is being edited
  const save = () => {
    if (text !== null && text.trim() !== "" && text !== p.value) p.onChange(text);
    setText(null);
  };
  const field = (
    <input
      type="text"
      aria-label={p.label}
      value={text ?? p.value}
      className={`h-[24px] min-w-0 flex-1 rounded-sm border border-line bg-ground px-1.5 ${p.mono ? "font-mono text-[12px]" : ""}`}
      onChange={(e) => setText(e.target.value)}
      onBlur={save}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setText(null);
      }}
    />
  );
  return p.bare ? field : <Row label={p.label}>{field}</Row>;
}

/** A colour of sRGB components from 0 to 1 as #rrggbb, and back; null for what is none. */
export const toHex = (c: [number, number, number]) =>
  "#" +
  c
    .map((v) =>
      Math.round(v * 255)
        .toString(16)
        .padStart(2, "0"),
    )
    .join("");

export function fromHex(t: string): [number, number, number] | null {
  const m = /^#?([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(t);
  return m && (m.slice(1).map((h) => parseInt(h, 16) / 255) as [number, number, number]);
}

/** A colour, as sRGB components from 0 to 1. */
export function ColorField(p: {
  label: string;
  value: [number, number, number];
  onChange: (v: [number, number, number]) => void;
}) {
  const hex = toHex(p.value);
  const [draft, setText] = useState<string | null>(null); // while it is being edited
  const text = draft ?? hex;
  const save = (t: string) => {
    setText(null);
    const v = fromHex(t.trim());
    if (v && t.toLowerCase() !== hex) p.onChange(v);
  };
  return (
    <Row label={p.label}>
      <span className="flex items-center gap-1.5">
        <input
          type="color"
          aria-label={p.label}
          value={text.length === 7 ? text : hex}
          onChange={(e) => setText(e.target.value)}
          onBlur={(e) => save(e.target.value)}
          className="h-[22px] w-[30px] cursor-pointer rounded-sm border border-line bg-transparent"
        />
        <input
          type="text"
          aria-label={`${p.label}, as a number`}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onBlur={(e) => save(e.target.value)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") save(e.currentTarget.value);
          }}
          className="h-[24px] w-[70px] rounded-sm border border-line bg-ground px-1.5 font-mono text-[12px]"
        />
      </span>
    </Row>
  );
}
