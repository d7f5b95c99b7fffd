/**
 * One design on the screen: what the server holds, and what was typed since.
 *
 * Every change is a JSON Patch. Changes and steps of undo go through the outbox, each on the revision that stands.
 * A refused change leaves the last good value standing and its reason beside the field; a change made on an older
 * revision is carried over, unless both sides changed the same thing: then the builder is asked.
 */
import { createContext, useContext, useSyncExternalStore } from "react";
import { asDesign, api, type ChangedOut, type DesignOut, type ErrorOut, type Operation } from "../api/client";
import { after } from "./answer";
import { Outbox, type Outcome } from "./outbox";

export interface Change {
  patch: Operation[];
  label: string;
  /** Changes with the same key (the pointer of a field) become one step of undo. */
  mergeKey: string;
  /** What stood at each path when the change was made, to see whether someone else changed it. */
  was: unknown[];
}

/** One step back or forward in the history. */
interface Step {
  step: "undo" | "redo";
}

type Entry = Change | Step;

interface Clash {
  change: Change;
  current: DesignOut;
  mine: string;
  theirs: string;
}

export interface State {
  design: DesignOut;
  status: "saved" | "sending" | "unsent";
  waiting: number;
  /** Whether the browser keeps what waits, should the page be closed. */
  keeps: boolean;
  /** Reasons by pointer (or merge key) of what was refused. */
  problems: Record<string, string>;
  clash: Clash | null;
  notice: { text: string; undo?: boolean } | null;
}

/** How long typing must rest before it is sent. */
const REST_MS = 90;

/** The value at a JSON pointer, undefined where there is none. */
export function valueAt(root: unknown, pointer: string): unknown {
  let here = root;
  for (const step of pointer.split("/").slice(1)) {
    if (here === null || typeof here !== "object") return undefined;
    here = Reflect.get(here, step.replaceAll("~1", "/").replaceAll("~0", "~"));
  }
  return here;
}

const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);
const told = (value: unknown) =>
  value === null || value === undefined ? "auto" : typeof value === "object" ? "changed" : String(value);

const isChange = (value: unknown): value is Change =>
  typeof value === "object" &&
  value !== null &&
  "patch" in value &&
  Array.isArray(value.patch) &&
  value.patch.every((o: unknown) => typeof o === "object" && o !== null && "op" in o && "path" in o) &&
  "label" in value &&
  "mergeKey" in value &&
  "was" in value &&
  Array.isArray(value.was);

export class DesignStore {
  private state: State;
  private outbox: Outbox<Entry>;
  /** How much is being asked of the server that will come in line when it is answered. */
  private underway = 0;
  private listeners = new Set<() => void>();

  constructor(design: DesignOut) {
    this.outbox = new Outbox<Entry>({
      key: `kegcart.unsent.${design.id}`,
      isEntry: isChange,
      lasts: isChange,
      send: (entry) => (isChange(entry) ? this.ask(entry) : this.walk(entry)),
    });
    this.state = {
      design,
      status: "saved",
      waiting: 0,
      keeps: true,
      problems: {},
      clash: null,
      notice: null,
    };
    this.outbox.subscribe(() => this.set({}));
    this.outbox.flush();
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  get = () => this.state;

  private set(part: Partial<State>) {
    const { line, away, keeps } = this.outbox;
    const busy = line.length > 0 || this.underway > 0;
    const status = !busy ? "saved" : away && line.length > 0 ? "unsent" : "sending";
    this.state = { ...this.state, ...part, status, keeps, waiting: line.length };
    this.listeners.forEach((listener) => listener());
  }

  /** Put a change in line. What is being typed, and so has a merge key, is sent when the typing rests. */
  change = (patch: Operation[], label: string, mergeKey = "") => {
    const was = patch.map((operation) => valueAt(this.state.design.document, operation.path));
    const last = this.outbox.line.at(-1);
    const entry: Change = { patch, label, mergeKey, was };
    if (mergeKey && last && isChange(last) && last.mergeKey === mergeKey && last !== this.outbox.sending)
      this.outbox.replace(last, { ...entry, was: last.was });
    else this.outbox.add(entry);
    this.send(mergeKey ? REST_MS : 0);
  };

  /** Replace one decision. */
  put = (pointer: string, value: unknown, label: string, merge = false) =>
    this.change([{ op: "replace", path: pointer, value }], label, merge ? pointer : "");

  /** A change that something must be asked for first: until it is in line, it counts as not stored. */
  prepare = async (work: () => Promise<void>) => {
    this.underway++;
    this.set({});
    try {
      await work();
    } finally {
      this.underway--;
      this.set({});
      this.send();
    }
  };

  /** One step back or forward in the history, once what is in line before it is stored. */
  step = (step: Step["step"]) => {
    this.outbox.add({ step });
    this.send();
  };

  /** A design that the server has stored by another way than a patch of ours. */
  accept = (design: DesignOut) => this.set({ design });

  /** Fetch the design anew, after something else was stored that changes it. */
  reload = async () => {
    const design = await this.fetch();
    if (design && !this.outbox.line.length) this.set({ design });
  };

  dismiss = () => this.set({ notice: null });

  say = (text: string, undo = false) => this.set({ notice: { text, undo } });

  /** Take back what was typed and not sent yet, and the reason why it was refused. */
  forget = (pointer: string) => {
    const { line, sending } = this.outbox;
    this.outbox.set(line.filter((e) => e === sending || !isChange(e) || e.mergeKey !== pointer));
    const problems = { ...this.state.problems };
    delete problems[pointer];
    this.set({ problems });
    this.send();
  };

  /** The builder's word on a clash: their own value, or what stands. */
  settle = (keepMine: boolean) => {
    const clash = this.state.clash;
    if (!clash) return;
    const { change, current } = clash;
    if (keepMine) this.outbox.replace(change, { ...change, was: this.standing(change, current) });
    else this.outbox.remove(change);
    this.set({ design: current, clash: null });
    this.send();
  };

  private send(rest = 0) {
    if (!this.state.clash) this.outbox.flush(rest);
  }

  private standing(change: Change, design: DesignOut): unknown[] {
    return change.patch.map((o) => valueAt(design.document, o.path));
  }

  private async fetch(): Promise<DesignOut | null> {
    const { data } = await api.GET("/api/designs/{design_id}", {
      params: { path: { design_id: this.state.design.id } },
    });
    return data ? asDesign(data) : null;
  }

  /** The design after an answer; fetched whole where the answer does not fit what stands here. */
  private async follow(answer: ChangedOut): Promise<DesignOut> {
    return after(this.state.design, answer) ?? (await this.fetch()) ?? this.state.design;
  }

  private async ask(change: Change): Promise<Outcome> {
    const { id, revision } = this.state.design;
    const { data, error, response } = await api.PATCH("/api/designs/{design_id}", {
      params: { path: { design_id: id }, query: { answer: "changes" } },
      body: {
        base_revision: revision,
        patch: change.patch.map((o) => ({ ...o, value: o.value ?? null })),
        label: change.label,
        merge_key: change.mergeKey,
      },
    });
    if (data) {
      const problems = { ...this.state.problems };
      for (const key of [change.mergeKey, ...change.patch.map((o) => o.path)]) delete problems[key];
      this.set({ design: await this.follow(data), problems });
      return "done";
    }
    if (response.status === 409 && "current" in error) return this.stale(change, asDesign(error.current));
    if (response.status >= 500) return "later";
    this.refused(change, error);
    return "done";
  }

  /** Step back or forward; where the server is away nothing is stepped, and that is said. */
  private async walk({ step }: Step): Promise<Outcome> {
    const { id, revision } = this.state.design;
    const { data, error, response } = await api.POST(`/api/designs/{design_id}/${step}`, {
      params: { path: { design_id: id }, query: { answer: "changes" } },
      body: { base_revision: revision },
    });
    if (data) this.set({ design: await this.follow(data), problems: {} });
    else if (response.status === 409 && "current" in error) this.set({ design: asDesign(error.current), problems: {} });
    else if (response.status >= 500)
      this.say("The server does not answer. Nothing was stepped back or forward; try again in a moment.");
    return "done";
  }

  /** Someone else has changed the design since: carried over, unless both changed the same thing. */
  private stale(change: Change, current: DesignOut): Outcome {
    const stands = this.standing(change, current);
    const clashing = change.patch.find((_, i) => !same(change.was[i], stands[i]));
    if (clashing) {
      const theirs = told(valueAt(current.document, clashing.path));
      this.set({ clash: { change, current, mine: told(clashing.value), theirs } });
      return "held";
    }
    this.set({ design: current });
    return "again";
  }

  private refused(change: Change, error: ErrorOut) {
    const problems = { ...this.state.problems };
    const field = change.mergeKey || change.patch[0]?.path || "";
    problems[field] = error.problems?.[0]?.message ?? error.message;
    const isTyping = Boolean(change.mergeKey);
    this.set({ problems, notice: isTyping ? this.state.notice : { text: `Not changed: ${error.message}` } });
  }
}

const Context = createContext<DesignStore | null>(null);
export const StoreProvider = Context.Provider;

export function useStore(): DesignStore {
  const store = useContext(Context);
  if (!store) throw new Error("no design is open");
  return store;
}

export function useDesign(): State {
  const store = useStore();
  return useSyncExternalStore(store.subscribe, store.get);
}
