import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";

/** How fast what moves comes to where it is to be: what is left of the way is a third after each such time, s. */
const SETTLES_S = 0.1;
const LONGEST_STEP_S = 0.05;
const NEAR = 1e-3;
const still = () => window.matchMedia("(prefers-reduced-motion: reduce)").matches;

/** Something that goes to a value between 0 and 1 in a moment; at once for whoever wants nothing to move. */
export function useGlide(target: number, apply: (value: number) => void) {
  const { invalidate } = useThree();
  const value = useRef(target);
  useEffect(() => invalidate(), [target, invalidate]);
  useFrame((_, passed) => {
    const left = target - value.current;
    const there = Math.abs(left) < NEAR || still();
    value.current = there
      ? target
      : value.current + left * (1 - Math.exp(-Math.min(passed, LONGEST_STEP_S) / SETTLES_S));
    apply(value.current);
    if (!there) invalidate();
  });
}
