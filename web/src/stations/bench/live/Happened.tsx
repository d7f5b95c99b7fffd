import { useState } from "react";
import Button from "react-bootstrap/Button";
import type { TestRun } from "../../../api/client";
import { useDraft } from "../../../design/browser";
import { useRecordLine } from "../../../design/record";
import { useDesign } from "../../../design/store";
import { PhotoButton } from "../../../figures/Photo";
import { useShown } from "../../../figures/units";
import { RunPapers } from "../RunPapers";
import { clock, LINES } from "../steps";
import type { RunFeed, RunState } from "./feed";
import { Read } from "./Read";
import { HOWS, minutes, type Tell } from "./telling";
import { NAMES } from "./watched";

/** How instruments came and went is told among so many of the latest; all else stays. */
const LATEST = 40;

/** What happened, the last first, with a line to write down what is seen, heard or smelled. */
export function Happened({
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
          <Button size="sm" variant="quiet" onClick={() => void note()}>
            Note it
          </Button>
          <PhotoButton
            className="tab"
            onPhoto={(file) => {
              const what = `Load test: ${step?.name ?? "after it"}, ${clock(now)}`;
              void line.photo(file, { what, step: `test:${run.id}` });
              void tell({ command: "note", text: `photo in the log: ${what}` });
            }}
          >
            photo
          </PhotoButton>
        </div>
      )}
      {run.live && <Typed run={run} tell={tell} />}
      <ol className="run-events" tabIndex={0} aria-label="What happened, the latest first">
        {events.map(
          (event, n) =>
            (n < LATEST || event.kind !== "instrument") && (
              <li key={events.length - n}>
                <time>{clock(event.at_s)}</time> <Told event={event} run={run} />
              </li>
            ),
        )}
        {events.length === 0 && <li className="faint">Nothing yet.</li>}
      </ol>
      {run.live ? (
        <a className="btn btn-bare btn-sm ps-0" href={`/api/runs/${run.id}/readings.csv`}>
          readings as CSV
        </a>
      ) : (
        <RunPapers run={run.id} />
      )}
    </section>
  );
}

/** A reading that no instrument gives: taken by hand, and typed. */
function Typed({ run, tell }: { run: TestRun; tell: Tell }) {
  const [channel, setChannel] = useState("posts.v");
  const [draft, keep] = useDraft(`run-read.${run.id}`);
  const unit = UNIT_OF[channel.split(".").at(-1)!];
  const shown = useShown(unit);
  const put = async () => {
    if (draft?.trim() && (await tell({ command: "read", channel, text: shown.sent(draft.trim()) }))) keep(null);
  };
  return (
    <div className="run-note">
      <select
        className="form-select form-select-sm"
        aria-label="What was read by hand"
        value={channel}
        onChange={(event) => setChannel(event.target.value)}
      >
        {Object.entries(CHANNELS).map(([key, label]) => (
          <option key={key} value={key}>
            {label}
          </option>
        ))}
        {run.points.map((point, n) => (
          <option key={n} value={`part.${n + 1}.c`}>
            temperature of {point}
          </option>
        ))}
        {Array.from({ length: run.cells }, (_, n) => (
          <option key={n} value={`cell.${n + 1}.v`}>
            cell {n + 1}
          </option>
        ))}
      </select>
      <input
        className="form-control form-control-sm"
        aria-label="Reading"
        placeholder={shown.unit}
        value={draft ?? ""}
        onChange={(event) => keep(event.target.value || null)}
        onKeyDown={(event) => event.key === "Enter" && void put()}
      />
      <Button size="sm" variant="quiet" onClick={() => void put()}>
        Put it in
      </Button>
    </div>
  );
}

const UNIT_OF: Record<string, string> = { v: "V", a: "A", w: "W", c: "°C" };
const CHANNELS: Record<string, string> = {
  "posts.v": "voltage at the posts",
  "posts.a": "current at the shunt",
  "clamp.a": "current by clamp",
  "end.v": "voltage at the end of the path",
  "load.w": "load",
  "air.c": "air inside",
  "pack.c": "pack",
  "outside.c": "air outside",
};

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
