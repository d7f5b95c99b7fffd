import type { BoxThing } from "../../api/client";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { Mark } from "../../figures/Mark";
import { useOptions } from "../../figures/reference";
import { belongsTo } from "../../design/selection";

interface Props {
  things: BoxThing[];
  selected: string;
  onSelect: (pointer: string) => void;
}

/** A figure without its unit, which the last of a row has. */
const bare = (text = "") => text.replace(/\s\S+$/, "");

/** Everything that goes into the box: where it is, how large and how heavy, what holds it. What has no place comes first. */
export function PartsTable({ things, selected, onSelect }: Props) {
  const { design } = useDesign();
  const { places, fixtures } = design.document.box;
  const holds = useOptions("hold");
  const where = (thing: BoxThing) => {
    const place = places[thing.key];
    if (!place) return thing.where === "outside" ? "stays outside" : "no place yet";
    if (place.at === "face") return `in the ${place.face}`;
    const on = place.on ?? "floor";
    const turned = place.turn ? `, turned ${place.turn}°` : "";
    const name = on.startsWith("fixture:") ? fixtures[on.slice(8)]?.name.toLowerCase() : on;
    return `${on.startsWith("fixture:") || on === "floor" ? "on" : "fixed to"} ${on === "floor" ? "the floor" : on.startsWith("fixture:") ? name : `the ${name}`}${turned}`;
  };
  const held = (thing: BoxThing) => {
    const place = places[thing.key];
    if (place?.at !== "inside") return "";
    const kinds = [...new Set(place.held)];
    return kinds
      .map((key) => {
        const count = (place.held ?? []).filter((h) => h === key).length;
        return `${count} × ${holds.find((o) => o.value === key)?.label ?? key}`;
      })
      .join(", ");
  };
  const order = { nowhere: 0, inside: 1, face: 2, outside: 3 };
  const size = (thing: BoxThing) =>
    ["width", "depth", "height"].map((name, n) => (
      <span key={name}>
        {n > 0 && " × "}
        <Fig figure={thing.figures[name]} text={n < 2 ? bare(thing.figures[name]?.text) : undefined} />
      </span>
    ));
  return (
    <div className="table-scroll mt-3">
      <table className="sheet-table">
        <thead>
          <tr>
            <th style={{ minWidth: 130 }}>part</th>
            <th style={{ minWidth: 110 }}>where</th>
            <th className="num">size</th>
            <th className="num">mass</th>
            <th>held by</th>
            <th style={{ width: 26 }}>
              <span className="visually-hidden">worst finding</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {things
            .toSorted((a, b) => order[a.where] - order[b.where])
            .map((thing) => {
              const worst = design.assessment.findings.find((f) => belongsTo(f.place, thing.place));
              return (
                <tr
                  key={thing.key}
                  data-row={thing.key}
                  className={selected === thing.place ? "selected" : ""}
                  onClick={(event) => event.target instanceof HTMLTableCellElement && onSelect(thing.place)}
                >
                  <td>
                    <button
                      type="button"
                      className="btn btn-bare btn-sm p-0 text-start"
                      onClick={() => onSelect(thing.place)}
                    >
                      {thing.name}
                    </button>
                  </td>
                  <td className={thing.where === "nowhere" ? "" : "faint"}>{where(thing)}</td>
                  <td className="num text-nowrap">{size(thing)}</td>
                  <td className="num">
                    <Fig figure={thing.figures.mass} />
                  </td>
                  <td className="faint">{held(thing)}</td>
                  <td>{worst && <Mark kind={worst.severity} />}</td>
                </tr>
              );
            })}
        </tbody>
      </table>
    </div>
  );
}
