import type { Severity } from "../api/client";

export type MarkKind = Severity | "holds" | "open" | "unbegun";

const WORDS: Record<MarkKind, string> = {
  stop: "stop",
  mend: "mend",
  note: "note",
  holds: "holds",
  open: "not judged yet",
  unbegun: "not begun",
};

/** State told by shape and word as well as colour: octagon, wrench, dot, tick, open ring. */
export function Mark({ kind, hidden }: { kind: MarkKind; hidden?: boolean }) {
  return (
    <svg
      className={`state-mark mark-${kind}`}
      viewBox="0 0 16 16"
      role={hidden ? undefined : "img"}
      aria-hidden={hidden}
      aria-label={hidden ? undefined : WORDS[kind]}
    >
      <MarkShape kind={kind} />
    </svg>
  );
}

/** The bare shape, for use inside a drawing. */
export function MarkShape({ kind }: { kind: MarkKind }) {
  switch (kind) {
    case "stop":
      return (
        <>
          <path d="M5 1h6l4 4v6l-4 4H5l-4-4V5z" fill="currentColor" />
          <path d="M8 4v5M8 11.200v.6" stroke="var(--sheet)" strokeWidth="2" strokeLinecap="round" />
        </>
      );
    case "mend":
      return (
        <path
          d="M14.600 4.200l-2.700 2.700-2.300-.5-.5-2.300 2.700-2.700a4.300 4.300 0 0 0-5.500 5.500L1.200 12a1.900 1.900 0 0 0 2.700 2.700l5.200-5a4.300 4.300 0 0 0 5.500-5.500z"
          fill="currentColor"
        />
      );
    case "note":
      return <circle cx="8" cy="8" r="4.200" fill="currentColor" />;
    case "open":
    case "unbegun":
      return <circle cx="8" cy="8" r="5" stroke="currentColor" strokeWidth="1.800" fill="none" />;
    case "holds":
      return (
        <path
          d="M2.500 8.500l3.700 3.700 7.300-8"
          stroke="currentColor"
          strokeWidth="2.200"
          fill="none"
          strokeLinecap="round"
        />
      );
  }
}
