/**
 * A view of the box, drawn by the core to scale, in which things are moved by hand, by finger and by the arrow keys.
 * While something is moved it is seen at once what it runs into; what is stored, and judged, follows when it is let go.
 */
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { BoxHandle, BoxView as View, DrawingArea, Hollow, Severity } from "../api/client";
import { MarkShape } from "../figures/Mark";
import { met, snapped, type Axis } from "./boxSpace";
import { Items } from "./Drawn";

export interface Moved {
  place: string;
  /** How far along each axis of the document: x, y, z inside; x and y on a face. */
  by: Partial<Record<Axis, number>>;
}

interface Props {
  view: View;
  handles: BoxHandle[];
  hollow: Hollow;
  zones: [string, [number, number, number, number, boolean]][];
  selected: string;
  onSelect: (pointer: string) => void;
  /** keys: it was moved by the arrow keys, step after step. */
  onMove: (moved: Moved, keys: boolean) => void;
  onTurn: (place: string) => void;
  worst: (pointer: string) => Severity | undefined;
}

interface Ghost {
  /** The view in which it is moved. */
  of: View;
  place: string;
  dh: number;
  dv: number;
}

const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};
/** Steps of the arrow keys, mm; with Shift the longer one. */
const [STEP, STRIDE] = [1, 10];
/** What a finger needs, px of the screen at the usual size of the drawing. */
const FINGER = 26;

export function BoxView({ view, handles, hollow, zones, selected, onSelect, onMove, onTurn, worst }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const [kept, setGhost] = useState<Ghost | null>(null);
  const begun = useRef<{ area: DrawingArea; x: number; y: number } | null>(null);
  const { drawing, scale, axes } = view;
  // What was moved is drawn where it went, until the core has drawn it there.
  const ghost = kept?.of === view ? kept : null;
  const handleOf = (pointer: string) => handles.find((h) => h.place === pointer);
  const free = (handle: BoxHandle | undefined, n: 0 | 1) =>
    !!handle && (axes === "face" ? handle.moves === "face" : handle.moves.includes(axes[n]!));
  const along = (handle: BoxHandle, dh: number, dv: number): Ghost => ({
    of: view,
    place: handle.place,
    dh: free(handle, 0) ? dh : 0,
    dv: free(handle, 1) ? dv : 0,
  });
  const drawn = (handle: BoxHandle, dh: number, dv: number): Ghost => {
    const to = along(handle, dh, dv);
    if (axes === "face") return { ...to, dh: Math.round(to.dh), dv: Math.round(to.dv) };
    const snap = (n: 0 | 1, by: number) => (by ? snapped(handle, axes[n] as Axis, by, handles, hollow) : 0);
    return { ...to, dh: snap(0, to.dh), dv: snap(1, to.dv) };
  };
  const told = ({ place, dh, dv }: Ghost): Moved => ({
    place,
    by: axes === "face" ? { x: dh, y: dv } : { [axes[0]!]: dh, [axes[1]!]: dv },
  });

  const down = (area: DrawingArea) => (event: PointerEvent<SVGElement>) => {
    if (event.button) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    begun.current = { area, x: event.clientX, y: event.clientY };
    onSelect(area.pointer);
  };
  const move = (event: PointerEvent<SVGElement>) => {
    const { current } = begun;
    const matrix = svg.current?.getScreenCTM();
    const handle = current && handleOf(current.area.pointer);
    if (!current || !matrix || !handle) return;
    const mm = (px: number) => px / matrix.a / scale;
    setGhost(drawn(handle, mm(event.clientX - current.x), -mm(event.clientY - current.y)));
  };
  const up = () => {
    begun.current = null;
    if (ghost && (ghost.dh || ghost.dv)) onMove(told(ghost), false);
    else setGhost(null);
  };
  const cancel = () => {
    begun.current = null;
    setGhost(null);
  };
  const key = (area: DrawingArea) => (event: KeyboardEvent) => {
    const handle = handleOf(area.pointer);
    const arrow = ARROWS[event.key];
    if (event.key === "Enter" || event.key === " ") onSelect(area.pointer);
    else if (event.key === "Escape") cancel();
    else if (event.key === "t" && !event.ctrlKey && !event.metaKey) onTurn(area.pointer);
    else if (arrow && handle && !event.altKey && !event.ctrlKey && !event.metaKey) {
      const step = event.shiftKey ? STRIDE : STEP;
      const one = along(handle, arrow[0] * step, arrow[1] * step);
      if (one.dh || one.dv) {
        const before = ghost?.place === area.pointer ? ghost : { dh: 0, dv: 0 };
        setGhost({ ...one, dh: before.dh + one.dh, dv: before.dv + one.dv });
        onMove(told(one), true);
      }
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };

  return (
    <svg
      ref={svg}
      className="drawing box-view"
      viewBox={`0 0 ${drawing.width} ${drawing.height}`}
      style={{ maxWidth: drawing.width }}
      role="group"
      aria-label={view.key}
      data-view={view.key}
    >
      <Items items={drawing.items} selected={selected} />
      {drawing.areas.map((area) => {
        const mark = worst(area.pointer);
        const [w, h] = [Math.max(area.w, FINGER), Math.max(area.h, FINGER)];
        return (
          <g
            key={area.pointer}
            className={`pickable movable ${selected === area.pointer ? "selected" : ""}`}
            data-key={area.pointer.split("/").at(-1)}
            onPointerDown={down(area)}
            onPointerMove={move}
            onPointerUp={up}
            onPointerCancel={cancel}
          >
            <title>{area.name}</title>
            <rect x={area.x + (area.w - w) / 2} y={area.y + (area.h - h) / 2} width={w} height={h} fill="transparent" />
            <rect
              className="halo"
              role="button"
              tabIndex={0}
              aria-pressed={selected === area.pointer}
              aria-label={`${area.name}${mark ? `, ${mark}` : ""}`}
              onKeyDown={key(area)}
              x={area.x - 1}
              y={area.y - 1}
              width={area.w + 2}
              height={area.h + 2}
              rx="3"
            />
            {mark && <Marked area={area} kind={mark} />}
          </g>
        );
      })}
      {ghost && <Shadow ghost={ghost} {...{ view, handles, hollow, zones }} />}
    </svg>
  );
}

function Marked({ area, kind }: { area: DrawingArea; kind: Severity }) {
  const [x = 0, y = 0] = area.mark;
  return (
    <svg x={x - 6.5} y={y - 6.5} width="13" height="13" viewBox="0 0 16 16" className={`area-mark mark-${kind}`}>
      <circle cx="8" cy="8" r="9" fill="var(--sheet)" />
      <MarkShape kind={kind} />
    </svg>
  );
}

/** Where something is being moved to, and what it runs into there. */
function Shadow({
  ghost,
  view,
  handles,
  hollow,
  zones,
}: { ghost: Ghost } & Pick<Props, "view" | "handles" | "hollow" | "zones">) {
  const area = view.drawing.areas.find((a) => a.pointer === ghost.place);
  const handle = handles.find((h) => h.place === ghost.place);
  if (!area || !handle) return null;
  const what = met(handle, view.axes, ghost.dh, ghost.dv, handles, hollow, zones);
  const [x, y] = [area.x + ghost.dh * view.scale, area.y - ghost.dv * view.scale];
  const round = handle.outline?.[4] === true;
  const at = { className: "outline", x, y, width: area.w, height: area.h, rx: round ? area.w / 2 : 2 };
  const said = what ? `runs into ${what}` : `${Math.round(ghost.dh)}, ${Math.round(ghost.dv)} mm`;
  return (
    <g className={`shadow ${what ? "clash" : "clear"}`} aria-hidden>
      <rect {...at} />
      <text x={x + area.w / 2} y={Math.max(12, y - 5)} textAnchor="middle" fontSize="12">
        {said}
      </text>
    </g>
  );
}
