/** Strip charts of a simulated run, one below the other on one time axis, with zoom and a shared cursor. */
import { type Shown } from "../design/units";
import { useShown } from "../figures/units";
import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { axisInk, role, useThemeTurns } from "./inks";
import type { Figure, Simulation } from "../api/client";
import { Fig } from "../figures/Figure";

export interface Strip {
  title: string;
  unit: string;
  lines: { key: keyof Simulation["series"]; label: string; colour: string; scale?: number }[];
  height: number;
  /** What the axis goes over; otherwise what the lines go over. */
  whole?: [number, number];
  /** Drawn as broken lines where the lines come near them. */
  limits?: { value: number; label: string }[];
  /** When something runs: a bar along the bottom. */
  runs?: { key: keyof Simulation["series"]; label: string; colour: string };
}

/** So near a line must come to a limit for that to be drawn, in its unit. */
const NEAR = 12;

/** Hours since midnight of the first day, as people say them. */
export function moment(hour: number): string {
  const minutes = Math.round(hour * 60);
  const day = Math.floor(minutes / 1440) + 1;
  const text = `${String(Math.floor(minutes / 60) % 24).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
  return `day ${day}, ${text}`;
}

interface Props {
  run: Simulation;
  strips: Strip[];
  range: [number, number];
  onRange: (range: [number, number]) => void;
  at: number;
  onAt: (index: number) => void;
}

export function StripChart({ run, strips, range, onRange, at, onAt }: Props) {
  return (
    <div>
      {strips.map((strip, i) => (
        <OneStrip
          key={strip.title}
          run={run}
          strip={strip}
          range={range}
          onRange={onRange}
          at={at}
          onAt={onAt}
          last={i === strips.length - 1}
        />
      ))}
    </div>
  );
}

/** The value of a line at the cursor, with the working that all simulated figures share. */
function reading(run: Simulation, strip: Strip, line: Strip["lines"][number], at: number, shown: Shown): Figure {
  const value = (run.series[line.key][at] ?? 0) * (line.scale ?? 1);
  const { how, inputs } = run.figures.lowest_voltage ?? {};
  const when = moment(run.series.hour[at] ?? 0);
  const text = `${shown.to(value).toFixed(strip.unit === "V" ? 2 : 1)} ${shown.unit}`;
  return { symbol: line.label, label: `${line.label}, ${when}`, value, unit: strip.unit, text, how, inputs };
}

const LETTERS = 11;

/** Broken lines at the limits that lie within the chart, each with its name over its right end. */
function drawLimits(u: uPlot, limits: NonNullable<Strip["limits"]>, shown: Shown) {
  const { ctx, bbox } = u;
  const { min = 0, max = 0 } = u.scales.y ?? {};
  const ratio = window.devicePixelRatio || 1;
  ctx.save();
  ctx.strokeStyle = ctx.fillStyle = role("--mend");
  ctx.font = `${LETTERS * ratio}px Barlow`;
  ctx.textAlign = "right";
  ctx.setLineDash([5 * ratio, 3 * ratio]);
  let above = -Infinity;
  for (const { value, label } of limits.toSorted((a, b) => b.value - a.value)) {
    const at = shown.to(value);
    if (at < min! || at > max!) continue;
    const y = Math.round(u.valToPos(at, "y", true));
    ctx.beginPath();
    ctx.moveTo(bbox.left, y);
    ctx.lineTo(bbox.left + bbox.width, y);
    ctx.stroke();
    // Where two lie close together, the lower one has its name below it.
    const close = y - above < 2 * LETTERS * ratio;
    ctx.textBaseline = close ? "top" : "bottom";
    ctx.fillText(label, bbox.left + bbox.width - 4 * ratio, y + (close ? 2 : -2) * ratio);
    above = y;
  }
  ctx.restore();
}

const RUNS_HIGH = 5;

/** A bar along the bottom for as long as something runs. */
function drawRuns(u: uPlot, run: Simulation, runs: Strip["runs"]) {
  if (!runs) return;
  const { ctx, bbox } = u;
  const high = RUNS_HIGH * (window.devicePixelRatio || 1);
  const hours = run.series.hour;
  const x = (hour: number) => Math.min(bbox.left + bbox.width, Math.max(bbox.left, u.valToPos(hour, "x", true)));
  ctx.save();
  ctx.fillStyle = role(runs.colour);
  const on = run.series[runs.key];
  let begin: number | undefined;
  hours.forEach((hour, i) => {
    const runsNow = (on[i] ?? 0) > 0 && i + 1 < hours.length;
    if (runsNow) begin ??= hour;
    else if (begin !== undefined) {
      ctx.fillRect(x(begin), bbox.top + bbox.height - high, x(hour) - x(begin), high);
      begin = undefined;
    }
  });
  ctx.restore();
}

function OneStrip({
  run,
  strip,
  range,
  onRange,
  at,
  onAt,
  last,
}: Omit<Props, "strips"> & { strip: Strip; last: boolean }) {
  const shown = useShown(strip.unit);
  const host = useRef<HTMLDivElement>(null);
  const chart = useRef<uPlot | null>(null);
  const handlers = useRef({ onRange, onAt });
  const theme = useThemeTurns();
  useEffect(() => {
    handlers.current = { onRange, onAt };
  });
  useEffect(() => {
    const box = host.current;
    if (!box) return;
    const withLimits: uPlot.Range.Function = (_, low, high) => {
      const near = (strip.limits ?? []).map((l) => shown.to(l.value)).filter((v) => v > high && v < high + NEAR);
      return [Math.floor(low) - 1, Math.ceil(Math.max(high, ...near)) + 1];
    };
    const axis = axisInk();
    const options: uPlot.Options = {
      width: box.clientWidth || 700,
      height: strip.height + (last ? 22 : 0),
      legend: { show: false },
      padding: [6, 18, 0, 0],
      cursor: { sync: { key: "bench" }, drag: { x: true, y: false, setScale: false }, points: { size: 6 } },
      scales: { x: { time: false }, y: { range: strip.whole ?? (strip.limits && withLimits) } },
      axes: [
        {
          ...axis,
          size: last ? 24 : 4,
          values: (_, ticks) =>
            last ? ticks.map((t) => `${String(Math.round(t) % 24).padStart(2, "0")}:00`) : ticks.map(() => ""),
          incrs: [1, 2, 3, 6, 12, 24],
          space: 52,
        },
        { ...axis, size: 46, space: 26 },
      ],
      series: [
        {},
        ...strip.lines.map((line) => ({
          label: line.label,
          stroke: role(line.colour),
          width: 1.6,
          points: { show: false },
          paths: uPlot.paths.linear?.(),
        })),
      ],
      hooks: {
        setSelect: [
          (u) => {
            if (u.select.width > 8)
              handlers.current.onRange([
                u.posToVal(u.select.left, "x"),
                u.posToVal(u.select.left + u.select.width, "x"),
              ]);
            u.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false);
          },
        ],
        draw: [(u) => drawLimits(u, strip.limits ?? [], shown), (u) => drawRuns(u, run, strip.runs)],
        setCursor: [(u) => u.cursor.idx != null && u.cursor.event && handlers.current.onAt(u.cursor.idx)],
      },
    };
    const data: uPlot.AlignedData = [
      run.series.hour,
      ...strip.lines.map((line) => run.series[line.key].map((v) => shown.to(v * (line.scale ?? 1)))),
    ];
    const made = new uPlot(options, data, box);
    chart.current = made;
    const fitWidth = new ResizeObserver(() =>
      made.setSize({ width: box.clientWidth, height: strip.height + (last ? 22 : 0) }),
    );
    fitWidth.observe(box);
    return () => {
      fitWidth.disconnect();
      made.destroy();
      chart.current = null;
    };
  }, [run, strip, shown, last, theme]);
  useEffect(() => {
    chart.current?.setScale("x", { min: range[0], max: range[1] });
  }, [range, run, theme]);
  return (
    <div>
      <div className="chart-head">
        {strip.lines.map((line) => (
          <span className="key" key={line.key}>
            <span className="swatch" style={{ background: `var(${line.colour})` }} />
            {line.label}
            <strong>
              <Fig figure={reading(run, strip, line, at, shown)} />
            </strong>
          </span>
        ))}
        {strip.runs && (
          <span className="key">
            <span className="swatch" style={{ background: `var(${strip.runs.colour})` }} />
            {strip.runs.label}
          </span>
        )}
      </div>
      <div ref={host} role="img" aria-label={`${strip.title} over the run`} />
    </div>
  );
}
