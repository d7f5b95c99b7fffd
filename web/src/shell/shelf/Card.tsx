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

/** One build on the shelf: its drawing, figures and verdict; or why it cannot be read. */
export function Card({ item, acts }: Props) {
  return (
    <article className={`build-card${item.shown ? "" : " unreadable"}`}>
      <div className="plate" />
      <div className="squared sketch">{item.shown && <Sketch drawing={item.shown.diagram} />}</div>
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
      <div className="body">
        <Link className="name" to={`/build/${item.id}/loads`}>
          {item.name}
        </Link>
        {item.purpose && <div className="faint">{item.purpose}</div>}
        {item.shown ? (
          <Shown shown={item.shown} demo={Boolean(item.demo)} />
        ) : (
          <p className="problem mb-0" role="note">
            This build cannot be read here: {item.problem}. Open it for its file and its earlier states.
          </p>
        )}
      </div>
    </article>
  );
}

function Shown({ shown, demo }: { shown: NonNullable<ShelfItem["shown"]>; demo: boolean }) {
  const { verdict } = shown;
  const figure = (path: string) => shown.figures[path]?.text ?? "";
  const worst = verdict.stop ? "stop" : verdict.mend ? "mend" : "holds";
  const words = {
    stop: `${verdict.stop} stop${verdict.stop > 1 ? "s" : ""}${verdict.mend ? `, ${verdict.mend} mend${verdict.mend > 1 ? "s" : ""}` : ""}`,
    mend: `${verdict.mend} mend${verdict.mend > 1 ? "s" : ""}`,
    holds: verdict.note ? `holds, ${verdict.note} note${verdict.note > 1 ? "s" : ""}` : "holds",
  };
  return (
    <>
      <dl className="figures mb-0">
        <div>
          <dt>a day</dt>
          <dd>{figure("loads/energy_day")}</dd>
        </div>
        <div>
          <dt>usable</dt>
          <dd>{figure("power/available")}</dd>
        </div>
        <div>
          <dt>pack</dt>
          <dd>
            {figure("pack/v_nom")}, {figure("pack/capacity")}
          </dd>
        </div>
        <div>
          <dt>peak</dt>
          <dd>{figure("power/current")}</dd>
        </div>
      </dl>
      <div className="foot">
        <Mark kind={worst} hidden />
        <strong>{words[worst]}</strong>
        {demo && <span className="chip ms-auto">demo build</span>}
      </div>
    </>
  );
}
