import { useEffect, useMemo, useState } from "react";
import Button from "react-bootstrap/Button";
import { createPortal } from "react-dom";
import { api, Failure, take, type Learnt, type RunCommand, type TestRun } from "../../../api/client";
import { useDraft } from "../../../design/browser";
import { useRecordLine } from "../../../design/record";
import { useDesign } from "../../../design/store";
import { Fig } from "../../../figures/Figure";
import { Mark } from "../../../figures/Mark";
import { PhotoButton } from "../../../figures/Photo";
import { Tabs } from "../../../figures/Tabs";
import { useShown } from "../../../figures/units";
import { Causes, Result } from "../Result";
import { clock, LINES, STEPS } from "../steps";
import { useRunFeed, type RunFeed, type RunState } from "./feed";
import { Read } from "./Read";
import { Replay } from "./Replay";
import { RunStrip, type Band, type Bound } from "./Strip";

type Step = TestRun["plan"][number];

/** What is watched: the trace, what it is called, its unit, the line at which it stops the test, its colour. */
const STRIPS = [
  { key: "shunt", title: "current from the pack", unit: "A", line: "amps", colour: "--copper", digits: 1 },
  { key: "posts", title: "voltage at the posts", unit: "V", line: "posts_low", colour: "--positive", digits: 2 },
  { key: "joint", title: "warmest joint, over the air", unit: "K", line: "joint", colour: "--mend-fill", digits: 1 },
  { key: "cell", title: "lowest cell", unit: "V", line: "cell_low", colour: "--holds", digits: 3 },
] as const;
const BESIDE = [
  { key: "load", title: "load", unit: "W", digits: 0 },
  { key: "end", title: "end of the path", unit: "V", digits: 2 },
  { key: "clamp", title: "clamp", unit: "A", digits: 1 },
  { key: "air", title: "air inside", unit: "°C", digits: 1 },
] as const;

const VIEWS = { step: "this step", around: "around it", whole: "whole test" } as const;
type View = keyof typeof VIEWS;
/** So many steps before and after the one that runs are drawn around it. */
const BEFORE = 3;
/** So long after a step begins the load comes on, s by the clock on the wall. */
const SETTLES_S = 2;
const HOWS: Record<string, "holds" | "mend" | "stop" | "open"> = {
  found: "holds",
  well: "holds",
  sought: "open",
  lost: "stop",
};

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
          <Button size="sm" variant="outline-primary" onClick={() => void tell({ command: "turn", channel })}>
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
      {feed.judged && <Result found={feed.judged} />}
      {margin &&
        createPortal(
          <>
            <SaidSoFar judged={feed.judged} judging={state.judging} />
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

type Tell = (body: Partial<RunCommand> & Pick<RunCommand, "command">) => Promise<boolean>;

/** A reading with so many decimals, never a negative zero. */
const fixed = (value: number, digits: number) => value.toFixed(digits).replace(/^-(0(\.0*)?)$/, "$1");

const minutes = (seconds: number) =>
  seconds >= 3600 ? clock(seconds) : `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;

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
        <Button variant="outline-primary" size="sm" onClick={onLeave}>
          Back to the bench
        </Button>
      )}
      {run.live && running && (
        <Button variant="outline-primary" onClick={() => void tell({ command: "pause" })}>
          Pause
        </Button>
      )}
      {run.live && (running || state.state === "ready" || state.state === "paused") && (
        <Button variant="danger" onClick={() => void tell({ command: "stop" })}>
          Stop the load
        </Button>
      )}
      {run.live && !running && (
        <Button variant="outline-primary" onClick={() => void tell({ command: "finish" })}>
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
          <Button variant="outline-primary" onClick={() => void tell({ command: "repeat" })}>
            Repeat the one before
          </Button>
        )}
        {state.state === "paused" && (
          <Button variant="outline-primary" onClick={() => void tell({ command: "repeat" })}>
            Repeat it from its beginning
          </Button>
        )}
        <Button variant="outline-primary" onClick={() => void tell({ command: "skip" })}>
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

/** What stands at a moment in a course: the last before it. */
function valueAt(course: { t: number[]; v: number[] } | undefined, now: number): number | undefined {
  if (!course?.t.length) return undefined;
  let low = 0;
  let high = course.t.length - 1;
  if (course.t[high]! <= now) return course.v[high];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (course.t[middle]! <= now) low = middle;
    else high = middle;
  }
  return course.v[low];
}

/** What was expected at a moment: the middle of the band, and half its width. */
function expectedAt(bands: Band[], now: number): [number, number] | null {
  const band = bands.findLast((b) => b.t.length > 1 && b.t[0]! <= now && now <= b.t.at(-1)! + 1);
  if (!band) return null;
  const i = Math.max(
    0,
    band.t.findLastIndex((t) => t <= now),
  );
  return [(band.low[i]! + band.high[i]!) / 2, (band.high[i]! - band.low[i]!) / 2];
}

interface RowProps {
  strip: (typeof STRIPS)[number];
  run: TestRun;
  feed: RunFeed;
  state: RunState;
  bounds: Bound[];
  bands: Band[];
  range: [number, number];
  now: number;
}

function StripRow({ strip, run, feed, state, bounds, bands, range, now }: RowProps) {
  const shown = useShown(strip.unit);
  const course = feed.traces[strip.key]!;
  const upTo = useMemo(() => {
    if (run.live) return course;
    const end = course.t.findLastIndex((t) => t <= now) + 1;
    return { t: course.t.slice(0, end), v: course.v.slice(0, end) };
  }, [course, run.live, now]);
  const value = valueAt(course, now);
  const expected = state.state === "running" ? expectedAt(bands, now) : null;
  const settling = run.live && now - state.begun_s < SETTLES_S * Math.max(1, state.rate);
  const off = value !== undefined && expected !== null && !settling && Math.abs(value - expected[0]) > expected[1];
  const stop = run.lines[strip.line]?.value ?? null;
  return (
    <figure className={`run-strip ${off ? "off" : ""}`} data-strip={strip.key}>
      <figcaption>{strip.title}</figcaption>
      <RunStrip
        title={strip.title}
        course={upTo}
        bands={bands}
        bounds={bounds}
        stop={stop === null ? null : Number(stop)}
        now={now}
        range={range}
        shown={shown}
        colour={strip.colour}
        height={112}
        off={off}
        version={feed.version}
      />
      <div className="run-figure">
        <strong>
          {value === undefined ? "–" : fixed(shown.to(value), strip.digits)} {shown.unit}
        </strong>
        {expected && (
          <span className="faint">
            expected {fixed(shown.to(expected[0]), strip.digits)} ±{" "}
            {fixed(shown.to(expected[0] + expected[1]) - shown.to(expected[0]), strip.digits)}
          </span>
        )}
        {expected && value !== undefined && (
          <span className={off ? "run-off" : "run-in"}>
            <Mark kind={off ? "mend" : "holds"} hidden /> {off ? "out of band" : "in band"}
          </span>
        )}
      </div>
    </figure>
  );
}

/** What is read besides, as figures alone. */
function Beside({
  feed,
  state,
  now,
  bands,
}: {
  feed: RunFeed;
  state: RunState;
  now: number;
  bands: Record<string, Band[]>;
}) {
  return (
    <dl className="run-beside">
      {BESIDE.filter(({ key }) => key in feed.traces).map(({ key, title, unit, digits }) => (
        <BesideOne
          key={key}
          title={title}
          unit={unit}
          digits={digits}
          value={valueAt(feed.traces[key], now)}
          expected={state.state === "running" ? expectedAt(bands[key] ?? [], now) : null}
          off={state.off.includes(key)}
        />
      ))}
    </dl>
  );
}

interface BesideProps {
  title: string;
  unit: string;
  digits: number;
  value: number | undefined;
  expected: [number, number] | null;
  off: boolean;
}

function BesideOne({ title, unit, digits, value, expected, off }: BesideProps) {
  const shown = useShown(unit);
  return (
    <div>
      <dt>{title}</dt>
      <dd className={off ? "off" : ""}>
        <strong>{value === undefined ? "–" : `${fixed(shown.to(value), digits)} ${shown.unit}`}</strong>
        {expected && <span className="faint"> of {fixed(shown.to(expected[0]), digits)}</span>}
        {off && <span className="visually-hidden">, out of band</span>}
      </dd>
    </div>
  );
}

/** Where each step stands on the time axis, the bands there, and what of it is drawn. */
function laidOut(run: TestRun, courses: TestRun["courses"], state: RunState | null, view: View, now: number) {
  const bounds: Bound[] = [];
  const bands: Record<string, Band[]> = {};
  if (!state) return { bounds, bands, range: [0, 1] as [number, number] };
  const draw = (n: number, begin: number, from: number, until: number) => {
    const { seconds = [], traces = {} } = courses[n] ?? {};
    const t = seconds.map((s) => begin + s - from);
    const first = Math.max(0, t.findIndex((s) => s >= begin) - 1);
    const many = t.findLastIndex((s) => s <= until) + 1;
    for (const [key, { low, high }] of Object.entries(traces))
      (bands[key] ??= []).push({
        t: t.slice(first, many),
        low: low.slice(first, many),
        high: high.slice(first, many),
      });
  };
  for (const span of state.spans) {
    const n = run.plan.findIndex((s) => s.key === span.step);
    bounds.push({ at: span.begin_s, label: STEPS[span.step] ?? span.step });
    draw(n, span.begin_s, 0, span.end_s);
  }
  const running = state.state === "running" && run.live;
  const begin = running ? state.begun_s : now;
  const step = run.plan[state.at];
  let end = now;
  const ends: number[] = [];
  // A step that was stopped begins anew; one that was paused goes on.
  const held = (later: number) => (later || state.state === "stopped" ? 0 : state.held_s);
  if (run.live && step && state.state !== "over")
    run.plan.slice(state.at).forEach((later, i) => {
      const at = i ? end : begin;
      const lasts = courses[state.at + i]?.lasts_s ?? later.seconds;
      draw(state.at + i, at, held(i), Infinity);
      bounds.push({ at, label: STEPS[later.key] ?? later.key });
      end = Math.max(at + lasts - held(i), i ? 0 : now);
      ends.push(end);
    });
  const first = bounds[0]?.at ?? 0;
  const here = bounds.length - Math.max(1, ends.length);
  const last = Math.max(ends.at(-1) ?? 0, run.live ? now : run.end_s);
  const range: [number, number] =
    view === "whole"
      ? [Math.min(first, now), last]
      : view === "step"
        ? [bounds[here]?.at ?? 0, ends[0] ?? run.spans.find((s) => s.end_s >= now)?.end_s ?? last]
        : [
            bounds[Math.max(0, here - BEFORE)]?.at ?? 0,
            ends[Math.min(Math.max(1, BEFORE - here), ends.length - 1)] ?? last,
          ];
  return { bounds, bands, range: range[1] > range[0] ? range : ([range[0], range[0] + 60] as [number, number]) };
}

/** What happened, the last first, with a line to write down what is seen, heard or smelled. */
function Happened({
  run,
  feed,
  now,
  tell,
  state,
}: {
  run: TestRun;
  feed: RunFeed;
  now: number;
  tell: Tell;
  state: RunState;
}) {
  const { design } = useDesign();
  const { line } = useRecordLine(design.id);
  const [draft, keep] = useDraft(`run-note.${run.id}`);
  const events = feed.events.filter((e) => e.at_s <= now + 1).toReversed();
  const note = async () => {
    if (draft?.trim() && (await tell({ command: "note", text: draft.trim() }))) keep(null);
  };
  const step = run.plan[state.at];
  return (
    <section>
      <h2 className="mb-1">What happened</h2>
      {run.live && (
        <div className="run-note">
          <input
            className="form-control form-control-sm"
            aria-label="Note"
            placeholder="seen, heard, smelled…"
            value={draft ?? ""}
            onChange={(event) => keep(event.target.value || null)}
            onKeyDown={(event) => event.key === "Enter" && void note()}
          />
          <Button size="sm" variant="outline-primary" onClick={() => void note()}>
            Note it
          </Button>
          <PhotoButton
            className="tab"
            onPhoto={(file) => {
              const what = `Load test: ${step?.name ?? "after it"}, ${clock(now)}`;
              void line.photo(file, { what });
              void tell({ command: "note", text: `photo in the log: ${what}` });
            }}
          >
            photo
          </PhotoButton>
        </div>
      )}
      <ol className="run-events">
        {events.slice(0, 40).map((event, n) => (
          <li key={events.length - n}>
            <time>{clock(event.at_s)}</time> <Told event={event} run={run} />
          </li>
        ))}
        {events.length === 0 && <li className="faint">Nothing yet.</li>}
      </ol>
      <a className="btn btn-bare btn-sm ps-0" href={`/api/runs/${run.id}/readings.csv`}>
        readings as CSV
      </a>
    </section>
  );
}

function Told({ event: { kind, data }, run }: { event: TestRun["events"][number]; run: TestRun }) {
  const text = (name: string) => String(data[name] ?? "");
  switch (kind) {
    case "begin":
      return <>{run.plan[Number(data.step)]?.name} begins</>;
    case "end":
      return <>it ends{text("how") && `: ${text("how")}`}</>;
    case "stop":
      return (
        <strong className="off">
          {data.line ? (
            <>
              stopped: {LINES[text("line")]?.toLowerCase()}{" "}
              <Read line={text("line")} value={Number(data.value)} run={run} />
              {text("where") && `, ${text("where")}`}
            </>
          ) : (
            "stopped by hand"
          )}
        </strong>
      );
    case "out of band":
      return (
        <span className="run-off">out of band: {(data.traces as string[]).map((t) => NAMES[t] ?? t).join(", ")}</span>
      );
    case "instrument":
      return (
        <span className={HOWS[text("how")] === "holds" ? "" : "run-off"}>
          {text("name")}: {text("said")}
        </span>
      );
    case "gap":
      return <span className="run-off">the server was away for {minutes(Number(data.seconds))}</span>;
    case "note":
      return <em>{text("text")}</em>;
    case "turn":
      return <>{text("channel") === "clamp.a" ? "the clamp" : "the shunt"} is read the other way round</>;
    default:
      return <>{WORDS[kind] ?? kind}</>;
  }
}

const WORDS: Record<string, string> = {
  pause: "paused",
  "go on": "it goes on",
  repeat: "the step is repeated",
  skip: "the step is left out",
  finish: "finished",
};
const NAMES = Object.fromEntries([...STRIPS, ...BESIDE].map(({ key, title }) => [key, title]));

const LEARNED_SHOWN = 6;

/** What the readings said when they were last judged: what would explain them, and what was learned. */
function SaidSoFar({ judged, judging }: { judged: Learnt | null; judging: boolean }) {
  const learned = judged?.learned.filter((item) => !item.refused) ?? [];
  return (
    <section aria-label="What the readings say" aria-busy={judging}>
      {judged ? (
        <Causes diagnosis={judged.diagnosis} />
      ) : (
        <p className="faint">What the readings say is worked out at the end of each step.</p>
      )}
      {learned.length > 0 && (
        <>
          <h2>Learned so far</h2>
          <dl className="figure-list">
            {learned.slice(0, LEARNED_SHOWN).map((item) => (
              <div className="run-learned" key={item.key}>
                <dt>{item.label}</dt>
                <dd>
                  <Fig figure={item.figures.combined} /> ± <Fig figure={item.figures.combined_doubt} />
                  <div className="faint">
                    assumed <Fig figure={item.figures.assumed} />
                  </div>
                </dd>
              </div>
            ))}
          </dl>
        </>
      )}
    </section>
  );
}

function InstrumentsNow({ state, age }: { state: RunState; age: number | null }) {
  return (
    <section aria-label="Instruments">
      <h2>Instruments</h2>
      <ul className="instruments-now">
        {state.instruments.map((one) => (
          <li key={one.name}>
            <Mark kind={HOWS[one.how] ?? "mend"} /> {one.name}
            <span className={HOWS[one.how] === "holds" ? "faint" : "run-off"}>{one.said}</span>
          </li>
        ))}
        {state.instruments.length === 0 && <li className="faint">None: the steps are told by hand.</li>}
      </ul>
      {age !== null && (
        <p className="faint" data-age={age.toFixed(0)}>
          Drawn {age.toFixed(0)} ms after it was read.
        </p>
      )}
      {!state.obeys.includes("load") && <p className="faint">No load obeys: switch it as each step says.</p>}
    </section>
  );
}
