import { NavLink, useParams } from "react-router";
import type { DesignOut } from "../api/client";
import { useCountText } from "../figures/Checks";
import { Mark, type MarkKind } from "../figures/Mark";
import { STATIONS, type StationFacts } from "../design/stations";
import { useDesign } from "../design/store";

/**
 * The state of a station: stop or mend by its worst finding, else not begun, else that it holds.
 * Where nothing was decided or judged nothing is said to hold; what is only noted holds.
 */
function stateOf({ findings, checks, begun }: DesignOut["assessment"], { key, shows }: StationFacts): MarkKind {
  const worst = findings.find(shows)?.severity;
  if (worst === "stop" || worst === "mend") return worst;
  if (!begun.includes(key)) return "unbegun";
  return checks.some(shows) || key === "brief" ? "holds" : "open";
}

/** The rail: a copper busbar with one bolt a station. */
export function Rail({ station, onGo }: { station: string; onGo: () => void }) {
  const { id } = useParams();
  const { design } = useDesign();
  const countText = useCountText();
  const { checks } = design.assessment;
  return (
    <nav className="rail" aria-label="Stations">
      {STATIONS.map((facts) => {
        const { key, name, vital } = facts;
        return (
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
            <Mark kind={stateOf(design.assessment, facts)} />
          </NavLink>
        );
      })}
      <NavLink
        to={`/build/${id}/checks`}
        className={() => `all-checks ${station === "checks" ? "current" : ""}`}
        onClick={onGo}
      >
        <svg className="bolt" viewBox="0 0 28 28" aria-hidden>
          <rect x="5" y="4" width="18" height="20" rx="2" fill="var(--paper)" stroke="var(--ink)" />
          <path
            d="M9 10l1.500 1.500L13 8.500M15.500 10.500h4M9 17l1.500 1.500L13 15.500M15.500 17.500h4"
            stroke="var(--ink)"
            fill="none"
          />
        </svg>
        <span>
          <span className="name">Verification</span>
          <span className="vital" title={countText(checks)}>
            {checks.filter((c) => c.verdict === "holds").length} of {checks.length} hold
          </span>
        </span>
      </NavLink>
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
