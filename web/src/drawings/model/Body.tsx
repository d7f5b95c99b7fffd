/** A thing in the box, as the cuboid or the round body that it is; it goes out of the box by itself. */
import type { ThreeEvent } from "@react-three/fiber";
import { useMemo, useRef } from "react";
import { BoxGeometry, CylinderGeometry, EdgesGeometry, Mesh, type Group } from "three";
import type { BoxHandle, Severity } from "../../api/client";
import type { Colour, Colours } from "./colours";
import { useGlide } from "./glide";
import { middleOf, outside, outward, sizeOf, type Vec } from "./space";

const FLANGE = 5;
const ROUND_PARTS = 40;
/** Edges are drawn where faces meet at more than this, degrees: not along what is round. */
const SHARP = 30;
const unseen = () => undefined;
/** A pointer that moved no more than this between down and up picked something, px. */
const A_CLICK = 5;
const FILLS: Record<string, [Colour, Colour]> = {
  cells: ["holds-wash", "ink"],
  "mains-box": ["note-wash", "ac"],
  board: ["rule-soft", "faint"],
  zone: ["copper-wash", "copper"],
};

interface Props {
  handle: BoxHandle;
  wall: number;
  colours: Colours;
  /** Where it goes to when it is taken out. */
  way: Vec;
  isOut: boolean;
  selected: boolean;
  worst?: Severity;
  onSelect: (place: string) => void;
  onOver: (place: string) => void;
  /** Tells of its body, by which its name is placed. */
  known: (place: string, mesh: Mesh | null) => void;
}

export function Body({ handle, wall, colours, way, isOut, selected, worst, onSelect, onOver, known }: Props) {
  const group = useRef<Group>(null);
  useGlide(isOut ? 1 : 0, (share) => group.current?.position.set(way[0] * share, way[1] * share, way[2] * share));
  const [fill, edge] = FILLS[handle.role] ?? ["sheet", "ink"];
  const bad: "stop" | "mend" | undefined = worst === "note" ? undefined : worst;
  const paint = {
    fill: colours[selected ? "copper-light" : bad ? (`${bad}-wash` as const) : fill],
    edge: colours[selected ? "copper" : (bad ?? edge)],
  };
  const fixed = handle.place.startsWith("/box/case/");
  const events = fixed
    ? {}
    : {
        onClick: (event: ThreeEvent<MouseEvent>) => {
          event.stopPropagation();
          if (event.delta <= A_CLICK) onSelect(handle.place);
        },
        onPointerOver: (event: ThreeEvent<PointerEvent>) => {
          event.stopPropagation();
          onOver(handle.place);
        },
        onPointerOut: () => onOver(""),
      };
  const round = handle.outline?.[4] === true;
  const plate = handle.face && !fixed ? outside(handle.face, handle.solid, wall, FLANGE) : undefined;
  return (
    <group ref={group} {...events}>
      {Math.min(...sizeOf(handle.solid)) > 0.5 && (
        <Solid
          solid={handle.solid}
          along={round ? handle.face : ""}
          {...paint}
          known={plate ? undefined : (mesh) => known(handle.place, mesh)}
        />
      )}
      {plate && (
        <Solid solid={plate} along={round ? handle.face : ""} {...paint} known={(mesh) => known(handle.place, mesh)} />
      )}
      {selected &&
        handle.rooms?.map((room, n) => <Solid key={n} solid={room} fill={colours.note} edge={colours.note} clear />)}
    </group>
  );
}

/** A cuboid with its edges, or what is round along the outward way of a face; clear: only its edges, and a breath of its colour. */
export function Solid({
  solid,
  along = "",
  fill,
  edge,
  clear = false,
  known,
}: {
  solid: number[];
  along?: string;
  fill: string;
  edge: string;
  clear?: boolean;
  known?: (mesh: Mesh | null) => void;
}) {
  const [width, depth, height] = sizeOf(solid);
  const [body, lines] = useMemo(() => {
    const shape = along ? round([width, depth, height], along) : new BoxGeometry(width, depth, height);
    return [shape, new EdgesGeometry(shape, SHARP)];
  }, [along, width, depth, height]);
  const [x, , z] = along ? outward(along) : [0, 0, 0];
  return (
    // What is round stands along its own y until it is turned to its face.
    <group position={middleOf(solid)} rotation={[z ? Math.PI / 2 : 0, 0, x ? Math.PI / 2 : 0]}>
      <mesh ref={known} geometry={body} raycast={clear ? unseen : Mesh.prototype.raycast}>
        <meshLambertMaterial
          color={fill}
          transparent={clear}
          opacity={clear ? 0.1 : 1}
          depthWrite={!clear}
          polygonOffset
          polygonOffsetFactor={1}
          polygonOffsetUnits={1}
        />
      </mesh>
      <lineSegments geometry={lines} raycast={unseen}>
        <lineBasicMaterial color={edge} />
      </lineSegments>
    </group>
  );
}

function round(size: Vec, along: string) {
  const axis = outward(along).findIndex((sign) => sign !== 0);
  const radius = size[(axis + 1) % 3]! / 2;
  return new CylinderGeometry(radius, radius, size[axis], ROUND_PARTS);
}
