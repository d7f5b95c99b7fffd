/** A keg on a cart. */
export function Logo({ className }: { className?: string }) {
  return (
    <svg
      className={className}
      viewBox="0 0 32 32"
      fill="none"
      stroke="var(--ink)"
      strokeWidth="2"
      strokeLinecap="round"
      strokeLinejoin="round"
      aria-hidden
    >
      <path d="M3 4h3l1.600 17h18.200" />
      <path d="M10 6h14.400c2 3.400 2 8.600 0 12H10c-2-3.400-2-8.600 0-12z" fill="var(--copper)" />
      <path d="M8.700 9.800h17M8.700 14.200h17" />
      <circle cx="11" cy="26" r="2.400" fill="var(--ink)" />
      <circle cx="22.500" cy="26" r="2.400" fill="var(--ink)" />
    </svg>
  );
}
