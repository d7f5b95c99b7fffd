/** A barrel on a two-wheeled hand truck. */
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
      <path d="M10.500 27V5.500a3.500 3.500 0 0 1 3.500-3.500h4a3.500 3.500 0 0 1 3.500 3.500V27" />
      <path d="M10 8.500h12c2 4.800 2 10.200 0 15H10c-2-4.800-2-10.200 0-15z" fill="var(--copper)" />
      <path d="M8.800 13h14.400M8.800 19h14.400" />
      <path d="M6 27h20" />
      <rect x="2.500" y="22.500" width="4" height="8" rx="2" fill="var(--ink)" stroke="none" />
      <rect x="25.500" y="22.500" width="4" height="8" rx="2" fill="var(--ink)" stroke="none" />
    </svg>
  );
}
