/** Solids of the box as the core has them, made ready to be drawn: mm; x to the right, y to the back, z up, as in the document. */
import { BufferGeometry, Float32BufferAttribute, Vector3 } from "three";
import type { BoxDrawn, DesignDocument } from "../../api/client";

export type Vec = [number, number, number];
export type Case = NonNullable<DesignDocument["box"]["case"]>;
export type Hollow = NonNullable<BoxDrawn["hollow"]>;
type Side = "front" | "back" | "left" | "right";

const SIDES: Side[] = ["front", "back", "left", "right"];
const OUTWARD: Record<string, Vec> = {
  front: [0, -1, 0],
  back: [0, 1, 0],
  left: [-1, 0, 0],
  right: [1, 0, 0],
  lid: [0, 0, 1],
  floor: [0, 0, -1],
};

export const outward = (face: string): Vec => OUTWARD[face] ?? [0, 0, 1];
export const sizeOf = (solid: number[]): Vec => [solid[3]! - solid[0]!, solid[4]! - solid[1]!, solid[5]! - solid[2]!];
export const middleOf = (solid: number[]): Vec => [
  (solid[0]! + solid[3]!) / 2,
  (solid[1]! + solid[4]!) / 2,
  (solid[2]! + solid[5]!) / 2,
];

/** What stands on a face outside: from where something is in it out through the wall and so far beyond. */
export function outside(face: string, solid: number[], wall: number, beyond: number): number[] {
  const way = outward(face);
  const out = [...solid];
  way.forEach((sign, axis) => {
    if (sign < 0) [out[axis], out[axis + 3]] = [solid[axis]! - wall - beyond, solid[axis]!];
    if (sign > 0) [out[axis], out[axis + 3]] = [solid[axis + 3]!, solid[axis + 3]! + wall + beyond];
  });
  return out;
}

/** The four corners of the box at a height, from the left in front one round; `wall` outside its inside. */
function ring(hollow: Hollow, z: number, wall: number): Vec[] {
  const lean = hollow.taper * (1 - Math.min(Math.max(z, 0), hollow.height) / hollow.height) - wall;
  const [right, back] = [hollow.length - lean, hollow.width - lean];
  return [
    [lean, lean, z],
    [right, lean, z],
    [right, back, z],
    [lean, back, z],
  ];
}

/** Between which corners of a ring a side stands. */
const ENDS: Record<Side, [number, number]> = { front: [0, 1], right: [1, 2], back: [2, 3], left: [3, 0] };

/** A part of the box: between two heights, some of its sides, with a floor or a top. */
export interface Shell {
  sides: Side[];
  low: number;
  high: number;
  floor?: boolean;
  top?: boolean;
}

/** The faces of a part of the box as they are seen from within: each is seen only from there, so that the near ones hide nothing. */
export function within(hollow: Hollow, { sides, low, high, floor, top }: Shell): BufferGeometry {
  const [below, above] = [ring(hollow, low, 0), ring(hollow, high, 0)];
  const faces = sides.map((side) => ENDS[side]).map(([a, b]) => [below[a]!, below[b]!, above[b]!, above[a]!]);
  if (floor) faces.push(below);
  if (top) faces.push(above);
  const middle = new Vector3(hollow.length / 2, hollow.width / 2, hollow.height / 2);
  return ofFaces(faces.map((face) => turnedTo(face, middle)));
}

/** A face with its corners in such an order that it is seen from a point. */
function turnedTo(face: Vec[], from: Vector3): Vec[] {
  const [a, b, c] = face.map((corner) => new Vector3(...corner)) as [Vector3, Vector3, Vector3];
  const normal = b.clone().sub(a).cross(c.clone().sub(a));
  return normal.dot(from.clone().sub(a)) < 0 ? [...face].reverse() : face;
}

function ofFaces(faces: Vec[][]): BufferGeometry {
  const corners = faces.flatMap(([a, b, c, d]) => [a!, b!, c!, a!, c!, d!]);
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new Float32BufferAttribute(corners.flat(), 3));
  geometry.computeVertexNormals();
  return geometry;
}

/** The edges of a part of the box, outside, as pairs of points; of a lid that lies flat, and of a door, those of its plate. */
export function edges(hollow: Hollow, wall: number, { sides, low, high, floor, top }: Shell): BufferGeometry {
  const foot = ring(hollow, low, wall).map(([x, y, z]): Vec => [x, y, floor ? z - wall : z]);
  const head = ring(hollow, high, wall).map(([x, y, z]): Vec => [x, y, top ? z + wall : z]);
  const rim = ring(hollow, high, 0);
  const found: Vec[] = [];
  sides.forEach((side) => {
    const [a, b] = ENDS[side];
    found.push(foot[a]!, foot[b]!, head[a]!, head[b]!, foot[a]!, head[a]!, foot[b]!, head[b]!);
    if (!top) found.push(rim[a]!, rim[b]!);
  });
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new Float32BufferAttribute(found.flat(), 3));
  return geometry;
}

/** The upper edge of the walls, as wide as they are thick. */
export function rim(hollow: Hollow, wall: number, { sides, high }: Shell): BufferGeometry {
  const [inner, outer] = [ring(hollow, high, 0), ring(hollow, high, wall)];
  const from = new Vector3(hollow.length / 2, hollow.width / 2, high + 1000);
  return ofFaces(
    sides.map((side) => ENDS[side]).map(([a, b]) => turnedTo([inner[a]!, inner[b]!, outer[b]!, outer[a]!], from)),
  );
}

/** The box in two: what stands, and what opens; where that hangs, and about which axis it swings. */
export function parted(hollow: Hollow, box: Case): { stands: Shell; opens: Shell; hinge: Vec; axis: Vec } {
  const { wall_mm: wall = 3, lid_mm: lid = 0 } = box;
  if (box.opens === "front") {
    return {
      stands: { sides: ["back", "left", "right"], low: 0, high: hollow.height, floor: true, top: true },
      opens: { sides: ["front"], low: 0, high: hollow.height },
      hinge: [-wall, -wall, 0],
      axis: [0, 0, -1],
    };
  }
  const split = Math.max(0, hollow.height - lid);
  return {
    stands: { sides: SIDES, low: 0, high: split, floor: true },
    opens: { sides: SIDES, low: split, high: hollow.height, top: true },
    hinge: [0, hollow.width + wall, split],
    axis: [-1, 0, 0],
  };
}

/** All that is to be seen, by its corners: the box, the lid where it stands open, what is lifted out. */
export function extents(hollow: Hollow, box: Case, open: boolean, lifted: number[][]): Vec[] {
  const { wall_mm: wall = 3, lid_mm: lid = 0 } = box;
  const solids = [[-wall, -wall, -wall, hollow.length + wall, hollow.width + wall, hollow.height + wall], ...lifted];
  if (open && box.opens === "front") solids.push([-wall - hollow.length / 4, -hollow.length, 0, 0, 0, hollow.height]);
  if (open && box.opens !== "front") {
    const split = Math.max(0, hollow.height - lid);
    solids[0]![5] = split;
    solids.push([
      -wall,
      hollow.width,
      split,
      hollow.length + wall,
      hollow.width * 1.26 + hollow.height - split,
      split + hollow.width,
    ]);
  }
  return solids.flatMap(([x0, y0, z0, x1, y1, z1]) =>
    [x0!, x1!].flatMap((x) => [y0!, y1!].flatMap((y) => [z0!, z1!].map((z): Vec => [x, y, z]))),
  );
}
