/** The box in three dimensions, from the solids that the core judges: turned by hand, its lid open or shut, its parts lifted out. */
import { Canvas } from "@react-three/fiber";
import { useRef, useState, type RefObject } from "react";
import type { Mesh } from "three";
import type { BoxDrawn, BoxHandle, Severity } from "../../api/client";
import { Mark } from "../../figures/Mark";
import { Body, Solid } from "./Body";
import { useColours, type Colours } from "./colours";
import { Hull } from "./Hull";
import { PlaceNames } from "./Names";
import { extents, outward, type Case, type Hollow, type Vec } from "./space";
import { Turning, type From, type Hand } from "./Turning";

/** How far what is lifted stands over the box, as a share of its height; and what is drawn out of a face before it, mm. */
const LIFTED = 1.12;
const DRAWN_OUT = 70;
const CABLE_MM = 6;
/** Light that leaves a colour as it is above, and a little darker at the sides. */
const [ALL_ROUND, FROM_ABOVE] = [Math.PI * 0.78, Math.PI * 0.24];
const LIGHT: Vec = [-400, -700, 1600];
const [TURN, KEY_ZOOM] = [15, 1.2];

interface Props {
  data: BoxDrawn & { hollow: Hollow };
  box: Case;
  open: boolean;
  /** The places of what is taken out. */
  out: ReadonlySet<string>;
  runs: boolean;
  first: From;
  selected: string;
  onSelect: (place: string) => void;
  worst: (place: string) => Severity | undefined;
  hand: RefObject<Hand | null>;
  /** The drawing cannot be made any more. */
  onLost: () => void;
}

export default function BoxModel({
  data,
  box,
  open,
  out,
  runs,
  first,
  selected,
  onSelect,
  worst,
  hand,
  onLost,
}: Props) {
  const colours = useColours();
  const [over, setOver] = useState("");
  const [held, setHeld] = useState(false);
  const bodies = useRef(new Map<string, Mesh>());
  const labels = useRef<HTMLDivElement>(null);
  const { hollow, handles } = data;
  const way = wayOut(hollow, box);
  const lifted = handles.filter((h) => out.has(h.place)).map((h) => h.solid.map((mm, n) => mm + way(h)[n % 3]!));
  const named = handles.filter((h) => !h.place.startsWith("/box/case/"));
  const known = (place: string, mesh: Mesh | null) => {
    if (mesh) bodies.current.set(place, mesh);
    else bodies.current.delete(place);
  };
  const body = (handle: BoxHandle) => (
    <Body
      key={handle.place}
      handle={handle}
      wall={box.wall_mm ?? 3}
      colours={colours}
      way={way(handle)}
      isOut={out.has(handle.place)}
      selected={selected === handle.place}
      worst={worst(handle.place)}
      onSelect={onSelect}
      onOver={setOver}
      known={known}
    />
  );
  return (
    <div
      className={`model ${over ? "over" : ""}`}
      role="group"
      tabIndex={0}
      aria-label="The box in three dimensions. The arrow keys turn it, plus and minus bring it nearer."
      onFocus={() => setHeld(true)}
      onBlur={() => setHeld(false)}
      // The wheel brings it nearer once it is held; until then it moves the page.
      onWheelCapture={(event) => !held && event.stopPropagation()}
      onKeyDown={(event) => {
        const done = byKey(event.key, hand.current, first);
        if (!done || event.ctrlKey || event.metaKey || event.altKey) return;
        done();
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      <Canvas
        orthographic
        flat
        frameloop="demand"
        gl={{ antialias: true, preserveDrawingBuffer: true }}
        camera={{ up: [0, 0, 1], position: [-300, -900, 700] }}
        onCreated={({ gl }) => gl.domElement.addEventListener("webglcontextlost", onLost)}
      >
        <ambientLight intensity={ALL_ROUND} />
        <directionalLight intensity={FROM_ABOVE} position={LIGHT} />
        <Turning hand={hand} seen={extents(hollow, box, open, lifted)} first={first} />
        <Hull hollow={hollow} box={box} features={data.features} colours={colours} open={open}>
          {handles.filter((h) => h.with_lid).map(body)}
        </Hull>
        {handles.filter((h) => !h.with_lid).map(body)}
        {runs &&
          data.runs
            .filter((r) => !r.ends.some((e) => out.has(e)))
            .map((r) => <Run key={r.of} run={r} colours={colours} />)}
        <PlaceNames bodies={bodies} labels={labels} first={[selected, over]} />
      </Canvas>
      <div ref={labels} className="model-names" aria-hidden>
        {named.map(({ place, name }) => {
          const mark = worst(place);
          return (
            <span key={place} data-key={place} className={`hidden ${selected === place ? "selected" : ""}`}>
              {mark && <Mark kind={mark} hidden />}
              {name}
            </span>
          );
        })}
      </div>
    </div>
  );
}

function byKey(key: string, hand: Hand | null, first: From): (() => void) | undefined {
  if (!hand) return undefined;
  const keys: Record<string, () => void> = {
    ArrowLeft: () => hand.turn(-TURN, 0),
    ArrowRight: () => hand.turn(TURN, 0),
    ArrowUp: () => hand.turn(0, TURN),
    ArrowDown: () => hand.turn(0, -TURN),
    "+": () => hand.zoom(KEY_ZOOM),
    "-": () => hand.zoom(1 / KEY_ZOOM),
    Home: () => hand.from(first),
  };
  return keys[key];
}

/** Which way things go out: up, or to the front through a door; what sits in a face, out of it. */
const wayOut =
  (hollow: Hollow, box: Case) =>
  (handle: BoxHandle): Vec => {
    const inFace = !!handle.outline;
    if (inFace) {
      const far = (handle.deep ?? 0) + DRAWN_OUT;
      const [x, y, z] = outward(handle.face ?? "");
      return [x * far, y * far, z * far];
    }
    return box.opens === "front" ? [0, -hollow.width * LIFTED, 0] : [0, 0, hollow.height * LIFTED];
  };

/** A run as its length is counted: along the axes of the box. */
function Run({ run, colours }: { run: BoxDrawn["runs"][number]; colours: Colours }) {
  const half = CABLE_MM / 2;
  return run.points.slice(1).map((to, n) => {
    const from = run.points[n]!;
    const low = [0, 1, 2].map((axis) => Math.min(from[axis]!, to[axis]!) - half);
    const high = [0, 1, 2].map((axis) => Math.max(from[axis]!, to[axis]!) + half);
    return <Solid key={n} solid={[...low, ...high]} fill={colours.copper} edge={colours["copper-light"]} />;
  });
}
