export function Heading({ children }: { children: React.ReactNode }) {
  return (
    <div className="flex h-[34px] shrink-0 items-center gap-1.5 truncate text-[12px] text-ink">
      {children}
    </div>
  );
}
