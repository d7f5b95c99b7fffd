/** Where the energy goes: from nominal to what can be used. */
import type { Figure } from "../api/client";
import { useDesign } from "../app/store";
import { SvgFigure } from "./SvgFigure";

const HEIGHT = 150;
const BASE = 112;
const TOP = 20;

interface Bar {
  path?: string;
  name: string;
  note: string;
  from: number;
  to: number;
  kind: "start" | "loss" | "end";
}

export function Waterfall() {
  const { design } = useDesign();
  const figure = (path: string) => design.assessment.figures[path] as Figure | undefined;
  const value = (path: string) => Number(figure(path)?.value ?? 0);
  const nominal = value("pack/nominal");
  if (!nominal) return null;
  const depth = nominal * value("pack/depth");
  const aged = depth * value("pack/age_factor");
  const usable = value("pack/usable");
  const available = value("power/available");
  const bars: Bar[] = [
    { path: "pack/nominal", name: "nominal", note: "", from: 0, to: nominal, kind: "start" },
    { path: "pack/depth", name: "depth", note: "used", from: depth, to: nominal, kind: "loss" },
    { path: "pack/age_factor", name: "age", note: "kept", from: aged, to: depth, kind: "loss" },
    { path: "pack/cold_factor", name: "cold", note: "left", from: usable, to: aged, kind: "loss" },
    { path: "power/cutoff_loss", name: "cut-off", note: "left behind", from: available, to: usable, kind: "loss" },
    { path: "power/available", name: "usable", note: "", from: 0, to: available, kind: "end" },
    {
      path: "power/drawn_away",
      name: "asked",
      note: "between charges",
      from: 0,
      to: value("power/drawn_away"),
      kind: "start",
    },
  ];
  const most = Math.max(nominal, value("power/drawn_away"));
  const y = (wh: number) => BASE - (wh / most) * (BASE - TOP);
  const pitch = 780 / bars.length;
  const short = value("power/drawn_away") > available;
  const fill = { start: "var(--copper)", loss: "var(--mend-fill)", end: "var(--holds)" };
  return (
    <svg
      className="drawing"
      viewBox={`0 0 780 ${HEIGHT}`}
      role="img"
      aria-label="Where the energy goes, from nominal to usable"
    >
      {bars.map((bar, i) => {
        const x = i * pitch + pitch * 0.18;
        const high = y(bar.to);
        const tall = Math.max(1.5, y(bar.from) - high);
        const asked = bar.name === "asked";
        return (
          <g key={bar.name}>
            {i > 0 && i < 6 && (
              <line
                x1={x - pitch * 0.36}
                x2={x}
                y1={y(bar.to)}
                y2={y(bar.to)}
                stroke="var(--faint)"
                strokeDasharray="2 2"
              />
            )}
            <rect
              x={x}
              y={high}
              width={pitch * 0.64}
              height={tall}
              fill={asked ? (short ? "var(--stop)" : "var(--note)") : fill[bar.kind]}
              rx="1"
            />
            {bar.path && (
              <SvgFigure
                path={bar.path}
                x={x + pitch * 0.32}
                y={high - 5}
                textAnchor="middle"
                className="label strong"
              />
            )}
            <text x={x + pitch * 0.32} y={BASE + 15} textAnchor="middle" className="label condensed">
              {bar.name}
            </text>
            <text x={x + pitch * 0.32} y={BASE + 29} textAnchor="middle" className="small pale">
              {bar.note}
            </text>
          </g>
        );
      })}
      <line x1="8" x2="772" y1={BASE} y2={BASE} stroke="var(--ink)" />
    </svg>
  );
}
