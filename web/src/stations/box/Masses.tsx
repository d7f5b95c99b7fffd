import type { BoxThing } from "../../api/client";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { BarRow } from "./BarRow";

/** What everything weighs, as bars, the heaviest first, with the sum, and what each hand bears. */
export function Masses({ things }: { things: BoxThing[] }) {
  const { assessment, document } = useDesign().design;
  const { figures } = assessment;
  const shelves = Object.values(document.box.fixtures).map((fixture) => fixture.name);
  const carried = things.filter((t) => t.where !== "outside");
  const number = (thing: BoxThing) => Number(thing.figures.mass?.value ?? 0);
  const heaviest = carried.toSorted((a, b) => number(b) - number(a));
  const most = Math.max(1e-9, ...heaviest.map(number));
  const sum = figures["box/mass"];
  return (
    <div className="masses">
      <table className="sheet-table">
        <caption className="visually-hidden">What everything weighs</caption>
        <tbody>
          {heaviest.map((thing) => (
            <BarRow key={thing.key} name={thing.name} figure={thing.figures.mass} most={most} />
          ))}
          {Object.entries(sum?.inputs ?? {})
            .filter(([, figure]) => shelves.includes(figure.label ?? ""))
            .map(([key, figure]) => (
              <tr key={key}>
                <td>{figure.label}</td>
                <td />
                <td className="num">
                  <Fig figure={figure} />
                </td>
              </tr>
            ))}
          <tr>
            <td>Cables with their lugs</td>
            <td />
            <td className="num">
              <Fig path="box/wiring" />
            </td>
          </tr>
          <tr>
            <td>The box itself</td>
            <td />
            <td className="num">
              <Fig figure={sum?.inputs?.box} />
            </td>
          </tr>
          <tr className="sum">
            <td>All, with the box</td>
            <td />
            <td className="num">{sum && <Fig path="box/mass" />}</td>
          </tr>
        </tbody>
      </table>
      <p className="legend">
        The left hand bears <Fig path="box/hand_left" />, the right <Fig path="box/hand_right" />. It tips at{" "}
        <Fig path="box/tips_at" />.
      </p>
    </div>
  );
}
