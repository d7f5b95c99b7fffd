import type { Moment } from "../../api/client";
import { Mark } from "../../figures/Mark";

/** The shape of what happened: what goes out points out, what comes in points in, a fault is a crack, a test a scale. */
const SHAPES: Record<Moment["kind"], { path: string; tone: string }> = {
  step: { path: "M3 8.500l3.200 3.200L13 4.500", tone: "var(--holds)" },
  change: { path: "M3 12l1-3 6.500-6.500 2 2L6 11zM9 4l2 2", tone: "var(--faint)" },
  test: { path: "M2 13h12M2 10l3-5 3 4 2-6 4 7", tone: "var(--copper)" },
  use: { path: "M8 2v9M4.500 7.500L8 11l3.500-3.500M3 14h10", tone: "var(--copper)" },
  recharge: { path: "M8 11V2M4.500 5.500L8 2l3.500 3.500M3 14h10", tone: "var(--holds)" },
  fault: { path: "M9.500 1.500L6 7h4l-3.500 7.500", tone: "var(--stop)" },
  mend: { path: "M4 4l8 8M12 4l-8 8M8 2v12", tone: "var(--mend)" },
  swap: { path: "M3 5h8l-2.500-2.500M13 11H5l2.500 2.500", tone: "var(--note)" },
  capacity: { path: "M5 2.500h6v11H5zM5 7h6", tone: "var(--copper)" },
  resistance: { path: "M1.500 8h2l1-3 2 6 2-6 2 6 1-3h2.500", tone: "var(--copper)" },
  measured: { path: "M2.500 12a5.500 5.500 0 1 1 11 0M8 12l2.500-4.500", tone: "var(--copper)" },
  visit: { path: "M3 4h10v9H3zM3 7h10M6 2v3M10 2v3", tone: "var(--note)" },
  photo: {
    path: "M2 5h3l1.500-2h3L11 5h3v8H2zM8 11.200a2.400 2.400 0 1 0 0-4.800 2.400 2.400 0 0 0 0 4.800",
    tone: "var(--note)",
  },
  note: { path: "M3 4h10M3 8h10M3 12h6", tone: "var(--faint)" },
};

export function MomentMark({ kind, fails }: { kind: Moment["kind"]; fails?: boolean }) {
  if (fails) return <Mark kind="stop" />;
  const { path, tone } = SHAPES[kind];
  return (
    <svg className="moment-mark" viewBox="0 0 16 16" aria-hidden>
      <path d={path} fill="none" stroke={tone} strokeWidth="1.600" strokeLinecap="round" strokeLinejoin="round" />
    </svg>
  );
}
