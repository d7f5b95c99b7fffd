import { useId } from "react";
import type { Build, BuildMeasure, BuildStep } from "../../api/client";
import { useRecorded, useRecordLine } from "../../design/record";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { Photo, PhotoButton } from "../../figures/Photo";
import { useTicking, type ShownStanding } from "./standing";

/** What is measured and ticked at a step: each with its limits, what was typed of it, and what is likely wrong where it is outside. */
export function StepRecord({
  step,
  build,
  onGo,
  onDone,
}: {
  step: BuildStep;
  build: Build;
  onGo: (act: string) => void;
  /** Called when it was ticked. */
  onDone?: () => void;
}) {
  const { stands, kept, done, tick } = useTicking(step.key);
  const { waits, state } = stands;
  const stopper = build.steps.find((s) => s.key === stands.stopped_by);
  const remarkId = useId();
  return (
    <>
      {stopper && (
        <p className="stopped-by" role="status">
          Stopped: the check of step {stopper.number} failed.{" "}
          <button type="button" className="figure-button" onClick={() => onGo(stopper.key)}>
            {stopper.title}
          </button>
        </p>
      )}
      {state === "again" && !waits && (
        <p className="again-by" role="status">
          Done before the design changed here: do it again, and measure.
        </p>
      )}
      {step.measures.length > 0 && (
        <ul className="measures">
          {step.measures.map((measure) => (
            <MeasureEntry
              key={measure.key}
              measure={measure}
              stands={stands}
              onValue={(value, typing) => tick({ values: { ...kept.values, [measure.key]: value } }, typing)}
            />
          ))}
        </ul>
      )}
      <label className="field step-remark" htmlFor={remarkId}>
        <span className="name">Remark</span>
        <input
          id={remarkId}
          className="form-control form-control-sm"
          maxLength={2000}
          autoComplete="off"
          value={kept.remark}
          onChange={(event) => tick({ remark: event.target.value }, true)}
        />
      </label>
      <StepPhotos act={step.key} />
      {waits?.problem && (
        <p className="problem" role="alert">
          {waits.problem}
        </p>
      )}
      <div className="step-done">
        <button
          type="button"
          className={`btn ${done ? "btn-quiet" : "btn-primary"}`}
          disabled={!done && stands.stopped_by !== ""}
          onClick={() => {
            tick({ done: !done }, false);
            if (!done) onDone?.();
          }}
        >
          {done ? "Not done after all" : "Done"}
        </button>
        <span className="faint" role="status">
          {waits && !waits.problem
            ? "not stored yet"
            : stands.at &&
              `${done ? "done" : "noted"} ${new Date(stands.at).toLocaleString([], { dateStyle: "medium", timeStyle: "short" })}`}
        </span>
      </div>
    </>
  );
}

/** The photos that were taken at a step, and what takes one more. */
function StepPhotos({ act }: { act: string }) {
  const { design } = useDesign();
  const { line, written } = useRecordLine(design.id);
  const { life } = useRecorded();
  const own = life?.photos.filter((photo) => photo.step === act) ?? [];
  const waiting = written.filter((w) => w.data?.kind === "photo" && w.data.step === act);
  return (
    <div className="step-photos">
      {own.map((photo) => (
        <Photo key={photo.item} photo={photo} />
      ))}
      <PhotoButton className="btn btn-quiet btn-sm" onPhoto={(file) => void line.photo(file, { step: act })}>
        Photo…
      </PhotoButton>
      {waiting.map((w) => (
        <span key={w.entry} className={w.problem ? "problem" : "faint"} role={w.problem ? "alert" : "status"}>
          {w.problem || "a photo is not stored yet"}
          {w.problem && (
            <button type="button" className="figure-button" onClick={() => line.drop(w.item)}>
              drop it
            </button>
          )}
        </span>
      ))}
    </div>
  );
}

function MeasureEntry({
  measure,
  stands,
  onValue,
}: {
  measure: BuildMeasure;
  stands: ShownStanding;
  onValue: (value: string | boolean, typing: boolean) => void;
}) {
  const id = useId();
  const { expected, least, most, causes, unit } = measure;
  const value = (stands.waits?.values ?? stands.values)[measure.key];
  const outside = !stands.waits && stands.outside.includes(measure.key);
  const measured = value !== undefined && value !== "";
  return (
    <li className={outside ? "outside" : ""}>
      <label htmlFor={unit ? id : undefined} id={`${id}-label`}>
        {measure.label}
      </label>
      {(least || most) && (
        <span className="limits">
          {least && most ? (
            <>
              <Fig figure={least} /> to <Fig figure={most} />
            </>
          ) : least ? (
            <>
              at least <Fig figure={least} />
            </>
          ) : (
            <>
              at most <Fig figure={most!} />
            </>
          )}
          {expected && (
            <span className="faint">
              {", "}usually <Fig figure={expected} />
            </span>
          )}
        </span>
      )}
      {unit ? (
        <span className="measure-entry">
          <span className="with-unit">
            <input
              id={id}
              className="form-control form-control-sm"
              inputMode="decimal"
              autoComplete="off"
              maxLength={60}
              value={String(value ?? "")}
              onChange={(event) => onValue(event.target.value, true)}
            />
            <span className="unit">{unit === "ohm" ? "Ω" : unit}</span>
          </span>
          <Said measured={measured} waits={Boolean(stands.waits)} outside={outside} />
        </span>
      ) : (
        <span className="measure-entry" role="group" aria-labelledby={`${id}-label`}>
          {([true, false] as const).map((right) => (
            <button
              key={String(right)}
              type="button"
              className="tab tight"
              aria-pressed={value === right}
              onClick={() => onValue(right, false)}
            >
              {right ? "yes" : "no"}
            </button>
          ))}
          <Said measured={measured} waits={Boolean(stands.waits)} outside={outside} />
        </span>
      )}
      {outside && causes.length > 0 && <span className="cause">Likeliest: {causes.join("; ")}.</span>}
    </li>
  );
}

/** Whether what was measured is within its limits. */
function Said({ measured, waits, outside }: { measured: boolean; waits: boolean; outside: boolean }) {
  if (!measured || waits) return null;
  return <strong className={outside ? "is-outside" : "is-within"}>{outside ? "outside" : "within"}</strong>;
}
