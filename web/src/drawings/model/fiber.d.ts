/**
 * As much of `@react-three/fiber` as is used here. Its own types add an element for each of three's classes to those of React, all of
 * which the types of react-bootstrap pair with one another: more pairs than TypeScript counts.
 */
import type { ReactNode, Ref } from "react";
import type { BufferGeometry, Camera, Group, Mesh, WebGLRenderer } from "three";

type Vec = [number, number, number];

export interface RootState {
  camera: Camera & { zoom: number; updateProjectionMatrix: () => void };
  gl: WebGLRenderer;
  /** Of the drawing, px. */
  size: { width: number; height: number };
  /** Draws again. */
  invalidate: () => void;
  get: () => RootState;
}

export type ThreeEvent<Source> = Source & {
  /** How far the pointer went between down and up, px. */
  delta: number;
  stopPropagation: () => void;
};

interface CanvasProps {
  orthographic?: boolean;
  flat?: boolean;
  frameloop?: "always" | "demand" | "never";
  gl?: { antialias?: boolean; preserveDrawingBuffer?: boolean };
  camera?: { up?: Vec; position?: Vec };
  onCreated?: (state: RootState) => void;
  children: ReactNode;
}

export function Canvas(props: CanvasProps): ReactNode;
export function useThree(): RootState;
export function useThree<Part>(part: (state: RootState) => Part): Part;
/** Before each drawing; `passed` since the last, s. */
export function useFrame(act: (state: RootState, passed: number) => void): void;

interface Placed {
  position?: Vec;
  rotation?: Vec;
  children?: ReactNode;
}
interface Picked {
  onClick?: (event: ThreeEvent<MouseEvent>) => void;
  onPointerOver?: (event: ThreeEvent<PointerEvent>) => void;
  onPointerOut?: () => void;
}
interface Drawn {
  geometry: BufferGeometry;
  raycast?: Mesh["raycast"];
}
interface Offset {
  polygonOffset?: boolean;
  polygonOffsetFactor?: number;
  polygonOffsetUnits?: number;
}

declare module "react" {
  namespace JSX {
    interface IntrinsicElements {
      group: Placed & Picked & { ref?: Ref<Group> };
      mesh: Placed & Picked & Drawn & { ref?: Ref<Mesh> };
      lineSegments: Placed & Drawn;
      meshLambertMaterial: Offset & { color: string; transparent?: boolean; opacity?: number; depthWrite?: boolean };
      lineBasicMaterial: { color: string };
      ambientLight: { intensity: number };
      directionalLight: { intensity: number; position: Vec };
    }
  }
}
