import { useLayoutEffect, useRef, useState, type ReactNode } from "react";

/** A list of rows of one height, of which only those in sight are drawn. */
export function Windowed<T>(p: {
  rows: T[];
  height: number; // of a row, pixels
  most: number; // of the whole, pixels
  label: string;
  at?: number; // a row that is brought into sight
  children: (row: T, index: number) => ReactNode;
}) {
  const ref = useRef<HTMLUListElement>(null);
  const [seen, setSeen] = useState({ top: 0, height: p.most });
  useLayoutEffect(() => {
    const watch = new ResizeObserver(() =>
      setSeen((s) => ({ ...s, height: ref.current?.clientHeight ?? p.most })),
    );
    watch.observe(ref.current!);
    return () => watch.disconnect();
  }, [p.most]);
  const { at, height } = p;
  useLayoutEffect(() => {
    const el = ref.current!;
    if (at === undefined || at < 0) return;
    if (at * height < el.scrollTop) el.scrollTop = at * height;
    else if ((at + 1) * height > el.scrollTop + el.clientHeight)
      el.scrollTop = (at + 1) * height - el.clientHeight;
  }, [at, height]);
  const first = Math.max(0, Math.floor(seen.top / p.height) - 4);
  const last = Math.min(p.rows.length, Math.ceil((seen.top + seen.height) / p.height) + 4);
  return (
    <ul
      ref={ref}
      aria-label={p.label}
      className="overflow-auto"
      style={{ maxHeight: p.most }}
      onScroll={(e) => setSeen({ top: e.currentTarget.scrollTop, height: e.currentTarget.clientHeight })}
    >
      <li aria-hidden style={{ height: first * p.height }} />
      {p.rows.slice(first, last).map((row, i) => p.children(row, first + i))}
      <li aria-hidden style={{ height: (p.rows.length - last) * p.height }} />
    </ul>
  );
}
