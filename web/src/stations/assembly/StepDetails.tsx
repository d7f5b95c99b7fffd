import { useQuery } from "@tanstack/react-query";
import { api, take, type Build, type BuildMeasure, type BuildStep } from "../../api/client";
import { useSelection } from "../../design/selection";
import { useDesign } from "../../design/store";
import { Drawn } from "../../drawings/Drawn";
import { Fig } from "../../figures/Figure";
import { AT_STEP, spell } from "./build";
import { EndRows } from "./PieceDetails";

/** One step: its drawing, how it is done, with what, what is checked at its end, why it stands there. */
export function StepDetails({ step, build }: { step: BuildStep; build: Build }) {
  const { design } = useDesign();
  const [, select] = useSelection();
  const { data } = useQuery({
    queryKey: ["step-drawing", design.id, step.key, design.revision],
    queryFn: () =>
      take(
        api.GET("/api/designs/{design_id}/assembly/drawing", {
          params: { path: { design_id: design.id }, query: { step: step.key } },
        }),
      ),
    gcTime: 60_000,
  });
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
      {data?.drawing && (
        <div className="step-drawing">
          <Drawn drawing={data.drawing} label={`Drawing: ${step.title}`} />
        </div>
      )}
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
      {step.measures.length > 0 && (
        <>
          <h3>Check, then tick</h3>
          <ul className="measures">
            {step.measures.map((measure) => (
              <MeasureLine key={measure.key} measure={measure} />
            ))}
          </ul>
        </>
      )}
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

/** What is measured, with what it may be; and what it is where it is not. */
function MeasureLine({ measure }: { measure: BuildMeasure }) {
  const { expected, least, most, causes } = measure;
  return (
    <li>
      {measure.label}
      {least && most ? (
        <>
          : <Fig figure={least} /> to <Fig figure={most} />
        </>
      ) : least ? (
        <>
          : at least <Fig figure={least} />
        </>
      ) : most ? (
        <>
          : at most <Fig figure={most} />
        </>
      ) : null}
      {expected && (
        <span className="faint">
          , usually <Fig figure={expected} />
        </span>
      )}
      .{causes.length > 0 && <span className="faint cause">If not: {causes.join("; ")}.</span>}
    </li>
  );
}
