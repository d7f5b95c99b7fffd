import { useEffect, useMemo, useState } from "react";
import Button from "react-bootstrap/Button";
import { createPortal } from "react-dom";
import { api, Failure, take, type RunCommand, type TestRun } from "../../../api/client";
import { Tabs } from "../../../figures/Tabs";
import { Result } from "../Result";
import { useRunFeed, type RunState } from "./feed";
import { Happened } from "./Happened";
import { laidOut, VIEWS, type View } from "./layout";
import { calendarDay } from "../steps";
import { Dealt } from "./Dealt";
import { Replay } from "./Replay";
import { InstrumentsNow, SaidSoFar } from "./SaidSoFar";
import { Beside, StripRow } from "./Strips";
import { minutes, type Tell } from "./telling";
import { STRIPS } from "./watched";

type Step = TestRun["plan"][number];

/** How a test stood at a moment, of one that is over. */
function stoodAt(run: TestRun, at_s: number): RunState {
  const spans = run.spans.filter((s) => s.begin_s <= at_s);
  const last = spans.at(-1);
  const at = last ? run.plan.findIndex((s) => s.key === last.step) : 0;
  const runs = last !== undefined && at_s < last.end_s;
  const gone = last ? last.end_s - last.begin_s : 0;
  return {
    state: runs ? "running" : "over",
    at,
    begun_s: last?.begin_s ?? 0,
    held_s: runs ? 0 : gone,
    now_s: at_s,
    rate: 0,
    waits: false,
    by_itself: false,
    spans,
    instruments: [],
    obeys: [],
    off: [],
    turned: [],
    alarm: "",
    judging: false,
  };
}

interface Props {
  run: TestRun;
  /** Where what is said of the station stands. */
  margin: HTMLElement | null;
  onLeave: () => void;
}

/** A test: its strips, large figures, step and clock, what happened; as it runs, or played again. */
export function RunScreen({ run, margin, onLeave }: Props) {
  const feed = useRunFeed(run);
  const [played, setPlayed] = useState(run.end_s);
  const [problem, setProblem] = useState("");
  const [view, setView] = useState<View>(run.live ? "around" : "whole");
  useTicking(run.live);
  const now = run.live ? feed.now() : played;
  const state = run.live ? feed.state : stoodAt(run, played);
  const tell = async (body: Partial<RunCommand> & Pick<RunCommand, "command">) => {
    setProblem("");
    try {
      await take(
        api.POST("/api/runs/{run_id}/command", {
          params: { path: { run_id: run.id } },
          body: { text: "", channel: "", on: true, ...body },
        }),
      );
      return true;
    } catch (failed) {
      setProblem(Failure.of(failed).reason);
      return false;
    }
  };
  const judged = run.live ? feed.judged : run.judged;
  const courses = feed.courses;
  const second = Math.floor(now);
  const { bounds, bands, range } = useMemo(
    () => laidOut(run, courses, state, view, now),
    // The bounds move with the step, not with each reading.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [run, courses, state?.at, state?.state, state?.begun_s, state?.spans.length, view, second],
  );
  if (!state) return <p className="faint">{feed.away ? "The server is away: it is tried again." : "Listening…"}</p>;
  const step = run.plan[state.at];
  return (
    <div className="run-screen">
      <Head run={run} state={state} step={step} now={now} tell={tell} onLeave={onLeave} />
      {problem && (
        <p className="problem" role="alert">
          {problem}
        </p>
      )}
      {feed.away && (
        <p className="problem" role="status">
          The server is away: nothing is shown of what goes on. Stay at the switch.
        </p>
      )}
      {state.alarm && (
        <p className="problem run-alarm" role="alert">
          {state.alarm}
        </p>
      )}
      {state.turned.map((channel) => (
        <p key={channel} className="problem" role="status">
          {channel === "clamp.a"
            ? "The clamp shows the current the other way round than the shunt: its arrow points to the pack."
            : "The shunt shows that the load charges the pack: its leads are swapped."}{" "}
          <Button size="sm" variant="quiet" onClick={() => void tell({ command: "turn", channel })}>
            Read it the other way round
          </Button>
        </p>
      ))}
      {run.live && state.state === "ready" && state.waits && step && <Next step={step} state={state} tell={tell} />}
      {run.live && (state.state === "stopped" || state.state === "paused") && step && (
        <Next step={step} state={state} tell={tell} />
      )}
      {!run.live && <Replay end={run.end_s} at={played} onAt={setPlayed} />}
      <div className="tabs run-views" role="group" aria-label="What is drawn">
        <Tabs views={VIEWS} view={view} onView={setView} />
      </div>
      {STRIPS.filter((s) => s.key in feed.traces).map((strip) => (
        <StripRow
          key={strip.key}
          strip={strip}
          run={run}
          feed={feed}
          state={state}
          bounds={bounds}
          bands={bands[strip.key] ?? []}
          range={range}
          now={now}
        />
      ))}
      <Beside feed={feed} state={state} now={now} bands={bands} />
      <Happened run={run} feed={feed} now={now} tell={tell} state={state} />
      {!run.live && <Dealt run={run.id} />}
      {judged && (
        <Result
          found={judged}
          run={run.live ? null : run.id}
          source={`load test, ${calendarDay(new Date(run.begun_at))}`}
        />
      )}
      {margin &&
        createPortal(
          <>
            <SaidSoFar judged={judged} judging={state.judging || run.judging} />
            {run.live && <InstrumentsNow state={state} age={feed.age} />}
          </>,
          margin,
        )}
    </div>
  );
}

/** Draw the clock anew each quarter of a second. */
function useTicking(runs: boolean) {
  const [, tick] = useState(0);
  useEffect(() => {
    if (!runs) return;
    const timer = window.setInterval(() => tick((n) => n + 1), 250);
    return () => window.clearInterval(timer);
  }, [runs]);
}

/** How much of the step is gone. */
const gone = (state: RunState, now: number) =>
  state.held_s + (state.state === "running" ? Math.max(0, now - state.begun_s) : 0);

interface HeadProps {
  run: TestRun;
  state: RunState;
  step: Step | undefined;
  now: number;
  tell: Tell;
  onLeave: () => void;
}

function Head({ run, state, step, now, tell, onLeave }: HeadProps) {
  const running = state.state === "running";
  return (
    <div className="run-head">
      <h2>{step ? step.name : "The test is over"}</h2>
      {step && (
        <span className="faint run-of">
          step {state.at + 1} of {run.plan.length}
          {(running || !run.live) && ` · ${step.connect}`}
        </span>
      )}
      {step && (
        <span className="run-clock" role="timer">
          <strong>{minutes(gone(state, now))}</strong>{" "}
          <span className="faint">{step.until ? `until ${step.until}` : `of ${minutes(step.seconds)}`}</span>
        </span>
      )}
      {!run.live && (
        <Button variant="quiet" size="sm" onClick={onLeave}>
          Back to the bench
        </Button>
      )}
      {run.live && running && (
        <Button variant="quiet" onClick={() => void tell({ command: "pause" })}>
          Pause
        </Button>
      )}
      {run.live && (running || state.state === "ready" || state.state === "paused") && (
        <Button variant="danger" onClick={() => void tell({ command: "stop" })}>
          Stop the load
        </Button>
      )}
      {run.live && !running && (
        <Button variant="quiet" onClick={() => void tell({ command: "finish" })}>
          Finish the test
        </Button>
      )}
    </div>
  );
}

/** The step that is begun by hand: what to connect, what can hurt. */
function Next({ step, state, tell }: { step: Step; state: RunState; tell: Tell }) {
  const again = state.state !== "ready";
  return (
    <section className="run-next" aria-label="The next step">
      <p className="mb-1">
        <strong>{again ? step.name : `Next: ${step.name}`}.</strong> {step.connect} {step.do}
      </p>
      {step.caution && <p className="caution-line">{step.caution}</p>}
      <p className="faint mb-2">{step.watch.join(" ")}</p>
      <div className="d-flex gap-2 flex-wrap">
        {state.state === "paused" ? (
          <Button onClick={() => void tell({ command: "go on" })}>Go on</Button>
        ) : (
          <Button onClick={() => void tell({ command: "begin" })}>{again ? "Begin it anew" : "Begin this step"}</Button>
        )}
        {state.state === "ready" && state.at > 0 && (
          <Button variant="quiet" onClick={() => void tell({ command: "repeat" })}>
            Repeat the one before
          </Button>
        )}
        {state.state === "paused" && (
          <Button variant="quiet" onClick={() => void tell({ command: "repeat" })}>
            Repeat it from its beginning
          </Button>
        )}
        <Button variant="quiet" onClick={() => void tell({ command: "skip" })}>
          Leave it out
        </Button>
        <label className="ms-auto">
          <input
            type="checkbox"
            checked={state.by_itself}
            onChange={(event) => void tell({ command: "by itself", on: event.target.checked })}
          />{" "}
          go on by itself
        </label>
      </div>
    </section>
  );
}
