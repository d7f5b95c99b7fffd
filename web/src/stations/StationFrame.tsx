import type { ReactNode } from "react";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import type { Figure } from "../api/client";
import { Link } from "react-router";
import { CheckList, CheckSummary, closestFirst } from "../figures/Checks";
import { FigureRow } from "../figures/FigureRow";
import { goDown } from "../figures/goDown";
import { FindingList } from "../figures/FindingList";
import { Working } from "../figures/Working";
import { belongsTo, useMargin, useSelection } from "../design/selection";
import { STATIONS } from "../design/stations";
import { useDesign } from "../design/store";

/** So many of its checks stand in the margin of a station, the closest ones. */
const AT_A_STATION = 4;

interface Props {
  station: string;
  title: string;
  lead: ReactNode;
  tools?: ReactNode;
  /** What the margin says of what is selected; nothing where nothing is. */
  details?: ReactNode;
  /** What is decided of it, below what was found of it. */
  decisions?: ReactNode;
  /** What stands in the margin in the place of checks and figures. */
  beside?: ReactNode;
  /** Figures at a glance, as (label, path), where nothing is selected. */
  glance?: [string, string][];
  /** The caution that stands where the act happens. */
  caution: string;
  /** Whether what is selected is something that checks speak of: a step of the work is not. */
  judges?: boolean;
  children: ReactNode;
}

/** A station on the sheet, with its margin. */
export function StationFrame({
  station,
  title,
  lead,
  tools,
  details,
  decisions,
  beside,
  glance = [],
  caution,
  judges = true,
  children,
}: Props) {
  const { design } = useDesign();
  const [selected, select] = useSelection();
  const all = design.assessment.findings;
  const shows = STATIONS.find((s) => s.key === station)?.shows ?? (() => false);
  const own = details ? all.filter((f) => belongsTo(f.place, selected)) : all.filter(shows);
  const judged = design.assessment.checks.filter((c) => (details ? belongsTo(c.place, selected) : shows(c)));
  return (
    <>
      <main className="station" tabIndex={-1} onKeyDown={goDown}>
        <div className="station-head">
          <h1>{title}</h1>
          {tools && <div className="tools">{tools}</div>}
        </div>
        <p className="station-lead">{lead}</p>
        {children}
      </main>
      <aside className="margin" tabIndex={-1} aria-label="Margin: figures, choices and findings">
        <PinnedWorking />
        {details ? <section>{details}</section> : <NextThing station={station} />}
        <section aria-label="Findings">
          {own.length > 0 && !details && <h2>Findings</h2>}
          <FindingList findings={own} />
          {details && (
            <Button variant="bare" size="sm" className="ps-0" onClick={() => select("")}>
              all findings of {title}
            </Button>
          )}
        </section>
        {decisions && <section aria-label="Decisions">{decisions}</section>}
        {beside}
        {judges && !beside && (
          <section aria-label="Checks">
            <h2>Checks</h2>
            <CheckSummary checks={judged} named={!details} />
            {details ? (
              <CheckList checks={closestFirst(judged)} />
            ) : (
              judged.length > 0 && (
                <>
                  <CheckList checks={closestFirst(judged).slice(0, AT_A_STATION)} named />
                  <Link className="btn btn-bare btn-sm ps-0" to={`/build/${design.id}/checks`}>
                    all {design.assessment.checks.length} checks of the build
                  </Link>
                </>
              )
            )}
          </section>
        )}
        {!details && !beside && glance.some(([, path]) => path in design.assessment.figures) && (
          <section aria-label="At a glance">
            <h2>At a glance</h2>
            <dl className="figure-list">
              {glance
                .filter(([, path]) => path in design.assessment.figures)
                .map(([label, path]) => (
                  <FigureRow key={path} label={label} path={path} />
                ))}
            </dl>
          </section>
        )}
        <p className="caution">{caution}</p>
      </aside>
    </>
  );
}

/** The next thing to do on the build, where that is at another station. */
function NextThing({ station }: { station: string }) {
  const { design } = useDesign();
  const { next } = design.assessment;
  if (next.station === station) return null;
  const at = next.place ? `?at=${encodeURIComponent(next.place)}` : "";
  return (
    <p className="next-thing">
      <strong>Next:</strong> <Link to={`/build/${design.id}/${next.station}${at}`}>{next.text}</Link>
    </p>
  );
}

/** The working that was clicked open, with a way back along the inputs followed. */
function PinnedWorking() {
  const { pinned, pin } = useMargin();
  const { design } = useDesign();
  const [trail, setTrail] = useState<{ root: Figure; steps: Figure[] } | null>(null);
  if (!pinned) return null;
  const figures = design.assessment.figures;
  const fresh = (f: Figure): Figure => (f.path && figures[f.path] ? { ...figures[f.path], path: f.path } : f);
  const steps = trail?.root === pinned ? trail.steps : [];
  const shown = fresh(steps.at(-1) ?? pinned);
  return (
    <section aria-label="Working">
      <div className="d-flex align-items-center gap-1 mb-1">
        <span className="crumb flex-grow-1">How it was worked out</span>
        {steps.length > 0 && (
          <Button variant="bare" size="sm" onClick={() => setTrail({ root: pinned, steps: steps.slice(0, -1) })}>
            ◂ back
          </Button>
        )}
        <Button variant="bare" size="sm" aria-label="Close the working" onClick={() => pin(null)}>
          ✕
        </Button>
      </div>
      <Working figure={shown} follow={(next) => setTrail({ root: pinned, steps: [...steps, next] })} />
    </section>
  );
}
