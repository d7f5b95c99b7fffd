/** The box itself: what stands, and what opens. Each wall is seen from within only, so that what is near hides nothing. */
import { useMemo, useRef, type ReactNode } from "react";
import type { Group } from "three";
import type { BoxDrawn } from "../../api/client";
import { Solid } from "./Body";
import type { Colours } from "./colours";
import { useGlide } from "./glide";
import { edges, outside, parted, rim, within, type Case, type Hollow, type Shell } from "./space";

/** How far a lid or a door stands open. */
const OPEN = (105 * Math.PI) / 180;
/** How far what the box has on its faces stands out, mm. */
const STANDS_OUT: Record<string, number> = { latch: 11, hinge: 7, handle: 24, wheel: 22 };

interface Props {
  hollow: Hollow;
  box: Case;
  features: BoxDrawn["features"];
  colours: Colours;
  open: boolean;
  /** What opens with the lid. */
  children: ReactNode;
}

export function Hull({ hollow, box, features, colours, open, children }: Props) {
  const lid = useRef<Group>(null);
  const { stands, opens, hinge, axis } = useMemo(() => parted(hollow, box), [hollow, box]);
  useGlide(open ? 1 : 0, (share) => {
    const by = share * OPEN;
    lid.current?.rotation.set(axis[0] * by, axis[1] * by, axis[2] * by);
  });
  const shared = { hollow, wall: box.wall_mm ?? 3, colours };
  const of = (withLid: boolean) =>
    features
      .filter((f) => f.with_lid === withLid && STANDS_OUT[f.kind])
      .map((f, n) => (
        <Solid
          key={n}
          solid={outside(f.face, f.solid, shared.wall, STANDS_OUT[f.kind]!)}
          fill={colours[f.kind === "latch" ? "copper-light" : "copper-wash"]}
          edge={colours.copper}
        />
      ));
  return (
    <>
      <Walls {...shared} shell={stands} />
      {of(false)}
      <group position={hinge}>
        <group ref={lid}>
          <group position={[-hinge[0], -hinge[1], -hinge[2]]}>
            <Walls {...shared} shell={opens} />
            {of(true)}
            {children}
          </group>
        </group>
      </group>
    </>
  );
}

function Walls({ hollow, wall, shell, colours }: { hollow: Hollow; wall: number; shell: Shell; colours: Colours }) {
  const [inner, upper, lines] = useMemo(
    () => [within(hollow, shell), rim(hollow, wall, shell), edges(hollow, wall, shell)],
    [hollow, wall, shell],
  );
  return (
    <>
      <mesh geometry={inner} raycast={() => undefined}>
        <meshLambertMaterial color={colours.paper} polygonOffset polygonOffsetFactor={2} polygonOffsetUnits={2} />
      </mesh>
      {!shell.top && (
        <mesh geometry={upper} raycast={() => undefined}>
          <meshLambertMaterial color={colours.sheet} polygonOffset polygonOffsetFactor={1} polygonOffsetUnits={1} />
        </mesh>
      )}
      <lineSegments geometry={lines} raycast={() => undefined}>
        <lineBasicMaterial color={colours.ink} />
      </lineSegments>
    </>
  );
}
