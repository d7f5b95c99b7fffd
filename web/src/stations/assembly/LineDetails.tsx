import { Link } from "react-router";
import type { BuildLine } from "../../api/client";
import { stationOf } from "../../design/stations";
import { useDesign } from "../../design/store";
import { FigureRow } from "../../figures/FigureRow";
import { QuantityInput } from "../../figures/QuantityInput";

/** A line of the list: how many, at what price, how many are there, and where it is in the drawings. */
export function LineDetails({ line }: { line: BuildLine }) {
  const { design } = useDesign();
  const { places } = line;
  return (
    <>
      <p className="crumb">{line.rating || line.group}</p>
      <h2>{line.what}</h2>
      <dl className="figure-list">
        <FigureRow label="Needed" figure={line.need} />
        <FigureRow label="To buy" figure={line.buy} />
        {line.price && <FigureRow label={line.unit ? "A metre costs" : "One costs"} figure={line.price} />}
        {line.cost && <FigureRow label="Together" figure={line.cost} />}
      </dl>
      {line.packet > 0 && <p className="faint">Sold in packets of {line.packet}.</p>}
      {!line.comes_with && (
        <div className="form-grid mt-2">
          <QuantityInput
            pointer={`/assembly/owned/${line.key}`}
            label="There already"
            unit={line.unit || undefined}
            optional
            entry
            placeholder="none"
          />
          <QuantityInput
            pointer={`/assembly/prices/${line.key}`}
            label="Price of one"
            optional
            entry
            placeholder={line.price?.text ?? "not known"}
          />
        </div>
      )}
      {places.length > 0 && (
        <>
          <h3>Where it is</h3>
          <ul className="reasons">
            {places.slice(0, 12).map((place) => (
              <li key={place}>
                <Link to={`/build/${design.id}/${stationOf(place)}?at=${encodeURIComponent(place)}`}>
                  {called(place, design.document)}
                </Link>
              </li>
            ))}
            {places.length > 12 && <li className="faint">and {places.length - 12} more places</li>}
          </ul>
        </>
      )}
    </>
  );
}

type Document = ReturnType<typeof useDesign>["design"]["document"];

/** What is at a place of the design. */
function called(place: string, { power, box, charging }: Document): string {
  const [, station, list = "", key = ""] = place.split("/");
  const of = key.replace(/^part:/, "");
  const named = {
    network: power.network,
    banks: power.banks,
    sources: charging.sources,
    fixtures: box.fixtures,
    fittings: box.fittings,
    places: power.network,
  };
  const found = named[list as keyof typeof named]?.[list === "places" ? of : key];
  if (found) return found.name;
  if (list === "places") return key.replace(/^.*:/, "");
  const said: Record<string, string> = {
    shunt: "Shunt",
    board: "Protection board",
    negative: "Negative bar",
    case: "Box",
    link: "Links",
    strings: `String ${key.slice(1)}`,
  };
  return said[list] ?? { pack: "Pack", power: "Power path", box: "Box", charging: "Charging" }[station ?? ""] ?? place;
}
