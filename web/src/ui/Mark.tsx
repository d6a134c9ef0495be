/** The sign of the house: a sprig with two berries, one drawn full and one as an outline. */
export const Mark = ({ className }: { className?: string }) => (
  <svg viewBox="0 0 32 32" className={className} aria-hidden>
    <g fill="none" stroke="var(--color-primary)" strokeWidth="2" strokeLinecap="round">
      <path d="M16 3v12M16 9l-6-3M16 9l6-3M16 14l-8-2M16 14l8-2" />
      <circle cx="21" cy="23" r="5.5" />
    </g>
    <circle cx="11" cy="23" r="5.5" fill="var(--color-primary)" />
  </svg>
)
