import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, take, type TestPlan } from "../../api/client";
import { useRecorded } from "../../design/record";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { Mark } from "../../figures/Mark";
import { NotYet } from "../../figures/NotYet";
import { AtHand } from "./AtHand";

type Step = TestPlan["steps"][number];
type Before = TestPlan["before"][number];

const KINDS = { open: "unbegun", done: "holds", again: "mend", failed: "stop", stopped: "stop" } as const;
const SHOWN = 5;

/** The load test of the build: what proves it before power, and each step under power with what to connect and to expect. */
export function Plan() {
  const { design } = useDesign();
  const { data, error } = useQuery({
    queryKey: ["test-plan", design.id, design.revision],
    queryFn: () => take(api.GET("/api/designs/{design_id}/test-plan", { params: { path: { design_id: design.id } } })),
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  });
  if (!data) return <NotYet error={error} doing="Planning the test…" />;
  if (!data.steps.length)
    return (
      <div className="empty-state">
        <h2>Nothing to test yet</h2>
        <p className="mb-0">The test is derived from the loads and the power path: put those in first.</p>
      </div>
    );
  return (
    <>
      <StopLines steps={data.steps} />
      <BeforePower acts={data.before} />
      <AtHand />
      <h2 className="form-group-title">Under power</h2>
      <div className="table-scroll">
        <table className="sheet-table test-plan">
          <thead>
            <tr>
              <th aria-label="number" />
              <th>step</th>
              <th className="num">load</th>
              <th className="num">voltage</th>
              <th className="num">current</th>
              <th className="num">sag</th>
              <th className="num">pack</th>
              <th className="num">time</th>
            </tr>
          </thead>
          <tbody>
            {data.steps.map((step, n) => (
              <StepRow key={step.key} step={step} number={n + 1} />
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

/** Where every step is stopped at once: all lines that any of them has, said once. */
function StopLines({ steps }: { steps: Step[] }) {
  const lines = new Map(steps.flatMap((s) => Object.entries(s.stops)));
  return (
    <div className="stop-lines" role="note">
      <strong>Stop at once</strong>
      <ul>
        {[...lines].map(([name, figure]) => (
          <li key={name}>
            {figure.label} <Fig figure={figure} />
          </li>
        ))}
        <li>smell, smoke or noise</li>
      </ul>
    </div>
  );
}

/** What proves the build before power comes: done and ticked among the steps of assembly. */
function BeforePower({ acts }: { acts: Before[] }) {
  const { record } = useRecorded();
  const [whole, setWhole] = useState(false);
  const state = (key: string) => record?.steps.find((s) => s.act === key)?.state ?? "open";
  const open = acts.filter((a) => state(a.key) !== "done");
  const shown = whole ? acts : open.slice(0, SHOWN);
  return (
    <>
      <h2 className="mb-1">Before power</h2>
      <p className="mb-1">
        {open.length === 0
          ? `All ${acts.length} steps of assembly that prove it are done.`
          : `${acts.length - open.length} of ${acts.length} steps of assembly that prove it are done; first the others.`}{" "}
        <button type="button" className="tab" onClick={() => setWhole(!whole)} aria-expanded={whole}>
          {whole ? "show fewer" : "show all"}
        </button>
      </p>
      {shown.length > 0 && (
        <ol className="before-power">
          {shown.map((act) => (
            <li key={act.key}>
              <Mark kind={KINDS[state(act.key)]} />
              <Link to={`../assembly?at=${encodeURIComponent(`/assembly/steps/${act.key}`)}`} relative="path">
                {act.title}
              </Link>
              <span className="faint">
                {act.measures.map((m) => (
                  <span key={m.key}>
                    {m.label}
                    {m.expected && (
                      <>
                        {": "}
                        <Fig figure={m.expected} />
                      </>
                    )}
                    {m.least && (
                      <>
                        {", at least "}
                        <Fig figure={m.least} />
                      </>
                    )}
                    {m.most && (
                      <>
                        {", at most "}
                        <Fig figure={m.most} />
                      </>
                    )}
                  </span>
                ))}
              </span>
            </li>
          ))}
          {!whole && open.length > SHOWN && <li className="more">and {open.length - SHOWN} more</li>}
        </ol>
      )}
    </>
  );
}

function StepRow({ step, number }: { step: Step; number: number }) {
  const banded = (name: string) => {
    const figure = step.figures[name];
    const band = step.figures[`${name}_band`];
    return (
      <td className="num">
        {figure && <Fig figure={figure} />}
        {band && (
          <div className="faint">
            ± <Fig figure={band} />
          </div>
        )}
      </td>
    );
  };
  return (
    <tr data-row={step.name}>
      <td className="num faint">{number}</td>
      <td className="test-step">
        <strong>{step.name}</strong>
        {step.caution && <p className="caution-line">{step.caution}</p>}
        <p>
          <span className="test-connect">{step.connect}</span> {step.do}
        </p>
        <p className="faint">
          {step.watch.join(" ")}
          {step.figures.energy && (
            <>
              {" "}
              <Fig figure={step.figures.charge} /> from the pack, <Fig figure={step.figures.energy} /> at the sockets.
            </>
          )}
          {!step.watch.some((w) => w.includes(step.ends)) && step.ends && ` ${step.ends}.`}
        </p>
      </td>
      {banded("load")}
      {banded("voltage")}
      {banded("current")}
      {banded("sag")}
      {banded("pack_c")}
      {banded("time")}
    </tr>
  );
}
