import { NavLink, useParams } from "react-router";
import { Mark } from "../figures/Mark";
import { STATIONS } from "../design/stations";
import { useDesign } from "../design/store";

/** The rail: a copper busbar with one bolt a station. */
export function Rail({ station, onGo }: { station: string; onGo: () => void }) {
  const { id } = useParams();
  const { design } = useDesign();
  return (
    <nav className="rail" aria-label="Stations">
      {STATIONS.map(({ key, name, vital, shows }) => (
        <NavLink
          key={key}
          to={`/build/${id}/${key}`}
          className={() => (key === station ? "current" : "")}
          onClick={onGo}
        >
          <Bolt lit={key === station} />
          <span>
            <span className="name">{name}</span>
            <span className="vital">{vital(design)}</span>
          </span>
          <Mark kind={design.assessment.findings.find(shows)?.severity ?? "holds"} />
        </NavLink>
      ))}
    </nav>
  );
}

function Bolt({ lit }: { lit: boolean }) {
  return (
    <svg className="bolt" viewBox="0 0 28 28" aria-hidden>
      <circle cx="14" cy="14" r="12.500" fill="var(--paper)" stroke="var(--faint)" />
      <path
        d="M9 5.500h10l5 8.500-5 8.500H9L4 14z"
        transform="translate(14 14) scale(.82) translate(-14 -14)"
        fill={lit ? "var(--copper)" : "var(--bolt)"}
        stroke="var(--ink)"
      />
      <path d="M9.500 14h9" stroke="var(--paper)" strokeWidth="1.600" />
    </svg>
  );
}
