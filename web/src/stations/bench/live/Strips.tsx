/** What is watched of a run: strips with large figures, and what is read besides. */
import { useMemo } from "react";
import type { TestRun } from "../../../api/client";
import { Mark } from "../../../figures/Mark";
import { useShown } from "../../../figures/units";
import type { RunFeed, RunState } from "./feed";
import { RunStrip, type Band, type Bound } from "./Strip";
import { fixed } from "./telling";
import { BESIDE, STRIPS } from "./watched";

/** So long after a step begins the load comes on, s by the clock on the wall. */
const SETTLES_S = 2;

/** What stands at a moment in a course: the last before it. */
function valueAt(course: { t: number[]; v: number[] } | undefined, now: number): number | undefined {
  if (!course?.t.length) return undefined;
  let low = 0;
  let high = course.t.length - 1;
  if (course.t[high]! <= now) return course.v[high];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (course.t[middle]! <= now) low = middle;
    else high = middle;
  }
  return course.v[low];
}

/** What was expected at a moment: the middle of the band, and half its width. */
function expectedAt(bands: Band[], now: number): [number, number] | null {
  const band = bands.findLast((b) => b.t.length > 1 && b.t[0]! <= now && now <= b.t.at(-1)! + 1);
  if (!band) return null;
  const i = Math.max(
    0,
    band.t.findLastIndex((t) => t <= now),
  );
  return [(band.low[i]! + band.high[i]!) / 2, (band.high[i]! - band.low[i]!) / 2];
}

interface RowProps {
  strip: (typeof STRIPS)[number];
  run: TestRun;
  feed: RunFeed;
  state: RunState;
  bounds: Bound[];
  bands: Band[];
  range: [number, number];
  now: number;
}

export function StripRow({ strip, run, feed, state, bounds, bands, range, now }: RowProps) {
  const shown = useShown(strip.unit);
  const course = feed.traces[strip.key]!;
  const upTo = useMemo(() => {
    if (run.live) return course;
    const end = course.t.findLastIndex((t) => t <= now) + 1;
    return { t: course.t.slice(0, end), v: course.v.slice(0, end) };
  }, [course, run.live, now]);
  const value = valueAt(course, now);
  const expected = state.state === "running" ? expectedAt(bands, now) : null;
  const settling = run.live && now - state.begun_s < SETTLES_S * Math.max(1, state.rate);
  const off = value !== undefined && expected !== null && !settling && Math.abs(value - expected[0]) > expected[1];
  const stop = run.lines[strip.line]?.value ?? null;
  return (
    <figure className={`run-strip ${off ? "off" : ""}`} data-strip={strip.key}>
      <figcaption>{strip.title}</figcaption>
      <RunStrip
        title={strip.title}
        course={upTo}
        bands={bands}
        bounds={bounds}
        stop={stop === null ? null : Number(stop)}
        now={now}
        range={range}
        shown={shown}
        colour={strip.colour}
        height={112}
        off={off}
        version={feed.version}
      />
      <div className="run-figure">
        <strong>
          {value === undefined ? "–" : fixed(shown.to(value), strip.digits)} {shown.unit}
        </strong>
        {expected && (
          <span className="faint">
            expected {fixed(shown.to(expected[0]), strip.digits)} ±{" "}
            {fixed(shown.to(expected[0] + expected[1]) - shown.to(expected[0]), strip.digits)}
          </span>
        )}
        {expected && value !== undefined && settling && <span className="faint">just begun</span>}
        {expected && value !== undefined && !settling && (
          <span className={off ? "run-off" : "run-in"}>
            <Mark kind={off ? "mend" : "holds"} hidden /> {off ? "out of band" : "in band"}
          </span>
        )}
      </div>
    </figure>
  );
}

/** What is read besides, as figures alone. */
export function Beside({
  feed,
  state,
  now,
  bands,
}: {
  feed: RunFeed;
  state: RunState;
  now: number;
  bands: Record<string, Band[]>;
}) {
  return (
    <dl className="run-beside">
      {BESIDE.filter(({ key }) => key in feed.traces).map(({ key, title, unit, digits }) => (
        <BesideOne
          key={key}
          title={title}
          unit={unit}
          digits={digits}
          value={valueAt(feed.traces[key], now)}
          expected={state.state === "running" ? expectedAt(bands[key] ?? [], now) : null}
          off={state.off.includes(key)}
        />
      ))}
    </dl>
  );
}

interface BesideProps {
  title: string;
  unit: string;
  digits: number;
  value: number | undefined;
  expected: [number, number] | null;
  off: boolean;
}

function BesideOne({ title, unit, digits, value, expected, off }: BesideProps) {
  const shown = useShown(unit);
  return (
    <div>
      <dt>{title}</dt>
      <dd className={off ? "off" : ""}>
        <strong>{value === undefined ? "–" : `${fixed(shown.to(value), digits)} ${shown.unit}`}</strong>
        {expected && <span className="faint"> of {fixed(shown.to(expected[0]), digits)}</span>}
        {off && <span className="visually-hidden">, out of band</span>}
      </dd>
    </div>
  );
}
