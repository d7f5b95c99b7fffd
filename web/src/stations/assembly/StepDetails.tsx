import type { Build, BuildStep } from "../../api/client";
import { useSelection } from "../../design/selection";
import { AT_STEP, spell } from "./build";
import { EndRows } from "./PieceDetails";
import { StepDrawing } from "./StepDrawing";
import { StepRecord } from "./StepRecord";

/** One step: its drawing, how it is done, with what, what is checked at its end, why it stands there. */
export function StepDetails({ step, build }: { step: BuildStep; build: Build }) {
  const [, select] = useSelection();
  const stage = build.stages.find((s) => s.key === step.stage)?.name;
  const pieces = build.pieces.filter((p) => step.pieces.includes(p.key));
  const tools = build.tools.filter((t) => step.tools.includes(t.key));
  const [before, after] = [build.steps[step.number - 2], build.steps[step.number]];
  return (
    <>
      <p className="crumb">
        {stage} · step {step.number} of {build.steps.length} · evening {step.evening}
      </p>
      <h2>{step.title}</h2>
      <StepDrawing step={step} />
      <p className="mb-2">{step.text}</p>
      {step.caution && <p className="step-caution">{step.caution}</p>}
      {pieces.length > 0 && step.stage !== "power" && (
        <dl className="figure-list">
          {pieces.map((piece) => (
            <EndRows key={piece.key} piece={piece} />
          ))}
        </dl>
      )}
      {tools.length > 0 && (
        <p className="faint mb-2">
          With {tools.map((t) => (t.sizes ? `${t.what} (${t.sizes})` : t.what)).join("; ")}. About {spell(step.minutes)}
          .
        </p>
      )}
      <h3>{step.measures.length > 0 ? "Check, then tick" : "Tick it"}</h3>
      <StepRecord step={step} build={build} onGo={(act) => select(AT_STEP + act)} />
      <h3>Why here</h3>
      <ul className="reasons">
        {step.reasons.map((reason, n) => (
          <li key={n}>
            {reason.step ? (
              <>
                {reason.before ? "Before " : "After "}
                <button type="button" className="figure-button" onClick={() => select(AT_STEP + reason.step)}>
                  {reason.title}
                </button>
                : {reason.why}.
              </>
            ) : (
              reason.why
            )}
          </li>
        ))}
      </ul>
      <div className="step-turn">
        {before && (
          <button type="button" className="btn btn-quiet btn-sm" onClick={() => select(AT_STEP + before.key)}>
            ◂ {before.number}
          </button>
        )}
        {after && (
          <button type="button" className="btn btn-quiet btn-sm ms-auto" onClick={() => select(AT_STEP + after.key)}>
            {after.number} ▸
          </button>
        )}
      </div>
    </>
  );
}
