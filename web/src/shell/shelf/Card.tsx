import Dropdown from "react-bootstrap/Dropdown";
import { Link } from "react-router";
import type { ShelfItem } from "../../api/client";
import { Mark } from "../../figures/Mark";
import { Sketch } from "./Sketch";

interface Props {
  item: ShelfItem;
  /** What can be done with it: its name and act. */
  acts: [string, () => void][];
}

const VITAL: [string, string[]][] = [
  ["a day", ["loads/energy_day"]],
  ["usable", ["power/available"]],
  ["pack", ["pack/v_nom", "pack/capacity"]],
  ["peak", ["power/current"]],
  ["pack weighs", ["pack/mass"]],
];

/** One build on its board of the shelf: drawing, name, vital figures, and the next thing to do; or why it cannot be read. */
export function Card({ item, acts }: Props) {
  const { shown } = item;
  return (
    <article className={`bay${shown ? "" : " unreadable"}`}>
      <div className="sketch">{shown && <Sketch drawing={shown.diagram} />}</div>
      <div className="body">
        <div className="title">
          <Link className="name" to={`/build/${item.id}/${shown?.next.station ?? "loads"}`}>
            {item.name}
          </Link>
          {item.demo && <span className="chip">demo build</span>}
        </div>
        {item.purpose && <div className="faint purpose">{item.purpose}</div>}
        {item.due && (
          <div className="visit-due">
            <Mark kind="mend" hidden /> <Link to={`/build/${item.id}/log?at=/log/visits`}>Visit: {item.due}</Link>
          </div>
        )}
        {shown ? (
          <NextThing id={item.id} shown={shown} />
        ) : (
          <p className="problem mb-0" role="note">
            This build cannot be read here: {item.problem}. Open it for its file and its earlier states.
          </p>
        )}
      </div>
      {shown && (
        <dl className="figures">
          {VITAL.map(([label, paths]) => (
            <div key={label}>
              <dt>{label}</dt>
              <dd>{paths.map((path) => shown.figures[path]?.text ?? "").join(", ")}</dd>
            </div>
          ))}
        </dl>
      )}
      <Dropdown className="menu" align="end">
        <Dropdown.Toggle variant="quiet" size="sm" aria-label={`What can be done with ${item.name}`}>
          …
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {acts.map(([name, act]) => (
            <Dropdown.Item key={name} onClick={act}>
              {name}
            </Dropdown.Item>
          ))}
          <Dropdown.Item href={`/api/designs/${item.id}/file`} download>
            Export the design file
          </Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
    </article>
  );
}

/** How it stands, and where to go on. */
function NextThing({ id, shown }: { id: string; shown: NonNullable<ShelfItem["shown"]> }) {
  const { verdict, next } = shown;
  const worst = verdict.stop ? "stop" : verdict.mend ? "mend" : next.station === "bench" ? "holds" : "unbegun";
  const counts = (["stop", "mend"] as const)
    .filter((kind) => verdict[kind])
    .map((kind) => `${verdict[kind]} ${kind}${verdict[kind] > 1 ? "s" : ""}`);
  const said = { stop: counts.join(", "), mend: counts.join(", "), holds: "holds", unbegun: "begun" }[worst];
  const at = next.place ? `?at=${encodeURIComponent(next.place)}` : "";
  return (
    <div className="next">
      <Mark kind={worst} hidden />
      <strong>{said}</strong>
      <span className="words">
        Next:{" "}
        <Link to={`/build/${id}/${next.station}${at}`} title={next.text}>
          {next.text}
        </Link>
      </span>
    </div>
  );
}
