import type { Figure } from "../../api/client";
import { Fig } from "../../figures/Figure";

/** A line of a table with a bar: what it is, how much of the most there is, and the figure. */
export function BarRow({ name, figure, most }: { name: string; figure?: Figure; most: number }) {
  return (
    <tr>
      <td>{name}</td>
      <td className="bar-cell" aria-hidden>
        <span className="bar" style={{ width: `${(100 * Number(figure?.value ?? 0)) / most}%` }} />
      </td>
      <td className="num">
        <Fig figure={figure} />
      </td>
    </tr>
  );
}
