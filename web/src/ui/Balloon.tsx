/** The numbered circle of a BOM position, as on a drawing. */
export const Balloon = ({ position }: { position: number | string }) => (
  <span className="inline-grid h-5.5 min-w-5.5 place-items-center rounded-full border border-current px-1 text-[0.6875rem] leading-none">
    {position}
  </span>
)
