/** A titled part of a sheet. */
export function Section({
  title,
  note,
  children,
}: {
  title: React.ReactNode;
  note?: React.ReactNode;
  children: React.ReactNode;
}) {
  return (
    <section className="border-b border-line px-3 pt-2 pb-3 last:border-b-0">
      <h2 className="flex min-h-[28px] items-center justify-between gap-2 font-semibold">
        <span className={typeof title === "string" ? "truncate" : ""}>{title}</span>
        {note && <span className="text-[11px] font-normal text-quiet">{note}</span>}
      </h2>
      {children}
    </section>
  );
}
