import { useEffect, useRef } from "react";
import Modal from "react-bootstrap/Modal";
import type { Build, BuildStep } from "../../api/client";
import { AT_STEP } from "./build";
import { StepDrawing } from "./StepDrawing";
import { StepMark } from "./StepMark";
import { StepRecord } from "./StepRecord";
import { useTicking } from "./standing";

interface Props {
  build: Build;
  step: BuildStep;
  onGo: (pointer: string) => void;
  onHide: () => void;
}

/** One step at a time in large type, for greasy hands: space ticks it and goes on, arrows go to and fro, nothing scrolls. */
export function AtTheBench({ build, step, onGo, onHide }: Props) {
  const go = (number: number) => {
    const other = build.steps[number - 1];
    if (other) onGo(AT_STEP + other.key);
  };
  const next = () => go(step.number + 1);
  const { stands, done, tick } = useTicking(step.key);
  const keys = useRef<(event: KeyboardEvent) => void>(() => {});
  useEffect(() => {
    keys.current = (event) => {
      const { target } = event;
      const edited = target instanceof HTMLInputElement;
      if (edited && event.key === "Enter") target.blur();
      if (edited || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === "ArrowRight" || event.key === "PageDown") next();
      else if (event.key === "ArrowLeft" || event.key === "PageUp") go(step.number - 1);
      else if (event.key === " " && !stands.stopped_by) {
        if (!done) tick({ done: true }, false);
        next();
      } else return;
      event.preventDefault();
    };
  });
  useEffect(() => {
    const down = (event: KeyboardEvent) => keys.current(event);
    document.addEventListener("keydown", down);
    return () => document.removeEventListener("keydown", down);
  }, []);
  const stage = build.stages.find((s) => s.key === step.stage)?.name;
  return (
    <Modal show fullscreen onHide={onHide} aria-labelledby="at-the-bench" className="at-the-bench">
      <header>
        <span className="bench-crumb">
          {stage}, step {step.number} of {build.steps.length}
        </span>
        <span className="bench-way" aria-hidden>
          <span style={{ width: `${(100 * step.number) / build.steps.length}%` }} />
        </span>
        <button type="button" className="btn btn-quiet" onClick={onHide}>
          Back to the lists
        </button>
      </header>
      <div className="bench-body">
        <div className="bench-words">
          <h2 id="at-the-bench">
            <StepMark state={stands.state} /> {step.title}
          </h2>
          <p>{step.text}</p>
          {step.caution && <p className="step-caution">{step.caution}</p>}
        </div>
        <div className="bench-drawing">
          <StepDrawing step={step} />
        </div>
        <div className="bench-record">
          <StepRecord key={step.key} step={step} build={build} onGo={(act) => onGo(AT_STEP + act)} onDone={next} />
        </div>
      </div>
      <footer>
        <button
          type="button"
          className="btn btn-quiet"
          disabled={step.number === 1}
          onClick={() => go(step.number - 1)}
        >
          ◂ back
        </button>
        <span className="faint">space: done and on · arrows: to and fro</span>
        <button type="button" className="btn btn-quiet" disabled={step.number === build.steps.length} onClick={next}>
          on ▸
        </button>
      </footer>
    </Modal>
  );
}
