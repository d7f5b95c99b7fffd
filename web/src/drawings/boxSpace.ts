/** What runs into what as something is moved in the box: at once, before the core has judged it. Millimetres, as the core has them. */
import type { BoxHandle, Hollow } from "../api/client";

export type Axis = "x" | "y" | "z";
const AXES: Axis[] = ["x", "y", "z"];
/** What must be free between rigid parts; what belongs to the box may be touched. */
const PART_GAP = 3;
/** How near an edge draws what is moved to it. */
const SNAP = 5;
const ROUNDING = 1e-6;

/** How far two cuboids are apart along the axis on which they are farthest; negative: by how much they run into one another. */
function gap(a: number[], b: number[]): number {
  return Math.max(...[0, 1, 2].map((n) => Math.max(a[n]! - b[n + 3]!, b[n]! - a[n + 3]!)));
}

/** By how much a cuboid runs into a side of the box: sides lean in below, so its lower edges touch first. */
function beyondWalls(solid: number[], hollow: Hollow): number {
  const [x0 = 0, y0 = 0, z0 = 0, x1 = 0, y1 = 0] = solid;
  const lean = hollow.taper * (1 - Math.min(Math.max(z0, 0), hollow.height) / hollow.height);
  return Math.max(lean - x0, x1 - hollow.length + lean, lean - y0, y1 - hollow.width + lean);
}

const shifted = (solid: number[], by: Record<Axis, number>) => solid.map((mm, n) => mm + by[AXES[n % 3]!]);
const ofTheBox = (handle: BoxHandle) => !handle.place.startsWith("/box/places/");

/** What a part inside runs into once it is moved: its name, or a side or the lid of the box; nothing where it is clear. */
function metInside(moved: BoxHandle, by: Record<Axis, number>, all: BoxHandle[], hollow: Hollow): string {
  const solid = shifted(moved.solid, by);
  if (beyondWalls(solid, hollow) > ROUNDING) return "a side of the box";
  if (solid[5]! > hollow.height + ROUNDING) return "the lid";
  const rooms = (moved.rooms ?? []).map((room) => shifted(room, by));
  for (const other of all) {
    if (other.place === moved.place || touches(moved, other)) continue;
    const free = ofTheBox(other) || ofTheBox(moved) ? 0 : PART_GAP;
    if (gap(solid, other.solid) < free - ROUNDING) return other.name;
    if (rooms.some((room) => gap(room, other.solid) < -ROUNDING)) return other.name;
  }
  return rooms.some((room) => beyondWalls(room, hollow) > ROUNDING) ? "a side of the box, with its cables" : "";
}

/** Whether one stands on the other as they are. */
const touches = (a: BoxHandle, b: BoxHandle) => {
  const on = Math.abs(a.solid[2]! - b.solid[5]!) < ROUNDING || Math.abs(b.solid[2]! - a.solid[5]!) < ROUNDING;
  return on && (ofTheBox(a) || ofTheBox(b));
};

type Outline = [number, number, number, number, boolean];

/** How far two outlines on a face are apart; negative: how far one must be moved to be clear of the other. */
function between(a: Outline, b: Outline): number {
  const [ax, ay, aw, ah, aRound] = a;
  const [bx, by, bw, bh, bRound] = b;
  if (aRound && bRound) return Math.hypot(ax - bx, ay - by) - (aw + bw) / 2;
  const [dx, dy] = [Math.abs(ax - bx), Math.abs(ay - by)];
  if (aRound || bRound) {
    const [round, wide, high] = aRound ? [aw, bw, bh] : [bw, aw, ah];
    return apart(dx - wide / 2, dy - high / 2) - round / 2;
  }
  return apart(dx - (aw + bw) / 2, dy - (ah + bh) / 2);
}

const apart = (dx: number, dy: number) => (dx > 0 && dy > 0 ? Math.hypot(dx, dy) : Math.max(dx, dy));

/** What something on a face runs into once it is moved on it. */
function metOnFace(moved: BoxHandle, dx: number, dy: number, all: BoxHandle[], zones: [string, Outline][]): string {
  const [x, y, ...rest] = moved.outline as Outline;
  const there = [x + dx, y + dy, ...rest] as Outline;
  const others = all.filter((h) => h.place !== moved.place && h.face === moved.face && h.outline);
  const named = [...others.map((h) => [h.name, h.outline] as [string, Outline]), ...zones];
  return named.find(([, outline]) => between(there, outline) < -ROUNDING)?.[0] ?? "";
}

/** What a thing runs into where it is moved along the two axes of a view. */
export function met(
  moved: BoxHandle,
  axes: string,
  dh: number,
  dv: number,
  all: BoxHandle[],
  hollow: Hollow,
  zones: [string, Outline][],
): string {
  if (axes === "face") return metOnFace(moved, dh, dv, all, zones);
  const by = { x: 0, y: 0, z: 0, [axes[0]!]: dh, [axes[1]!]: dv };
  return metInside(moved, by, all, hollow);
}

/** A move along one axis, drawn to the edge that it nearly reaches: of a wall, or of another thing with what must be free to it. */
export function snapped(moved: BoxHandle, axis: Axis, by: number, all: BoxHandle[], hollow: Hollow): number {
  const n = AXES.indexOf(axis);
  const [low, high] = [moved.solid[n]! + by, moved.solid[n + 3]! + by];
  const lean = hollow.taper * (1 - Math.max(0, moved.solid[2]!) / hollow.height);
  const size = { x: hollow.length, y: hollow.width, z: hollow.height }[axis];
  const edges = axis === "z" ? [0 - low] : [lean - low, size - lean - high];
  for (const other of all) {
    if (other.place === moved.place) continue;
    const free = ofTheBox(other) || ofTheBox(moved) ? 0 : PART_GAP;
    edges.push(other.solid[n + 3]! + free - low, other.solid[n]! - free - high);
    edges.push(other.solid[n]! - low, other.solid[n + 3]! - high);
  }
  const nearest = edges.reduce((best, d) => (Math.abs(d) < Math.abs(best) ? d : best), Infinity);
  return Math.abs(nearest) <= SNAP ? by + nearest : Math.round(by);
}
