/** The day as a ribbon for each load, and all of them together. The day begins when the station is unplugged. */
import { useState, type PointerEvent } from "react";
import type { Load } from "../api/client";
import { Fig } from "../figures/Figure";
import { useDesign, useStore } from "../design/store";
import { SOURCE_COLOURS, stretches } from "./sources";
import { fit } from "./SvgFigure";

const LEFT = 150;
const RIGHT = 690;
const ROW = 27;
const TOP = 22;
const SUM_HEIGHT = 66;
const SOURCE_ROW = 14;
const COLOURS: Record<NonNullable<Load["supply"]>, string> = {
  ac: "var(--ac)",
  dc_12v: "var(--positive)",
  usb: "var(--holds)",
  pack: "var(--copper)",
};

interface Props {
  selected: string;
  onSelect: (pointer: string) => void;
  /** The day of the pattern that is shown, from 0. */
  shownDay: number;
}

export function Ribbons({ selected, onSelect, shownDay }: Props) {
  const { design } = useDesign();
  const { document, day } = design;
  const loads = Object.entries(document.loads.items);
  const start = Math.floor(document.brief.ready_h ?? 0);
  const away = document.brief.hours_away ?? 24;
  const whole = day.edges_h.at(-1) ?? 24;
  const first = shownDay * 24 + start;
  /** Where hours after the beginning of the shown day stand. */
  const at = (hours: number) => LEFT + (hours / 24) * (RIGHT - LEFT);
  /** The part of a step of the pattern that falls into the shown day, as places on the sheet. */
  const ends = (a: number, b: number): [number, number][] =>
    [0, whole].flatMap((turn): [number, number][] => {
      const from = Math.max(a + turn - first, 0);
      const to = Math.min(b + turn - first, 24);
      return to > from ? [[at(from), at(to)]] : [];
    });
  const bottom = TOP + loads.length * ROW;
  const sources = design.assessment.charging;
  const height = bottom + SUM_HEIGHT + 14 + sources.length * SOURCE_ROW;
  const most = Math.max(...day.running_w, 1);
  const steps = day.running_w
    .flatMap((watts, i) => ends(day.edges_h[i]!, day.edges_h[i + 1]!).map((place) => ({ watts, at: place })))
    .sort((a, b) => a.at[0] - b.at[0]);
  const base = bottom + SUM_HEIGHT;
  const level = (watts: number) => base - (watts / most) * (SUM_HEIGHT - 16);
  const outline = steps.map((s) => `L${s.at[0]},${level(s.watts)}L${s.at[1]},${level(s.watts)}`).join("");
  const peakStep = day.running_w.indexOf(Math.max(...day.running_w));
  const peakAt = ends(day.edges_h[peakStep] ?? 0, day.edges_h[peakStep + 1] ?? 0)[0]?.[0];
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
            start={start}
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
        {peakAt !== undefined && (
          <line x1={peakAt} x2={peakAt} y1={bottom + 2} y2={base} stroke="var(--ink)" strokeDasharray="3 3" />
        )}
        {sources.map(({ key, kind, hours }, row) => {
          const name = document.charging.sources[key]?.name ?? "";
          const y = base + 8 + row * SOURCE_ROW;
          return (
            <g key={key}>
              <title>{`${name} charges it`}</title>
              <text x="8" y={y + 8} className="small pale">
                {fit(`in: ${name}`, LEFT - 14)}
              </text>
              {stretches(hours, start).map(([a, b]) => (
                <rect
                  key={a}
                  x={at(a - start)}
                  y={y}
                  width={at(b - start) - at(a - start)}
                  height="7"
                  rx="1.5"
                  fill={SOURCE_COLOURS[kind] ?? "var(--note)"}
                  opacity={kind === "solar" ? 0.35 : 0.8}
                />
              ))}
            </g>
          );
        })}
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
  start: number;
  ends: (a: number, b: number) => [number, number][];
  edges: number[];
  on: boolean[];
  selected: boolean;
  onSelect: () => void;
}

function Ribbon({ id, load, y, start, ends, edges, on, selected, onSelect }: RibbonProps) {
  const { design } = useDesign();
  const watts = Number(design.assessment.figures[`loads/${id}/running`]?.value ?? 0);
  const colour = COLOURS[load.supply ?? "ac"];
  const thick = Math.min(16, 6 + Math.sqrt(watts / 12));
  const switchedOn = merged(on.flatMap((is, i) => (is ? ends(edges[i]!, edges[i + 1]!) : [])));
  const duty = load.cycle ? load.cycle.on_min / (load.cycle.on_min + load.cycle.off_min) : 1;
  const name = load.name + ((load.count ?? 1) > 1 ? `, ${load.count}` : "");
  return (
    <g
      className={`ribbon-row pickable ${selected ? "selected" : ""}`}
      role="button"
      tabIndex={0}
      aria-pressed={selected}
      aria-label={`${name}, ${Math.round(watts)} W`}
      onClick={onSelect}
      onKeyDown={(event) => (event.key === "Enter" || event.key === " ") && (event.preventDefault(), onSelect())}
    >
      <rect className="ribbon-back halo" x="1" y={y - 3} width={RIGHT - 2} height={ROW - 3} rx="3" />
      <text x="8" y={y + 13} className="name">
        <title>{name}</title>
        {fit(name, 138, 13.5)}
      </text>
      {switchedOn.length === 0 && (
        <text x={LEFT + 8} y={y + 13} className="small pale">
          {Object.keys(load.windows ?? {}).length ? "not on this day" : "no hours yet"}
        </text>
      )}
      {switchedOn.map(([a, b], i) => (
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
      {selected && switchedOn.length > 0 && <Handles id={id} load={load} y={y + 10} start={start} />}
    </g>
  );
}

const SNAP_H = 0.25;
const said = (hour: number) =>
  `${String(Math.floor(hour)).padStart(2, "0")}:${String(Math.round((hour % 1) * 60)).padStart(2, "0")}`;

/** The ends of the windows of the selected load: dragged, or moved by arrow keys, a quarter of an hour at a time. */
function Handles({ id, load, y, start }: { id: string; load: Load; y: number; start: number }) {
  const store = useStore();
  const [moving, setMoving] = useState<{ key: string; end: "from_h" | "to_h"; hour: number } | null>(null);
  const place = (hour: number, end: "from_h" | "to_h") => {
    const after = (hour - start + 24) % 24;
    return LEFT + ((end === "to_h" && after === 0 ? 24 : after) / 24) * (RIGHT - LEFT);
  };
  const put = (key: string, end: "from_h" | "to_h", hour: number) => {
    const window = load.windows?.[key];
    const other = end === "from_h" ? window?.to_h : window?.from_h;
    if (!window || hour === window[end] || hour % 24 === (other ?? 0) % 24) return;
    const pointer = `/loads/items/${id}/windows/${key}/${end}`;
    const label = `${load.name} ${end === "from_h" ? "from" : "to"} ${said(hour)}`;
    store.change([{ op: "replace", path: pointer, value: hour }], label, pointer);
  };
  const hourAt = (event: PointerEvent<SVGElement>, end: "from_h" | "to_h") => {
    const svg = event.currentTarget.ownerSVGElement!;
    const box = svg.getBoundingClientRect();
    const x = ((event.clientX - box.left) / box.width) * 780;
    const after = Math.min(24, Math.max(0, ((x - LEFT) / (RIGHT - LEFT)) * 24));
    const hour = Math.round((after + start) / SNAP_H) * SNAP_H;
    return end === "to_h" && hour === 24 ? 24 : hour % 24;
  };
  return (
    <>
      {Object.entries(load.windows ?? {}).flatMap(([key, window]) =>
        (["from_h", "to_h"] as const).map((end) => {
          const active = moving?.key === key && moving.end === end;
          const hour = active ? moving.hour : window[end];
          const x = place(hour, end);
          return (
            <g
              key={key + end}
              className="handle"
              role="slider"
              tabIndex={0}
              aria-label={`${load.name}: ${end === "from_h" ? "on from" : "off at"}`}
              aria-valuemin={0}
              aria-valuemax={24}
              aria-valuenow={hour}
              aria-valuetext={said(hour)}
              onClick={(event) => event.stopPropagation()}
              onPointerDown={(event) => {
                event.stopPropagation();
                event.currentTarget.setPointerCapture(event.pointerId);
                setMoving({ key, end, hour: window[end] });
              }}
              onPointerMove={(event) => active && setMoving({ key, end, hour: hourAt(event, end) })}
              onPointerUp={() => {
                if (active) put(key, end, moving.hour);
                setMoving(null);
              }}
              onPointerCancel={() => setMoving(null)}
              onKeyDown={(event) => {
                const by = { ArrowLeft: -SNAP_H, ArrowRight: SNAP_H }[event.key];
                if (by === undefined) return;
                event.preventDefault();
                event.stopPropagation();
                const next = (Math.round(window[end] / SNAP_H) * SNAP_H + by + 24) % 24;
                put(key, end, end === "to_h" && next === 0 ? 24 : next);
              }}
            >
              <rect x={x - 9} y={y - 13} width="18" height="26" fill="transparent" />
              <rect x={x - 3} y={y - 9} width="6" height="18" rx="3" className="grip" />
              {active && (
                <text x={x} y={y - 13} textAnchor="middle" className="small strong">
                  {said(hour)}
                </text>
              )}
            </g>
          );
        }),
      )}
    </>
  );
}
