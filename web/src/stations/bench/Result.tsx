import { useState } from "react";
import Button from "react-bootstrap/Button";
import type { FoundFigure, Learnt } from "../../api/client";
import { Fig } from "../../figures/Figure";
import { useReference } from "../../figures/reference";
import { PutIn } from "./PutIn";
import { ReadTable } from "./ReadTable";
import { clock, LINES, STEPS } from "./steps";

const SHOWN_CAUSES = 4;

type Item = Learnt["learned"][number];

/** A figure as it is put in: both together, and what was measured alone. */
function foundFigure({ key, figures }: Item): FoundFigure {
  const value = (name: string) => Number(figures[name]?.value);
  return { key, value: value("combined"), doubt: value("combined_doubt"), measured: value("measured"), text: "" };
}

interface Props {
  found: Learnt;
  /** The test that it is of; empty for readings that were pasted; null while it runs. */
  run: string | null;
  /** What is said of where the figures are from, where they are put in. */
  source: string;
}

/** What the readings of a test say: stop lines, causes, each step, what was learned, and that put into the design. */
export function Result({ found, run, source }: Props) {
  const known = useReference()?.measurable ?? [];
  const able = (item: Item) => !item.refused && (item.key === "charger" || known.some((k) => k.key === item.key));
  const [left, setLeft] = useState<string[]>([]);
  const [putting, setPutting] = useState(false);
  const chosen = found.learned.filter((item) => able(item) && !left.includes(item.key));
  return (
    <>
      <Stops stops={found.stops} />
      <Causes diagnosis={found.diagnosis} />
      {found.steps.length > 0 && <ReadTable steps={found.steps} />}
      <h2 className="mb-1">What was learned</h2>
      <div className="table-scroll">
        <table className="sheet-table learned-table">
          <thead>
            <tr>
              {run !== null && (
                <th>
                  <span className="visually-hidden">put in</span>
                </th>
              )}
              <th>figure</th>
              <th className="num">assumed</th>
              <th className="num">measured</th>
              <th className="num">both together</th>
              <th>rests on</th>
            </tr>
          </thead>
          <tbody>
            {found.learned.map((item) => (
              <tr key={item.key} data-row={item.key}>
                {run !== null && (
                  <td>
                    {able(item) && (
                      <input
                        type="checkbox"
                        aria-label={`Put in: ${item.label}`}
                        checked={!left.includes(item.key)}
                        onChange={({ target }) =>
                          setLeft(target.checked ? left.filter((key) => key !== item.key) : [...left, item.key])
                        }
                      />
                    )}
                  </td>
                )}
                <td>
                  {item.label}
                  {item.differs && <div className="learned-differs">further off than it was doubted</div>}
                </td>
                <With item={item} name="assumed" />
                {item.refused ? (
                  <td colSpan={3} className="faint">
                    Not measured: {item.refused}.
                  </td>
                ) : (
                  <>
                    <With item={item} name="measured" />
                    <With item={item} name="combined" />
                    <td className="faint">{restsOn(item.rests_on)}</td>
                  </>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {run !== null && chosen.length > 0 && (
        <p className="put-in-line">
          <Button onClick={() => setPutting(true)}>Put into the design…</Button>{" "}
          <span className="faint">
            {chosen.length} {chosen.length > 1 ? "figures" : "figure"}, each both together: what changes is shown first.
            {(found.stops.length > 0 || found.diagnosis.causes.length > 0) &&
              " Mend what is found and test again before: what is measured of a faulty station is of its fault, too."}
          </span>
        </p>
      )}
      {putting && run !== null && (
        <PutIn run={run} source={source} figures={chosen.map(foundFigure)} onHide={() => setPutting(false)} />
      )}
      <p className="faint">Steps found: {found.spans.map((s) => STEPS[s.step] ?? s.step).join(", ") || "none"}.</p>
    </>
  );
}

/** The lines at which the test should have been stopped. */
export function Stops({ stops }: { stops: Learnt["stops"] }) {
  if (!stops.length) return null;
  return (
    <div className="stop-lines" role="alert">
      <strong>Beyond a stop line</strong>
      <ul>
        {stops.map((s) => (
          <li key={s.line}>
            {LINES[s.line] ?? s.line} <Fig figure={s.read} />
            {s.where && `, ${s.where}`} at {clock(s.at_s)}
            {s.step && ` in “${STEPS[s.step] ?? s.step}”`}: stop at <Fig figure={s.limit} />
          </li>
        ))}
      </ul>
    </div>
  );
}

function With({ item, name }: { item: Item; name: string }) {
  return (
    <td className="num">
      <Fig figure={item.figures[name]} />
      <div className="faint">
        ± <Fig figure={item.figures[`${name}_doubt`]} />
      </div>
    </td>
  );
}

const restsOn = (steps: string[]) => {
  const named = steps.map((s) => STEPS[s] ?? s);
  return named.length > 4 ? `${named.slice(0, 3).join(", ")} and ${named.length - 3} more` : named.join(", ");
};

/** What would explain the readings, the likeliest first, and what would tell more. */
export function Causes({ diagnosis }: { diagnosis: Learnt["diagnosis"] }) {
  if (diagnosis.missing) return <p>Nothing can be said of faults: {diagnosis.missing}.</p>;
  if (!diagnosis.causes.length)
    return <p>The readings fit a sound station: nothing explains them better than no fault.</p>;
  return (
    <>
      <h2 className="mb-1">What would explain the readings</h2>
      <ol className="causes">
        {diagnosis.causes
          .filter((c, n) => n === 0 || c.share > 0.005)
          .slice(0, SHOWN_CAUSES)
          .map((c) => (
            <li key={`${c.kind}/${c.which}`}>
              <span>
                {c.words}, <Fig figure={c.amount} />
              </span>
              <span className="num">{Math.round(100 * c.share)} %</span>
              <meter min={0} max={1} value={c.share} aria-hidden />
            </li>
          ))}
      </ol>
      {diagnosis.next && (
        <p>
          {diagnosis.alike > 1 ? "To tell the first apart: " : "To be surer: "}
          {diagnosis.next.words}.
        </p>
      )}
    </>
  );
}
