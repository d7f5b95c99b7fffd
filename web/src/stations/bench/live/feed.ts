/**
 * A load test as it runs: one page of this browser listens to the server, and tells the others what it hears, so that several of them do not
 * take up its few connections. What was missed meanwhile is asked for.
 */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { api, Failure, take, type Learnt, type TestRun } from "../../../api/client";
import { onOnePage, tellOthers } from "../../../design/browser";

interface Course {
  t: number[];
  v: number[];
}

interface RunInstrument {
  name: string;
  address: string;
  how: string;
  said: string;
}

/** How a test stands. */
export interface RunState {
  state: TestRun["state"];
  at: number;
  begun_s: number;
  held_s: number;
  now_s: number;
  rate: number;
  waits: boolean;
  by_itself: boolean;
  spans: TestRun["spans"];
  instruments: RunInstrument[];
  obeys: string[];
  off: string[];
  turned: string[];
  alarm: string;
  judging: boolean;
}

type RunEvent = TestRun["events"][number];

/** Readings of one moment: s of the test, s of the clock on the wall, by channel, and what is watched of them. */
interface Batch {
  s: number;
  w: number;
  v: Record<string, number>;
  d: Record<string, number>;
}
type Said =
  | { kind: "open" | "over" }
  | { kind: "readings"; data: Batch[] }
  | { kind: "state"; data: RunState }
  | { kind: "event"; data: RunEvent }
  | { kind: "courses"; data: { from: number; courses: TestRun["courses"] } }
  | { kind: "judged"; data: Learnt };

const KINDS = ["readings", "state", "event", "courses", "judged", "over"] as const;
/** A course that grows longer is thinned: its peaks stay. */
const MOST = 6000;
/** Of what the server has, so many points are asked for. */
const ASKED = 2000;
/** So many readings tell how old what is drawn is. */
const DELAYS = 400;
/** A connection that broke is tried again after so long. */
const AGAIN_MS = 1000;

/** A course with half as many points: of each four the least and the greatest, in their order. */
function thinned({ t, v }: Course): Course {
  const out: Course = { t: [], v: [] };
  for (let i = 0; i < v.length; i += 4) {
    const end = Math.min(i + 4, v.length);
    let low = i;
    let high = i;
    for (let j = i; j < end; j += 1) {
      if (v[j]! < v[low]!) low = j;
      if (v[j]! > v[high]!) high = j;
    }
    for (const j of low === high ? [low] : [Math.min(low, high), Math.max(low, high)]) {
      out.t.push(t[j]!);
      out.v.push(v[j]!);
    }
  }
  return out;
}

const same = (one: RunEvent, other: RunEvent) => one.at_s === other.at_s && one.kind === other.kind;

/** What a screen holds of one test. */
export class RunFeed {
  traces: Record<string, Course> = {};
  latest: Record<string, number> = {};
  state: RunState | null = null;
  events: RunEvent[];
  courses: TestRun["courses"];
  judged: Learnt | null;
  /** When the state was heard, by this page's clock, ms. */
  heard = 0;
  away = false;
  version = 0;
  private listeners = new Set<() => void>();
  private waiting = false;
  private asked = 0;
  private filling = false;
  /** What was heard while an answer is waited for. */
  private held: Batch[] = [];
  private undrawn: number[] = [];
  /** How old the last readings were when they were drawn, ms. */
  private delays: number[] = [];

  constructor(
    readonly run: TestRun,
    private onOver: () => void,
  ) {
    this.events = [...run.events];
    this.courses = [...run.courses];
    this.judged = run.judged;
    void this.fill();
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };

  get = () => this.version;

  /** Ask for what was read so far; of several answers the one counts that was asked for last. What is heard meanwhile comes after it. */
  private async fill() {
    const at = { params: { path: { run_id: this.run.id }, query: { points: ASKED } } };
    const asked = (this.asked += 1);
    this.filling = true;
    const answer = await take(api.GET("/api/runs/{run_id}/chart", at)).catch(Failure.of);
    if (asked !== this.asked) return;
    if (!(answer instanceof Failure))
      this.traces = Object.fromEntries(
        Object.entries(answer.traces).map(([key, c]) => [key, { t: [...c.t], v: [...c.v] }]),
      );
    else if (answer.passes)
      window.setTimeout(() => asked === this.asked && this.listeners.size && void this.fill(), AGAIN_MS);
    this.filling = false;
    this.put(this.held.splice(0));
  }

  /** Ask for what happened while nobody listened. */
  private catchUp() {
    take(api.GET("/api/runs/{run_id}", { params: { path: { run_id: this.run.id } } }))
      .then((run) => {
        const later = this.events.filter((e) => !run.events.some((known) => same(known, e)));
        this.events = [...run.events, ...later];
        this.courses = run.courses;
        this.judged = run.judged;
        this.change();
      })
      .catch(() => {});
  }

  hear = (said: Said) => {
    switch (said.kind) {
      case "open":
        this.away = false;
        this.held = [];
        void this.fill();
        this.catchUp();
        break;
      case "readings":
        this.held.push(...said.data);
        if (this.held.length > ASKED) this.held.splice(0, this.held.length - ASKED);
        if (!this.filling) this.put(this.held.splice(0));
        break;
      case "state":
        this.state = said.data;
        this.heard = performance.now();
        break;
      case "event":
        this.events = [...this.events.filter((e) => !same(e, said.data)), said.data];
        break;
      case "courses":
        this.courses = [...this.courses.slice(0, said.data.from), ...said.data.courses];
        break;
      case "judged":
        this.judged = said.data;
        break;
      case "over":
        this.onOver();
    }
    this.change();
  };

  private put(batches: Batch[]) {
    for (const { s, w, v, d } of batches) {
      this.undrawn.push(w);
      Object.assign(this.latest, v);
      for (const [key, value] of Object.entries(d)) {
        const course = (this.traces[key] ??= { t: [], v: [] });
        if (course.t.length && s <= course.t.at(-1)!) continue;
        course.t.push(s);
        course.v.push(value);
        if (course.t.length > MOST) this.traces[key] = thinned(course);
      }
    }
    this.change();
  }

  /** Seconds of the test at this moment. */
  now(): number {
    if (!this.state) return this.run.end_s;
    return this.state.now_s + ((performance.now() - this.heard) / 1000) * this.state.rate;
  }

  /** All that was heard is drawn now. */
  drawn() {
    const now = Date.now();
    this.delays.push(...this.undrawn.map((w) => now - 1000 * w));
    this.undrawn = [];
    if (this.delays.length > DELAYS) this.delays.splice(0, this.delays.length - DELAYS);
  }

  /** So old was what was drawn lately, ms: of twenty readings nineteen were no older. Null where little was drawn. */
  get age(): number | null {
    const sorted = this.delays.toSorted((a, b) => a - b);
    return sorted.length < DELAYS / 4 ? null : sorted[Math.floor(0.95 * sorted.length)]!;
  }

  lost() {
    this.away = true;
    this.change();
  }

  /** Tell what draws, at most once a frame. */
  private change() {
    if (this.waiting) return;
    this.waiting = true;
    requestAnimationFrame(() => {
      this.waiting = false;
      this.version += 1;
      this.listeners.forEach((listener) => listener());
      // The strips are drawn by then.
      requestAnimationFrame(() => this.drawn());
    });
  }
}

/** Listen to the server, on this page alone. */
function listen(run: string, hear: (said: Said) => void, lost: () => void): () => void {
  let source: EventSource | null = null;
  let timer = 0;
  const open = () => {
    source = new EventSource(`/api/runs/${run}/live`);
    source.onopen = () => hear({ kind: "open" });
    source.onerror = () => {
      source?.close();
      lost();
      timer = window.setTimeout(open, AGAIN_MS);
    };
    for (const kind of KINDS)
      source.addEventListener(kind, (event: MessageEvent<string>) => {
        hear({ kind, data: JSON.parse(event.data) } as Said);
        if (kind === "over") source?.close();
      });
  };
  open();
  return () => {
    window.clearTimeout(timer);
    source?.close();
  };
}

/** A test as this page sees it: live where it runs, as it was stored where it is over. */
export function useRunFeed(run: TestRun): RunFeed {
  const queries = useQueryClient();
  const [feed] = useState(() => new RunFeed(run, () => void queries.invalidateQueries({ queryKey: ["runs"] })));
  useEffect(() => {
    if (!run.live) return;
    const name = `kegcart.run.${run.id}`;
    const tell = tellOthers<Said>(name, feed.hear);
    const hear = (said: Said) => {
      feed.hear(said);
      tell(said);
    };
    return onOnePage(name, () => listen(run.id, hear, () => feed.lost()));
  }, [feed, run.id, run.live]);
  useSyncExternalStore(feed.subscribe, feed.get);
  return feed;
}
