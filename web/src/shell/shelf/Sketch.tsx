import type { Drawing } from "../../api/client";
import { Items } from "../../drawings/Drawn";

/** The single-line diagram without words, small. */
export function Sketch({ drawing }: { drawing: Drawing }) {
  return (
    <svg
      className="drawing sketch"
      viewBox={`0 0 ${drawing.width} ${drawing.height}`}
      preserveAspectRatio="xMidYMid meet"
      aria-hidden
    >
      <Items items={drawing.items} />
    </svg>
  );
}
