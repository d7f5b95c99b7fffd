import type { Figure } from "../api/client";
import { Fig } from "./Figure";

/** A line of a list of figures: what it is, and the figure with its working. */
export function FigureRow({ label, ...what }: { label: string; path?: string; figure?: Figure }) {
  return (
    <div>
      <dt>{label}</dt>
      <dd>
        <Fig {...what} />
      </dd>
    </div>
  );
}
