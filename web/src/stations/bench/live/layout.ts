/** Where the steps of a run stand on its time axis, with what was expected of each. */
import type { TestRun } from "../../../api/client";
import { STEPS } from "../steps";
import type { RunState } from "./feed";
import type { Band, Bound } from "./Strip";

/** How much of a run is drawn. */
export const VIEWS = { step: "this step", around: "around it", whole: "whole test" } as const;
export type View = keyof typeof VIEWS;
/** So many steps before and after the one that runs are drawn around it. */
const BEFORE = 3;

/** Where each step stands on the time axis, the bands there, and what of it is drawn. */
export function laidOut(run: TestRun, courses: TestRun["courses"], state: RunState | null, view: View, now: number) {
  const bounds: Bound[] = [];
  const bands: Record<string, Band[]> = {};
  if (!state) return { bounds, bands, range: [0, 1] as [number, number] };
  const draw = (n: number, begin: number, from: number, until: number) => {
    const { seconds = [], traces = {} } = courses[n] ?? {};
    const t = seconds.map((s) => begin + s - from);
    const first = Math.max(0, t.findIndex((s) => s >= begin) - 1);
    const many = t.findLastIndex((s) => s <= until) + 1;
    for (const [key, { low, high }] of Object.entries(traces))
      (bands[key] ??= []).push({
        t: t.slice(first, many),
        low: low.slice(first, many),
        high: high.slice(first, many),
      });
  };
  for (const span of state.spans) {
    const n = run.plan.findIndex((s) => s.key === span.step);
    bounds.push({ at: span.begin_s, label: STEPS[span.step] ?? span.step });
    draw(n, span.begin_s, 0, span.end_s);
  }
  const running = state.state === "running" && run.live;
  const begin = running ? state.begun_s : now;
  const step = run.plan[state.at];
  let end = now;
  const ends: number[] = [];
  // A step that was stopped begins anew; one that was paused goes on.
  const held = (later: number) => (later || state.state === "stopped" ? 0 : state.held_s);
  if (run.live && step && state.state !== "over")
    run.plan.slice(state.at).forEach((later, i) => {
      const at = i ? end : begin;
      const lasts = courses[state.at + i]?.lasts_s ?? later.seconds;
      draw(state.at + i, at, held(i), Infinity);
      bounds.push({ at, label: STEPS[later.key] ?? later.key });
      end = Math.max(at + lasts - held(i), i ? 0 : now);
      ends.push(end);
    });
  const first = bounds[0]?.at ?? 0;
  const here = bounds.length - Math.max(1, ends.length);
  const last = Math.max(ends.at(-1) ?? 0, run.live ? now : run.end_s);
  const range: [number, number] =
    view === "whole"
      ? [Math.min(first, now), last]
      : view === "step"
        ? [bounds[here]?.at ?? 0, ends[0] ?? run.spans.find((s) => s.end_s >= now)?.end_s ?? last]
        : [
            bounds[Math.max(0, here - BEFORE)]?.at ?? 0,
            ends[Math.min(Math.max(1, BEFORE - here), ends.length - 1)] ?? last,
          ];
  return { bounds, bands, range: range[1] > range[0] ? range : ([range[0], range[0] + 60] as [number, number]) };
}
