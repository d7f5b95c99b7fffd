import type { StepStanding } from "../../api/client";
import { Mark } from "../../figures/Mark";
import { WORDS } from "./standing";

const KINDS = { open: "unbegun", done: "holds", again: "mend", failed: "stop" } as const;

/** How a step stands, told by shape and word: a tick, an open ring, an octagon, a wrench, a ring that is crossed. */
export function StepMark({ state }: { state: StepStanding["state"] }) {
  if (state === "stopped")
    return (
      <svg className="state-mark mark-stopped" viewBox="0 0 16 16" role="img" aria-label={WORDS.stopped}>
        <circle cx="8" cy="8" r="5" stroke="currentColor" strokeWidth="1.800" fill="none" />
        <path d="M4.500 11.500l7-7" stroke="currentColor" strokeWidth="1.800" />
      </svg>
    );
  return (
    <span role="img" aria-label={WORDS[state]} className="step-mark">
      <Mark kind={KINDS[state]} hidden />
    </span>
  );
}
