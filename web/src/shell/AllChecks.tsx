import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { CheckSummary, closestFirst, usedText, useCheckMark, useCountText } from "../figures/Checks";
import { Fig } from "../figures/Figure";
import { Mark } from "../figures/Mark";
import { useReference } from "../figures/reference";
import { STATIONS } from "../design/stations";
import { findingKey } from "../design/selection";
import { useDesign } from "../design/store";

/** The verification table of the build: every check, what fails first, then the closest to its limit. */
export default function AllChecks() {
  const { id } = useParams();
  const { design } = useDesign();
  const navigate = useNavigate();
  const rules = useReference()?.checks;
  const markOf = useCheckMark();
  const countText = useCountText();
  const [only, setOnly] = useState("");
  const { checks, figures } = design.assessment;
  const there = STATIONS.filter((s) => checks.some((c) => c.station === s.key));
  const shown = closestFirst(only ? checks.filter((c) => c.station === only) : checks);
  return (
    <main className="station wide" tabIndex={-1}>
      <div className="station-head">
        <h1>Verification</h1>
        <div className="tools">
          <a className="btn btn-quiet btn-sm" href={`/api/designs/${id}/checks.pdf`} target="_blank" rel="noreferrer">
            Print, A4
          </a>
          <a
            className="btn btn-quiet btn-sm"
            href={`/api/designs/${id}/checks.pdf?paper=letter`}
            target="_blank"
            rel="noreferrer"
          >
            letter
          </a>
        </div>
      </div>
      <p className="station-lead">Everything that was judged of this build, and how near each comes to its limit.</p>
      <CheckSummary checks={shown} named />
      <div className="tabs" role="group" aria-label="Station">
        {[{ key: "", name: "all" }, ...there].map((s) => (
          <button
            key={s.key}
            type="button"
            className="tab"
            aria-pressed={only === s.key}
            title={countText(s.key ? checks.filter((c) => c.station === s.key) : checks)}
            onClick={() => setOnly(s.key)}
          >
            {s.name}
          </button>
        ))}
      </div>
      <div className="table-scroll">
        <table className="sheet-table">
          <thead>
            <tr>
              <th>
                <span className="visually-hidden">how it came out</span>
              </th>
              <th>of</th>
              <th>what is judged</th>
              <th className="num">is</th>
              <th className="num">allowed</th>
              <th className="num">used</th>
            </tr>
          </thead>
          <tbody>
            {shown.map((check, i) => (
              <tr key={`${findingKey(check)} ${i}`} data-row={check.id}>
                <td>
                  <Mark kind={markOf(check)} />
                </td>
                <td>
                  <button
                    type="button"
                    className="row-button"
                    onClick={() => void navigate(`/build/${id}/${check.station}?at=${encodeURIComponent(check.place)}`)}
                  >
                    {check.about}
                  </button>
                </td>
                <td title={rules?.[check.id]?.requires}>
                  {rules?.[check.id]?.title ?? check.id}
                  {check.missing && <span className="faint"> – missing: {check.missing}</span>}
                </td>
                <td className="num">{check.figure && <Fig figure={check.figure} path={check.figure.path} />}</td>
                <td className="num text-nowrap">
                  {check.limit && (
                    <>
                      <span className="faint">{check.bound} </span>
                      <Fig figure={check.limit} path={check.limit.path} />
                    </>
                  )}
                </td>
                <td className="num text-nowrap">
                  {check.verdict === "open" ? <span className="faint">waits</span> : <Used share={check.used} />}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {checks.length === 0 && <p className="faint">Nothing can be judged yet: put in loads first.</p>}
      {Object.keys(figures).length > 0 && (
        <p className="legend">
          Used is the share of what is allowed: 100 % just holds. What is as it should be, or is not, has no share.
        </p>
      )}
    </main>
  );
}

/** How much of the limit is used, as a bar and in percent. */
function Used({ share }: { share?: number | null }) {
  if (share === undefined || share === null) return null;
  return (
    <span className={`used-bar ${share > 1.000001 ? "over" : share > 0.9 ? "near" : ""}`}>
      <span className="track">
        <span className="bar" style={{ width: `${Math.min(share, 1) * 100}%` }} />
      </span>
      <span className="share">{usedText(share)}</span>
    </span>
  );
}
