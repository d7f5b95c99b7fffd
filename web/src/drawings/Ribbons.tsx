/** The day as a ribbon for each load, and all of them together. The day begins when the station is unplugged. */
import type { Load } from "../api/client";
import { Fig } from "../figures/Figure";
import { useDesign } from "../app/store";
import { fit } from "./SvgFigure";

const LEFT = 150;
const RIGHT = 690;
const ROW = 27;
const TOP = 22;
const SUM_HEIGHT = 66;
const COLOURS: Record<string, string> = {
  ac: "var(--ac)",
  dc_12v: "var(--positive)",
  usb: "var(--holds)",
  pack: "var(--copper)",
};

export function Ribbons({ selected, onSelect }: { selected: string; onSelect: (pointer: string) => void }) {
  const { design } = useDesign();
  const { document, day } = design;
  const loads = Object.entries(document.loads.items);
  const start = Math.floor(document.brief.ready_h ?? 0);
  const away = document.brief.hours_away ?? 24;
  const x = (hour: number) => LEFT + (((hour - start + 24) % 24) / 24) * (RIGHT - LEFT);
  const ends = (a: number, b: number): [number, number] => {
    const right = x(b);
    return [x(a), right <= x(a) ? RIGHT : right];
  };
  const bottom = TOP + loads.length * ROW;
  const height = bottom + SUM_HEIGHT + 14;
  const most = Math.max(...day.running_w, 1);
  const steps = day.running_w
    .map((watts, i) => ({ watts, at: ends(day.edges_h[i]!, day.edges_h[i + 1]! % 24) }))
    .sort((a, b) => a.at[0] - b.at[0]);
  const base = bottom + SUM_HEIGHT;
  const level = (watts: number) => base - (watts / most) * (SUM_HEIGHT - 16);
  const outline = steps.map((s) => `L${s.at[0]},${level(s.watts)}L${s.at[1]},${level(s.watts)}`).join("");
  const peakStep = day.running_w.indexOf(Math.max(...day.running_w));
  const peakAt = x(day.edges_h[peakStep] ?? 0);
  const backX = away < 24 ? LEFT + (away / 24) * (RIGHT - LEFT) : RIGHT;
  return (
    <div className="position-relative mb-2">
      <svg className="drawing" viewBox={`0 0 780 ${height}`} role="group" aria-label="The day, a ribbon for each load">
        <rect x={backX} y={TOP - 4} width={RIGHT - backX} height={base - TOP + 4} fill="var(--holds-wash)" />
        {backX < RIGHT && (
          <text x={(backX + RIGHT) / 2} y={base - 6} textAnchor="middle" className="small pale">
            {RIGHT - backX > 70 ? "plugged in" : ""}
          </text>
        )}
        {Array.from({ length: 13 }, (_, i) => (start + i * 2) % 24).map((hour, i) => (
          <g key={i}>
            <line
              x1={LEFT + (i / 12) * (RIGHT - LEFT)}
              x2={LEFT + (i / 12) * (RIGHT - LEFT)}
              y1={TOP - 4}
              y2={base}
              stroke="var(--rule-soft)"
            />
            <text x={LEFT + (i / 12) * (RIGHT - LEFT)} y={12} textAnchor="middle" className="small pale condensed">
              {String(hour).padStart(2, "0")}:00
            </text>
          </g>
        ))}
        {loads.map(([key, load], row) => (
          <Ribbon
            key={key}
            id={key}
            load={load}
            y={TOP + row * ROW}
            ends={ends}
            edges={day.edges_h}
            on={day.on[key] ?? []}
            selected={selected === `/loads/items/${key}`}
            onSelect={() => onSelect(`/loads/items/${key}`)}
          />
        ))}
        <path
          d={`M${LEFT},${base}${outline}L${RIGHT},${base}`}
          fill="var(--copper-wash)"
          stroke="var(--copper)"
          strokeWidth="1.500"
        />
        <line x1={peakAt} x2={peakAt} y1={bottom + 2} y2={base} stroke="var(--ink)" strokeDasharray="3 3" />
        <text x="8" y={bottom + 26} className="label strong">
          All together
        </text>
      </svg>
      <div
        className="position-absolute faint"
        style={{ left: "1%", top: `${((bottom + 32) / height) * 100}%`, fontSize: "0.8rem", lineHeight: 1.25 }}
      >
        peak <Fig path="loads/peak" /> at <Fig path="loads/peak_at" />
        <br />
        surge <Fig path="loads/surge" />
      </div>
      <div
        className="position-absolute"
        style={{
          left: "89.500%",
          top: `${((TOP - 4) / height) * 100}%`,
          height: `${((loads.length * ROW) / height) * 100}%`,
          width: "10%",
        }}
      >
        {loads.map(([key], row) => (
          <div
            key={key}
            className="position-absolute small-figure"
            style={{ top: `${(row / loads.length) * 100}%`, right: 6, fontSize: "0.84rem" }}
          >
            <Fig path={`loads/${key}/energy`} />
          </div>
        ))}
      </div>
    </div>
  );
}

/** Stretches that touch, joined. */
function merged(parts: [number, number][]): [number, number][] {
  const out: [number, number][] = [];
  for (const [a, b] of parts.sort((p, q) => p[0] - q[0])) {
    const last = out.at(-1);
    if (last && a - last[1] < 0.01) last[1] = b;
    else out.push([a, b]);
  }
  return out;
}

interface RibbonProps {
  id: string;
  load: Load;
  y: number;
  ends: (a: number, b: number) => [number, number];
  edges: number[];
  on: boolean[];
  selected: boolean;
  onSelect: () => void;
}

function Ribbon({ load, y, ends, edges, on, selected, onSelect }: RibbonProps) {
  const colour = COLOURS[load.supply ?? "ac"] ?? "var(--ac)";
  const thick = Math.min(16, 6 + Math.sqrt((load.watts * (load.count ?? 1)) / 12));
  const stretches = merged(on.flatMap((is, i) => (is ? [ends(edges[i]!, edges[i + 1]! % 24)] : [])));
  const duty = load.cycle ? load.cycle.on_min / (load.cycle.on_min + load.cycle.off_min) : 1;
  const name = load.name + ((load.count ?? 1) > 1 ? `, ${load.count}` : "");
  return (
    <g
      className={`ribbon-row pickable ${selected ? "selected" : ""}`}
      role="button"
      tabIndex={0}
      aria-pressed={selected}
      aria-label={`${name}, ${load.watts} W each`}
      onClick={onSelect}
      onKeyDown={(event) => (event.key === "Enter" || event.key === " ") && (event.preventDefault(), onSelect())}
    >
      <rect className="ribbon-back halo" x="1" y={y - 3} width={RIGHT - 2} height={ROW - 3} rx="3" />
      <text x="8" y={y + 13} className="name">
        <title>{name}</title>
        {fit(name, 138, 13.5)}
      </text>
      {stretches.length === 0 && (
        <text x={LEFT + 8} y={y + 13} className="small pale">
          no hours yet
        </text>
      )}
      {stretches.map(([a, b], i) => (
        <g key={i}>
          <rect
            x={a}
            y={y + 10 - thick / 2}
            width={Math.max(1.5, b - a)}
            height={thick}
            rx="2"
            fill={colour}
            opacity={load.cycle ? 0.28 : 0.86}
          />
          {load.cycle &&
            Array.from({ length: Math.max(1, Math.floor((b - a) / 12)) }, (_, n) => (
              <rect
                key={n}
                x={a + n * 12}
                y={y + 10 - thick / 2}
                width={Math.max(1, 12 * duty)}
                height={thick}
                fill={colour}
                opacity="0.860"
              />
            ))}
        </g>
      ))}
    </g>
  );
}
