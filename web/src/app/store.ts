/**
 * One design on the screen: what the server holds, and what was typed since.
 *
 * Every change is a JSON Patch. Changes wait in line, are kept in the browser until the server has stored them,
 * and go out one at a time, each on the revision that stands. A refused change leaves the last good value standing
 * and its reason beside the field; a change made on an older revision is carried over, unless both sides changed
 * the same thing: then the builder is asked.
 */
import { createContext, useContext, useSyncExternalStore } from "react";
import { api, type DesignOut, type ErrorOut, type Figure, type Operation } from "../api/client";

export interface Change {
  patch: Operation[];
  label: string;
  /** Changes with the same key (the pointer of a field) become one step of undo. */
  mergeKey: string;
  /** What stood at each path when the change was made, to see whether someone else changed it. */
  was: unknown[];
}

export interface Clash {
  change: Change;
  current: DesignOut;
  mine: string;
  theirs: string;
}

export interface State {
  design: DesignOut;
  status: "saved" | "sending" | "unsent";
  waiting: number;
  /** Reasons by pointer (or merge key) of what was refused. */
  problems: Record<string, string>;
  clash: Clash | null;
  notice: { text: string; undo?: boolean } | null;
}

const RETRY_MS = 2000;
/** How long typing must rest before it is sent. */
const REST_MS = 90;

type Step = "undo" | "redo";

/** The value at a JSON pointer, undefined where there is none. */
export function valueAt(root: unknown, pointer: string): unknown {
  let here = root;
  for (const step of pointer.split("/").slice(1)) {
    if (here === null || typeof here !== "object") return undefined;
    here = (here as Record<string, unknown>)[step.replaceAll("~1", "/").replaceAll("~0", "~")];
  }
  return here;
}

const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);
const told = (value: unknown) =>
  value === null || value === undefined ? "auto" : typeof value === "object" ? "changed" : String(value);

export class DesignStore {
  private state: State;
  private line: Change[] = [];
  /** A step that waits for what is in line. */
  private waitingStep: Step | null = null;
  private busy = false;
  /** How much is being asked of the server that will come in line when it is answered. */
  private underway = 0;
  private timer: number | undefined;
  private listeners = new Set<() => void>();

  constructor(design: DesignOut) {
    this.state = { design, status: "saved", waiting: 0, problems: {}, clash: null, notice: null };
    try {
      this.line = JSON.parse(localStorage.getItem(this.key) ?? "[]") as Change[];
    } catch {
      this.line = [];
    }
    if (this.line.length) void this.send();
  }

  private get key() {
    return `kegcart.unsent.${this.state.design.id}`;
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  get = () => this.state;

  private set(part: Partial<State>) {
    this.state = { ...this.state, ...part, waiting: this.line.length };
    this.listeners.forEach((listener) => listener());
  }

  private keep() {
    if (this.line.length) localStorage.setItem(this.key, JSON.stringify(this.line));
    else localStorage.removeItem(this.key);
  }

  /** Put a change in line. What is being typed, and so has a merge key, is sent when the typing rests. */
  change = (patch: Operation[], label: string, mergeKey = "") => {
    const was = patch.map((operation) => valueAt(this.state.design.document, operation.path));
    const last = this.line.at(-1);
    const replaces = mergeKey && last?.mergeKey === mergeKey && !(this.busy && this.line.length === 1);
    if (replaces) this.line.pop();
    this.line.push({ patch, label, mergeKey, was: replaces && last ? last.was : was });
    this.keep();
    if (this.state.status === "saved") this.set({ status: "sending" });
    window.clearTimeout(this.timer);
    if (mergeKey) this.timer = window.setTimeout(() => void this.send(), REST_MS);
    else void this.send();
  };

  /** Replace one decision. */
  put = (pointer: string, value: unknown, label: string, merge = false) =>
    this.change([{ op: "replace", path: pointer, value }], label, merge ? pointer : "");

  /** A change that something must be asked for first: until it is in line, it counts as not stored. */
  prepare = async (work: () => Promise<void>) => {
    this.underway++;
    if (this.state.status === "saved") this.set({ status: "sending" });
    try {
      await work();
    } finally {
      this.underway--;
      void this.send();
    }
  };

  /** One step back or forward in the history, once what is in line is stored. */
  step = (direction: Step) => {
    this.waitingStep = direction;
    void this.send();
  };

  /** A design that the server has stored by another way than a patch of ours. */
  accept = (design: DesignOut) => this.set({ design });

  /** Fetch the design anew, after something else was stored that changes it. */
  reload = async () => {
    const { data } = await api.GET("/api/designs/{design_id}", {
      params: { path: { design_id: this.state.design.id } },
    });
    if (data && !this.line.length) this.set({ design: data as DesignOut });
  };

  dismiss = () => this.set({ notice: null });

  say = (text: string, undo = false) => this.set({ notice: { text, undo } });

  /** Take back what was typed and not sent yet, and the reason why it was refused. */
  forget = (pointer: string) => {
    const sent = this.busy ? 1 : 0;
    this.line = this.line.filter((change, place) => place < sent || change.mergeKey !== pointer);
    this.keep();
    const problems = { ...this.state.problems };
    delete problems[pointer];
    this.set({ problems });
    void this.send();
  };

  /** The builder's word on a clash: their own value, or what stands. */
  settle = (keepMine: boolean) => {
    const clash = this.state.clash;
    if (!clash) return;
    if (keepMine) clash.change.was = clash.change.patch.map((o) => valueAt(clash.current.document, o.path));
    else this.line.shift();
    this.keep();
    this.set({ design: clash.current, clash: null });
    void this.send();
  };

  private async send(): Promise<void> {
    if (this.busy || this.state.clash) return;
    const change = this.line[0];
    if (!change && this.underway) return;
    if (!change && !this.waitingStep) {
      if (this.state.status !== "saved") this.set({ status: "saved" });
      return;
    }
    this.busy = true;
    window.clearTimeout(this.timer);
    if (this.state.status === "saved") this.set({ status: "sending" });
    let again = true;
    try {
      if (change) again = await this.ask(change);
      else if (this.waitingStep) again = await this.walk(this.waitingStep);
    } catch {
      again = this.away(); // the answer broke off
    } finally {
      this.busy = false;
    }
    if (again) await this.send();
  }

  /** Send one change. Returns whether to go on with the next. */
  private async ask(change: Change): Promise<boolean> {
    const { data, error, response } = await api.PATCH("/api/designs/{design_id}", {
      params: { path: { design_id: this.state.design.id } },
      body: {
        base_revision: this.state.design.revision,
        patch: change.patch.map((o) => ({ ...o, value: o.value ?? null })),
        label: change.label,
        merge_key: change.mergeKey,
      },
    });
    if (data) this.stored(change, data as DesignOut);
    else if (response.status === 409) this.stale(change, (error as { current: DesignOut }).current);
    else if (response.status >= 500) return this.away();
    else this.refused(change, error as ErrorOut);
    return true;
  }

  private async walk(step: Step): Promise<boolean> {
    const { id, revision } = this.state.design;
    const { data, error, response } = await api.POST(`/api/designs/{design_id}/${step}`, {
      params: { path: { design_id: id } },
      body: { base_revision: revision },
    });
    if (response.status >= 500) return this.away();
    this.waitingStep = null;
    const current = data ?? (error && "current" in error ? error.current : undefined);
    if (current) this.set({ design: current as DesignOut, problems: {} });
    return true;
  }

  private stored(change: Change, design: DesignOut) {
    this.line.shift();
    this.keep();
    const problems = { ...this.state.problems };
    for (const key of [change.mergeKey, ...change.patch.map((o) => o.path)]) delete problems[key];
    this.set({ design, problems, status: this.line.length || this.underway ? "sending" : "saved" });
  }

  private stale(change: Change, current: DesignOut) {
    const index = change.patch.findIndex((o, i) => !same(change.was[i], valueAt(current.document, o.path)));
    const clashing = change.patch[index];
    if (!clashing) {
      this.set({ design: current });
      return;
    }
    const theirs = told(valueAt(current.document, clashing.path));
    this.set({ clash: { change, current, mine: told(clashing.value), theirs } });
  }

  private refused(change: Change, error: ErrorOut) {
    this.line.shift();
    this.keep();
    const problems = { ...this.state.problems };
    const field = change.mergeKey || change.patch[0]?.path || "";
    problems[field] = error.problems?.[0]?.message ?? error.message;
    const isTyping = Boolean(change.mergeKey);
    this.set({ problems, notice: isTyping ? this.state.notice : { text: `Not changed: ${error.message}` } });
  }

  /** The server is away: what was typed is kept, marked unsent, and sent when it answers again. */
  private away() {
    if (this.waitingStep)
      this.say("The server does not answer. Nothing was stepped back or forward; try again in a moment.");
    this.waitingStep = null;
    this.set({ status: this.line.length ? "unsent" : "saved" });
    if (this.line.length) this.timer = window.setTimeout(() => void this.send(), RETRY_MS);
    return false;
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

export function useFigure(path: string): Figure | undefined {
  return useDesign().design.assessment.figures[path] as Figure | undefined;
}
