/** The mark: an off-centre ring, the perigee, with one stitch. */
export function Logo() {
  return (
    <svg className="shrink-0" width="24" height="24" viewBox="0 0 24 24" fill="none" aria-hidden>
      <circle cx="12" cy="13" r="8.5" stroke="var(--ink)" strokeWidth="2" />
      <circle cx="12.9" cy="15" r="3.6" stroke="var(--brass)" strokeWidth="1.8" />
      <path d="M12 1.5v6" stroke="var(--coral)" strokeWidth="2" strokeDasharray="2.4 1.4" />
    </svg>
  );
}
