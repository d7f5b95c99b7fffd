/** Where the energy goes: from nominal to what reaches the loads. */
import { useDesign } from "../design/store";
import { SvgFigure } from "./SvgFigure";

const HEIGHT = 158;
const BASE = 112;
const TOP = 20;
const WIDTH = 780;

interface Bar {
  path: string;
  name: string;
  note: string;
  from: number;
  to: number;
  kind: "start" | "loss" | "end" | "asked";
}

export function Waterfall() {
  const { design } = useDesign();
  const figure = (path: string) => design.assessment.figures[path];
  const value = (path: string) => Number(figure(path)?.value ?? 0);
  const nominal = value("pack/nominal");
  if (!nominal) return null;
  const usable = value("pack/usable");
  const available = value("power/available");
  const asked = value("power/drawn_away");
  const bars: Bar[] = [];
  let level = nominal;
  /** A loss down to a level, left out where there is none. */
  const down = (path: string, name: string, note: string, to: number, always = false) => {
    if (always || level - to > nominal * 0.001) bars.push({ path, name, note, from: to, to: level, kind: "loss" });
    level = to;
  };
  bars.push({ path: "pack/nominal", name: "nominal", note: "", from: 0, to: nominal, kind: "start" });
  down("pack/depth", "depth", "used", level * value("pack/depth") * value("pack/curve_share"), true);
  if (figure("pack/peukert")) down("pack/peukert", "rate", "left", level * value("pack/peukert"), true);
  down("pack/age_factor", "age", "kept", level * value("pack/age_factor"), true);
  down("pack/cold_factor", "cold", "left", usable);
  down("power/cutoff_loss", "cut-off", "left behind", available);
  bars.push({ path: "power/available", name: "usable", note: "", from: 0, to: available, kind: "end" });
  level = available;
  for (const [name, label] of [
    ["wiring", "cables"],
    ["inverter", "inverter"],
    ["idle", "idling"],
    ["converters", "converters"],
    ["standing", "standing"],
  ] as const) {
    down(`power/way/${name}`, label, "", level - value(`power/way/${name}`));
  }
  if (asked > 0) {
    const reaches = value("power/way/reaches");
    bars.push({ path: "power/way/reaches", name: "loads", note: "reached", from: 0, to: reaches, kind: "end" });
  }
  bars.push({ path: "power/drawn_away", name: "asked", note: "of the pack", from: 0, to: asked, kind: "asked" });
  const most = Math.max(nominal, asked);
  const y = (wh: number) => BASE - (wh / most) * (BASE - TOP);
  const pitch = WIDTH / bars.length;
  const fill = {
    start: "var(--copper)",
    loss: "var(--mend-fill)",
    end: "var(--holds)",
    asked: asked > available ? "var(--stop)" : "var(--note)",
  };
  return (
    <svg
      className="drawing"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label="Where the energy goes, from nominal to what reaches the loads"
    >
      {bars.map((bar, i) => {
        const x = i * pitch + pitch * 0.15;
        const high = y(bar.to);
        const linked = i > 0 && bar.kind !== "asked";
        return (
          <g key={bar.name}>
            {linked && (
              <line
                x1={x - pitch * 0.3}
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
              width={pitch * 0.7}
              height={Math.max(1.5, y(bar.from) - high)}
              fill={fill[bar.kind]}
              rx="1"
            />
            <SvgFigure
              path={bar.path}
              x={x + pitch * 0.35}
              y={high - 5}
              textAnchor="middle"
              className={pitch < 72 ? "small strong" : "label strong"}
            />
            <text x={x + pitch * 0.35} y={BASE + 15} textAnchor="middle" className="label condensed">
              {bar.name}
            </text>
            <text x={x + pitch * 0.35} y={BASE + 29} textAnchor="middle" className="small pale">
              {bar.note}
            </text>
          </g>
        );
      })}
      <line x1="8" x2={WIDTH - 8} y1={BASE} y2={BASE} stroke="var(--ink)" />
    </svg>
  );
}
