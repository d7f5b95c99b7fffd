/** The pile seen as a whole: how capacity is spread, resistance against capacity, and where the limits lie. */
import { useState } from "react";
import type { Rack, RackCell } from "../../../api/client";

const W = 378;
const H = 190;
const LEFT = 40;
const BASE = 152;
const TOP = 14;
const BINS = 26;

export interface Limits {
  capacity_share: number;
  resistance_multiple: number;
  arrival_v: number;
  drop_v: number;
}

const LIMITS: [keyof Limits, string, string, number, (v: number) => string][] = [
  ["capacity_share", "Capacity over rated, at least", "%", 100, (v) => String(Number((v * 100).toPrecision(4)))],
  ["resistance_multiple", "Resistance over the median, at most", "×", 1, String],
  ["arrival_v", "Resting voltage, at least", "V", 1, String],
  ["drop_v", "Lost in 14 days, at most", "mV", 1000, (v) => String(Number((v * 1000).toPrecision(4)))],
];

/** What a reason is about, by a word in it. */
const KINDS = [
  ["capacity", "capacity gone"],
  ["resistance", "resistance high"],
  ["arrival", "flat on arrival"],
  ["loses", "discharges itself"],
  ["damaged", "damaged"],
] as const;

/** Cells are compared with those of their own format and chemistry. */
const kindOf = (cell: { format?: string; chemistry?: string }) =>
  `${cell.format || "no format"}, ${(cell.chemistry ?? "").toUpperCase()}`;

function mostOf(kinds: string[]): string | undefined {
  const counts = new Map<string, number>();
  for (const kind of kinds) counts.set(kind, (counts.get(kind) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0];
}

interface Props {
  rack: Rack;
  onLimits: (limits: Limits) => void;
}

export function Pile({ rack, onLimits }: Props) {
  const kinds = [...new Set(rack.cells.map(kindOf))].sort();
  const [chosen, setChosen] = useState("");
  const kind = kinds.includes(chosen) ? chosen : (mostOf(rack.cells.map(kindOf)) ?? "");
  const ofKind = rack.cells.filter((c) => kindOf(c) === kind);
  const cells = ofKind.filter((c) => c.capacity_ah !== null && c.capacity_ah !== undefined);
  const medians = Object.fromEntries(
    rack.medians.filter((m) => kindOf(m) === kind).map((m) => [m.resistance_by, m.mohm]),
  );
  const reasons = new Map<string, number>();
  for (const cell of ofKind) {
    for (const reason of cell.reasons) {
      const kind = KINDS.find(([word]) => reason.includes(word))?.[1] ?? reason;
      reasons.set(kind, (reasons.get(kind) ?? 0) + 1);
    }
  }
  const rejected = ofKind.filter((c) => c.reasons.length).length;
  return (
    <>
      {kinds.length > 1 && (
        <div className="tabs" role="group" aria-label="Kind of cell">
          {kinds.map((k) => (
            <button key={k} type="button" className="tab tight" aria-pressed={k === kind} onClick={() => setChosen(k)}>
              {k}
            </button>
          ))}
        </div>
      )}
      <div className="pile">
        <Histogram cells={cells} />
        <Scatter cells={cells} median={medians} multiple={rack.limits.resistance_multiple} />
      </div>
      <h2 className="form-group-title">Rejected: {rejected}</h2>
      <div className="form-grid">
        {LIMITS.map(([key, label, unit, scale, show]) => (
          <label className="field" key={key} htmlFor={`limit-${key}`}>
            <span className="name">{label}</span>
            <span className="with-unit">
              <input
                id={`limit-${key}`}
                className="form-control form-control-sm"
                key={rack.limits[key]}
                defaultValue={show(rack.limits[key])}
                onBlur={(event) => {
                  const value = Number(event.target.value.replace(",", ".")) / scale;
                  if (value > 0 && value !== rack.limits[key]) onLimits({ ...rack.limits, [key]: value });
                }}
                onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
              />
              <span className="unit">{unit}</span>
            </span>
          </label>
        ))}
      </div>
      {reasons.size > 0 && (
        <p className="faint mt-2">
          {[...reasons].map(([reason, n]) => `${reason}: ${n}`).join("; ")}. A cell may have more than one reason.
        </p>
      )}
    </>
  );
}

const ticks = (low: number, high: number) => {
  const step = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].find((s) => (high - low) / s <= 6) ?? 200;
  const first = Math.ceil(low / step) * step;
  return Array.from({ length: Math.floor((high - first) / step + 1e-6) + 1 }, (_, i) =>
    Number((first + i * step).toFixed(3)),
  );
};

function range(values: number[]): [number, number] {
  if (!values.length) return [0, 1];
  const low = Math.min(...values);
  const high = Math.max(...values);
  const room = (high - low) * 0.05 || 0.5;
  return [Math.max(0, low - room), high + room];
}

function Histogram({ cells }: { cells: RackCell[] }) {
  const [low, high] = range(cells.map((c) => c.capacity_ah!));
  const bins = Array.from({ length: BINS }, () => ({ good: 0, bad: 0 }));
  for (const cell of cells) {
    const bin = bins[Math.min(BINS - 1, Math.floor(((cell.capacity_ah! - low) / (high - low)) * BINS))]!;
    if (cell.reasons.length) bin.bad++;
    else bin.good++;
  }
  const most = Math.max(1, ...bins.map((b) => b.good + b.bad));
  const x = (v: number) => LEFT + ((v - low) / (high - low)) * (W - LEFT - 8);
  const tall = (n: number) => (n / most) * (BASE - TOP);
  const wide = (W - LEFT - 8) / BINS - 1;
  return (
    <svg className="drawing" viewBox={`0 0 ${W} ${H}`} role="img" aria-label="How capacity is spread over the pile">
      {bins.map((bin, i) => {
        const at = LEFT + i * (wide + 1);
        return (
          <g key={i}>
            <rect x={at} y={BASE - tall(bin.good)} width={wide} height={tall(bin.good)} fill="var(--holds)" />
            <rect
              x={at}
              y={BASE - tall(bin.good) - tall(bin.bad)}
              width={wide}
              height={tall(bin.bad)}
              fill="var(--stop)"
            />
          </g>
        );
      })}
      <line x1={LEFT} x2={W - 8} y1={BASE} y2={BASE} stroke="var(--ink)" />
      {ticks(low, high).map((v) => (
        <text key={v} x={x(v)} y={BASE + 14} textAnchor="middle" className="small pale">
          {v}
        </text>
      ))}
      <text x={LEFT - 6} y={TOP + 8} textAnchor="end" className="small pale">
        {most}
      </text>
      <text x={W - 8} y={H - 6} textAnchor="end" className="small pale">
        capacity, Ah
      </text>
    </svg>
  );
}

function Scatter(props: { cells: RackCell[]; median: Record<string, number>; multiple: number }) {
  const cells = props.cells.filter((c) => c.resistance_mohm !== null && c.resistance_mohm !== undefined);
  const [x0, x1] = range(cells.map((c) => c.capacity_ah!));
  const [y0, y1] = range(cells.map((c) => c.resistance_mohm!));
  const x = (v: number) => LEFT + ((v - x0) / (x1 - x0)) * (W - LEFT - 8);
  const y = (v: number) => BASE - ((v - y0) / (y1 - y0)) * (BASE - TOP);
  const lines = Object.entries(props.median).map(([way, median]) => ({ way, at: median * props.multiple }));
  return (
    <svg
      className="drawing"
      viewBox={`0 0 ${W} ${H}`}
      role="img"
      aria-label="Resistance against capacity, a dot a cell"
    >
      {lines
        .filter((line) => line.at < y1)
        .map((line) => (
          <line
            key={line.way}
            x1={LEFT}
            x2={W - 8}
            y1={y(line.at)}
            y2={y(line.at)}
            stroke="var(--stop)"
            strokeDasharray="4 3"
          />
        ))}
      {cells.map((c) => (
        <circle
          key={c.id}
          cx={x(c.capacity_ah!)}
          cy={y(c.resistance_mohm!)}
          r="2.400"
          fill={c.reasons.length ? "var(--stop)" : c.resistance_by === "dc" ? "var(--note)" : "var(--holds)"}
          opacity="0.700"
        >
          <title>{`${c.label}: ${c.capacity_ah} Ah, ${c.resistance_mohm} mΩ`}</title>
        </circle>
      ))}
      <line x1={LEFT} x2={W - 8} y1={BASE} y2={BASE} stroke="var(--ink)" />
      <line x1={LEFT} x2={LEFT} y1={TOP} y2={BASE} stroke="var(--ink)" />
      {ticks(x0, x1).map((v) => (
        <text key={v} x={x(v)} y={BASE + 14} textAnchor="middle" className="small pale">
          {v}
        </text>
      ))}
      {ticks(y0, y1).map((v) => (
        <text key={v} x={LEFT - 5} y={y(v) + 4} textAnchor="end" className="small pale">
          {v}
        </text>
      ))}
      <text x={W - 8} y={H - 6} textAnchor="end" className="small pale">
        capacity, Ah
      </text>
      <text x={LEFT + 6} y={TOP + 4} className="small pale">
        resistance, mΩ
      </text>
    </svg>
  );
}
