/** A strip of a load test: what was read, over the band that was expected before it was, with the stop line and the bounds of the steps. */
import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { axisInk, role, useThemeTurns } from "../../../drawings/inks";
import type { Shown } from "../../../design/units";

/** A stretch of a band: moments, and the least and the most at each. */
export interface Band {
  t: number[];
  low: number[];
  high: number[];
}

export interface Bound {
  at: number;
  label: string;
}

interface Props {
  title: string;
  course: { t: number[]; v: number[] };
  bands: Band[];
  bounds: Bound[];
  stop: number | null;
  /** The moment that is now; drawn as a line. */
  now: number;
  range: [number, number];
  shown: Shown;
  colour: string;
  height: number;
  off: boolean;
  version: number;
}

const LETTERS = 11;
/** A stop line is drawn where the course comes so near to it, in heights of what is drawn. */
const NEAR = 1.2;
/** So many heights are left free above and below. */
const ROOM = 0.12;

export function RunStrip(props: Props) {
  const { title, course, range, shown, colour, height, version } = props;
  const host = useRef<HTMLDivElement>(null);
  const chart = useRef<uPlot | null>(null);
  const drawn = useRef(props);
  const theme = useThemeTurns();
  useEffect(() => {
    drawn.current = props;
  });
  useEffect(() => {
    const box = host.current;
    if (!box) return;
    const axis = axisInk();
    const made = new uPlot(
      {
        width: box.clientWidth || 600,
        height,
        legend: { show: false },
        padding: [4, 6, 0, 0],
        cursor: { show: false },
        scales: {
          x: { time: false, range: () => drawn.current.range },
          y: { range: () => extent(drawn.current) },
        },
        axes: [
          { ...axis, size: 4, values: (_, ticks) => ticks.map(() => "") },
          { ...axis, size: 44, space: 22 },
        ],
        series: [{}, { stroke: role(colour), width: 1.6, points: { show: false } }],
        hooks: {
          drawAxes: [(u) => drawBelow(u, drawn.current, role(colour))],
          draw: [(u) => drawAbove(u, drawn.current)],
        },
      },
      [[], []],
      box,
    );
    chart.current = made;
    const fit = new ResizeObserver(() => made.setSize({ width: box.clientWidth, height }));
    fit.observe(box);
    return () => {
      fit.disconnect();
      made.destroy();
      chart.current = null;
    };
  }, [height, colour, theme]);
  const [from, to] = range;
  useEffect(() => {
    chart.current?.setData([course.t, course.v.map((v) => shown.to(v))]);
  }, [course, from, to, shown, version, theme, props.now, props.off]);
  return <div ref={host} role="img" aria-label={`${title} over the test`} className="run-strip-chart" />;
}

/** What the strip goes over: what was read, what is expected, and the stop line where it is near. */
function extent({ course, bands, stop, range, shown }: Props): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  const see = (value: number) => {
    low = Math.min(low, value);
    high = Math.max(high, value);
  };
  course.t.forEach((t, i) => t >= range[0] && t <= range[1] && see(course.v[i]!));
  for (const band of bands)
    band.t.forEach((t, i) => {
      if (t >= range[0] && t <= range[1]) {
        see(band.low[i]!);
        see(band.high[i]!);
      }
    });
  if (low > high) return [0, 1];
  if (stop !== null && stop > low - NEAR * (high - low) && stop < high + NEAR * (high - low)) see(stop);
  const room = Math.max((high - low) * ROOM, 0.002 * Math.abs(high), 0.01);
  return [shown.to(low - room), shown.to(high + room)];
}

/** Below the course: the bands, and where steps begin. */
function drawBelow(u: uPlot, { bands, bounds, range, shown }: Props, colour: string) {
  const { ctx, bbox } = u;
  const ratio = window.devicePixelRatio || 1;
  const x = (t: number) => u.valToPos(Math.min(Math.max(t, range[0]), range[1]), "x", true);
  const y = (v: number) => u.valToPos(shown.to(v), "y", true);
  ctx.save();
  ctx.beginPath();
  ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height);
  ctx.clip();
  ctx.fillStyle = colour;
  ctx.globalAlpha = 0.18;
  for (const band of bands) {
    if (band.t.length < 2 || band.t[0]! > range[1] || band.t.at(-1)! < range[0]) continue;
    ctx.beginPath();
    band.t.forEach((t, i) => (i ? ctx.lineTo(x(t), y(band.high[i]!)) : ctx.moveTo(x(t), y(band.high[i]!))));
    for (let i = band.t.length - 1; i >= 0; i -= 1) ctx.lineTo(x(band.t[i]!), y(band.low[i]!));
    ctx.fill();
  }
  ctx.globalAlpha = 1;
  ctx.strokeStyle = role("--rule");
  ctx.fillStyle = role("--faint");
  ctx.font = `${LETTERS * ratio}px Barlow`;
  ctx.textBaseline = "bottom";
  ctx.textAlign = "left";
  bounds.forEach(({ at, label }, n) => {
    if (at > range[1] || (bounds[n + 1]?.at ?? Infinity) < range[0]) return;
    const left = x(at);
    const room = x(bounds[n + 1]?.at ?? range[1]) - left;
    ctx.beginPath();
    ctx.moveTo(left, bbox.top);
    ctx.lineTo(left, bbox.top + bbox.height);
    ctx.stroke();
    if (ctx.measureText(label).width + 8 * ratio < room)
      ctx.fillText(label, left + 4 * ratio, bbox.top + bbox.height - 2 * ratio);
  });
  ctx.restore();
}

/** Above the course: the stop line, and now. */
function drawAbove(u: uPlot, { stop, now, range, shown, off, course }: Props) {
  const { ctx, bbox } = u;
  const ratio = window.devicePixelRatio || 1;
  ctx.save();
  if (stop !== null) {
    const at = shown.to(stop);
    const { min = 0, max = 0 } = u.scales.y ?? {};
    if (at > min! && at < max!) {
      const y = u.valToPos(at, "y", true);
      ctx.strokeStyle = ctx.fillStyle = role("--stop");
      ctx.setLineDash([6 * ratio, 3 * ratio]);
      ctx.lineWidth = 1.4 * ratio;
      ctx.beginPath();
      ctx.moveTo(bbox.left, y);
      ctx.lineTo(bbox.left + bbox.width, y);
      ctx.stroke();
      ctx.setLineDash([]);
      ctx.font = `600 ${LETTERS * ratio}px Barlow`;
      ctx.textAlign = "right";
      const below = y - bbox.top < 2 * LETTERS * ratio;
      ctx.textBaseline = below ? "top" : "bottom";
      ctx.fillText(
        `stop ${Number(at.toPrecision(4))}`,
        bbox.left + bbox.width - 4 * ratio,
        y + (below ? 2 : -2) * ratio,
      );
    }
  }
  if (now >= range[0] && now <= range[1]) {
    const x = u.valToPos(now, "x", true);
    ctx.strokeStyle = role("--ink");
    ctx.lineWidth = 1.4 * ratio;
    ctx.beginPath();
    ctx.moveTo(x, bbox.top);
    ctx.lineTo(x, bbox.top + bbox.height);
    ctx.stroke();
    const last = course.v.at(-1);
    if (off && last !== undefined) {
      ctx.strokeStyle = role("--mend-fill");
      ctx.lineWidth = 2 * ratio;
      ctx.beginPath();
      ctx.arc(
        u.valToPos(course.t.at(-1)!, "x", true),
        u.valToPos(shown.to(last), "y", true),
        9 * ratio,
        0,
        2 * Math.PI,
      );
      ctx.stroke();
    }
  }
  ctx.restore();
}
