import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type Learnt } from "../../api/client";
import { useDraft } from "../../design/browser";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { NotYet } from "../../figures/NotYet";
import { PasteDialog } from "../../figures/PasteDialog";
import { ReadTable } from "./ReadTable";
import { STEPS } from "./steps";

const SHOWN_CAUSES = 4;

/** The readings of a load test, pasted from a logger: what they say of the station, and what would explain them. */
export function Readings() {
  const { design } = useDesign();
  const [text, keep] = useDraft(`readings.${design.id}`);
  const [pasting, setPasting] = useState(false);
  const read = (table: string) =>
    take(
      api.POST("/api/designs/{design_id}/readings", {
        params: { path: { design_id: design.id } },
        body: { text: table },
      }),
    );
  const { data, error } = useQuery({
    queryKey: ["readings", design.id, design.revision, text],
    queryFn: () => read(text!),
    enabled: text !== null,
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  });
  const dialog = pasting && (
    <PasteDialog
      id={`readings-${design.id}`}
      title="Readings of a load test"
      lead="A line each: the time, the voltage at the posts and the current; besides, as far as you have them, clamp, end of the path, load in watts, each cell, and temperatures of air, pack, outside and each joint. A column “step” names the steps; without it the loads tell them."
      label="Readings"
      placeholder={
        "time (s);voltage (V);current (A);load (W);cell 1 (V);air (°C)\n0;27.3;0.05;0;3.42;20.1\n5;27.1;20.4;500;3.39;20.1"
      }
      action="Read them"
      onHide={() => setPasting(false)}
      take={async (table) => {
        await read(table);
        keep(table);
      }}
    />
  );
  if (text === null)
    return (
      <div className="empty-state">
        <h2>Learn from the test</h2>
        <p>
          Run the test plan with a logger, and paste what it wrote. The figures of the station are found from it, each
          with how far it may be off; and where readings do not fit, what would explain them best.
        </p>
        <button type="button" className="btn btn-primary" onClick={() => setPasting(true)}>
          Paste readings…
        </button>
        {dialog}
      </div>
    );
  return (
    <>
      <div className="d-flex gap-2 mb-2">
        <button type="button" className="tab" onClick={() => setPasting(true)}>
          other readings…
        </button>
        <button type="button" className="tab" onClick={() => keep(null)}>
          put away
        </button>
      </div>
      {data ? <Result found={data} /> : <NotYet error={error} doing="Learning from the readings…" />}
      {dialog}
    </>
  );
}

function Result({ found }: { found: Learnt }) {
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

const LINES: Record<string, string> = {
  cell_low: "A cell fell to",
  cell_high: "A cell rose to",
  spread: "The cells stood apart by",
  posts_low: "The posts fell to",
  amps: "The current was for a minute",
  joint: "A joint rose over the air by",
  like: "A joint rose over its like by",
  cells: "The cells were at",
};

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

const clock = (seconds: number) =>
  [Math.floor(seconds / 3600), Math.floor((seconds % 3600) / 60), Math.floor(seconds % 60)]
    .map((n) => String(n).padStart(2, "0"))
    .join(":");

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

function Causes({ diagnosis }: { diagnosis: Learnt["diagnosis"] }) {
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
