import type { Learnt } from "../../api/client";
import { Fig } from "../../figures/Figure";
import { ReadTable } from "./ReadTable";
import { clock, LINES, STEPS } from "./steps";

const SHOWN_CAUSES = 4;

/** What the readings of a test say: stop lines, causes, each step, what was learned. */
export function Result({ found }: { found: Learnt }) {
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
      <p className="faint">Steps found: {found.spans.map((s) => STEPS[s.step] ?? s.step).join(", ") || "none"}.</p>
    </>
  );
}

/** The lines at which the test should have been stopped. */
function Stops({ stops }: { stops: Learnt["stops"] }) {
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

function With({ item, name }: { item: Learnt["learned"][number]; name: string }) {
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
