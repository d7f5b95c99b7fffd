/** Turned by hand, by finger or by key; drawn so large that all of it is seen, and anew only when something changes. */
import { useThree, type RootState } from "@react-three/fiber";
import { useEffect, useImperativeHandle, useRef, type Ref } from "react";
import { Box3, OrthographicCamera, Spherical, Vector3 } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Vec } from "./space";

/** Degrees about the box from the front to the right, and above its floor. */
export type From = [number, number];
export interface Hand {
  /** Looks at the box from somewhere. */
  from: (from: From) => void;
  turn: (right: number, up: number) => void;
  zoom: (by: number) => void;
}

const RAD = Math.PI / 180;
/** Room about the drawing, as a share of it. */
const ROOM = 1.06;
const [LEAST_ZOOM, MOST_ZOOM] = [0.05, 20];
/** As near to straight from above or below as it goes: there the way to turn is still known. */
const POLE = 0.01;

interface Props {
  hand: Ref<Hand>;
  /** What is to be seen, by its corners. */
  seen: Vec[];
  first: From;
}

export function Turning({ hand, seen, first }: Props) {
  const get = useThree((state) => state.get);
  const { width, height } = useThree((state) => state.size);
  const controls = useRef<OrbitControls>(null);
  const turned = useRef(false);
  const act = (what: (state: RootState, controls: OrbitControls) => void) => {
    if (controls.current) what(get(), controls.current);
  };

  useEffect(() => {
    const { camera, gl, invalidate } = get();
    const made = new OrbitControls(camera, gl.domElement);
    made.addEventListener("change", () => invalidate());
    controls.current = made;
    return () => {
      made.dispose();
      controls.current = null;
    };
  }, [get]);

  const corners = JSON.stringify(seen);
  useEffect(() => {
    act((state, held) => {
      if (!turned.current) look(state, held, ...angles(first));
      turned.current = true;
      fit(state, held, JSON.parse(corners));
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- made to fit when what is seen changes, not when a hand has turned it
  }, [corners, width, height]);

  useImperativeHandle(hand, () => ({
    from: (from) =>
      act((state, held) => {
        look(state, held, ...angles(from));
        fit(state, held, seen);
      }),
    turn: (right, up) =>
      act((state, held) => look(state, held, held.getAzimuthalAngle() + right * RAD, held.getPolarAngle() - up * RAD)),
    zoom: (by) =>
      act(({ camera, invalidate }) => {
        camera.zoom = Math.min(MOST_ZOOM, Math.max(LEAST_ZOOM, camera.zoom * by));
        camera.updateProjectionMatrix();
        invalidate();
      }),
  }));
  return null;
}

/** About the upright axis and down from it, in radians. */
const angles = ([right, up]: From): [number, number] => [right * RAD, (90 - up) * RAD];

/** Looks at what is looked at from another side, as far off as before. */
function look({ camera, invalidate }: RootState, controls: OrbitControls, theta: number, phi: number) {
  const { target } = controls;
  const at = new Spherical(camera.position.distanceTo(target), Math.min(Math.PI - POLE, Math.max(POLE, phi)), theta);
  // A sphere has its axis along y; here z is up.
  const { x, y, z } = new Vector3().setFromSpherical(at);
  camera.position.copy(target).add(new Vector3(x, -z, y));
  controls.update();
  invalidate();
}

/** Brings all of it into the drawing, seen from where it is seen. */
function fit({ camera, size, invalidate }: RootState, controls: OrbitControls, seen: Vec[]) {
  if (!(camera instanceof OrthographicCamera) || !size.width) return;
  const points = seen.map((corner) => new Vector3(...corner));
  const { target } = controls;
  const way = camera.position.clone().sub(target).normalize();
  new Box3().setFromPoints(points).getCenter(target);
  const far = 3 * Math.max(...points.map((point) => point.distanceTo(target)));
  camera.position.copy(target).addScaledVector(way, far);
  camera.near = 1;
  camera.far = 2 * far;
  camera.lookAt(target);
  camera.updateMatrixWorld();
  const drawn = new Box3().setFromPoints(points.map((point) => point.applyMatrix4(camera.matrixWorldInverse)));
  const extent = drawn.getSize(new Vector3());
  camera.zoom = Math.min(size.width / extent.x, size.height / extent.y) / ROOM;
  // To the middle of it as it is drawn, which is not that of its corners.
  const middle = drawn.getCenter(new Vector3()).setZ(-far).applyMatrix4(camera.matrixWorld);
  camera.position.add(middle.clone().sub(target));
  target.copy(middle);
  camera.updateProjectionMatrix();
  controls.update();
  invalidate();
}
