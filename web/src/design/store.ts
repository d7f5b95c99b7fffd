/**
 * One design on the screen: what the server holds, and what was typed since.
 *
 * Every change is a JSON Patch. Changes and steps of undo go through the outbox, each on the revision that stands. What was
 * refused stays in line with its reason, and is not sent again, until it is put right or dropped: the last good value stands.
 * A change made on an older revision is carried over, unless both sides changed the same thing: then the builder is asked.
 */
import { applyPatch, type Operation as PatchOperation } from "rfc6902";
import { createContext, useContext, useSyncExternalStore } from "react";
import {
  asDesign,
  api,
  done,
  Failure,
  take,
  type ChangedOut,
  type DesignDocument,
  type DesignOut,
  type Operation,
} from "../api/client";
import { after } from "./answer";
import { joined, useForeseen } from "./forecast";
import { freshKey } from "./ids";
import { useRecorded } from "./record";
import { keepLarge, keptLarge, tellOthers } from "./browser";
import { freshId, withId } from "./ids";
import { shownIn, type Shown } from "./units";
import { Outbox, type Outcome } from "./outbox";

export interface Change {
  /** By this the server knows it again, where its answer was lost. */
  act?: string;
  patch: Operation[];
  label: string;
  /** Changes with the same key (the pointer of a field) become one step of undo. */
  mergeKey: string;
  /** What stood at each path when the change was made, to see whether someone else changed it. */
  was: unknown[];
  /** What was typed, as it was typed. */
  typed?: string;
  /** The unit in which the field keeps it. */
  unit?: string;
  /** Why it was not taken. */
  problem?: string;
}

/** One step back or forward in the history. */
interface Step {
  act: string;
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
  /** The document as it will stand when all that waits is stored: what fields show, and what a change of several decisions is made on. */
  ahead: DesignDocument;
  status: "saved" | "sending" | "unsent";
  /** How much waits to be stored, and what was not taken. */
  waiting: number;
  refused: Change[];
  /** How much was taken back before it was stored, and can be done again. */
  takenBack: number;
  /** What stands in the way of storing. */
  trouble: Failure | null;
  /** Why the design is shown as the browser kept it; null where the server answered it. */
  away: Failure | null;
  /** Whether the browser keeps what waits, should the page be closed. */
  keeps: boolean;
  /** Reasons by pointer (or merge key) of what was refused. */
  problems: Record<string, string>;
  clash: Clash | null;
  notice: { text: string; undo?: boolean } | null;
}

/** How long typing must rest before it is sent. */
const REST_MS = 90;
/** How long another page's typing must rest before what it stored is fetched. */
const HEAR_MS = 300;

/** The value at a JSON pointer, undefined where there is none. */
export function valueAt(root: unknown, pointer: string): unknown {
  let here = root;
  for (const step of pointer.split("/").slice(1)) {
    if (here === null || typeof here !== "object") return undefined;
    here = Reflect.get(here, step.replaceAll("~1", "/").replaceAll("~0", "~"));
  }
  return here;
}

export const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);
const told = (value: unknown, shown: Shown) => {
  if (value === null || value === undefined) return "auto";
  if (typeof value === "number" && shown.unit) return `${shown.to(value)} ${shown.unit}`;
  return typeof value === "object" ? "changed" : String(value);
};

/** The field that a change belongs to. */
const fieldOf = (change: Change) => change.mergeKey || change.patch[0]?.path || "";

const isText = (value: unknown) => typeof value === "string";
const isOperation = (value: unknown) =>
  typeof value === "object" &&
  value !== null &&
  "op" in value &&
  isText(value.op) &&
  "path" in value &&
  isText(value.path);

/** Whether something read back from the browser is a change; a page of an earlier version wrote it without `act`. */
const isChange = (value: unknown): value is Change =>
  typeof value === "object" &&
  value !== null &&
  "patch" in value &&
  Array.isArray(value.patch) &&
  value.patch.length > 0 &&
  value.patch.every(isOperation) &&
  "label" in value &&
  isText(value.label) &&
  "mergeKey" in value &&
  isText(value.mergeKey) &&
  "was" in value &&
  Array.isArray(value.was) &&
  (!("act" in value) || isText(value.act)) &&
  (!("typed" in value) || isText(value.typed)) &&
  (!("problem" in value) || isText(value.problem));

const addressOf = (id: string) => `/api/designs/${id}`;

/** A design as answered; where the server is away, as this browser last had it, with what was told. Errors: Failure. */
export async function openDesign(id: string): Promise<{ design: DesignOut; away: Failure | null }> {
  try {
    const design = await take(api.GET("/api/designs/{design_id}", { params: { path: { design_id: id } } }));
    return { design: asDesign(design), away: null };
  } catch (error) {
    const failure = Failure.of(error);
    const design = failure.passes ? await keptLarge(addressOf(id)) : null;
    if (typeof design !== "object" || design === null || !("document" in design)) throw failure;
    return { design: design as DesignOut, away: failure };
  }
}

/** How a typed value is put: in the place of another, or as an entry that may not be there yet. */
export type TypedOp = "replace" | "add";

export class DesignStore {
  private state: State;
  private outbox: Outbox<Entry>;
  private keeping = false;
  /** What was taken back before it was stored, to be done again. */
  private takenBack: Change[] = [];
  /** How much is being asked of the server that will come in line when it is answered. */
  private underway = 0;
  /** Tells other pages of this browser the revision that stands. */
  private tell: (revision: number) => void;
  /** Whether another page knows a later revision. */
  private behind = false;
  private hearing: number | undefined;
  private listeners = new Set<() => void>();

  private static opened = new Map<string, DesignStore>();

  /** The store of a design: one a page, as what waits in it outlives a visit to the shelf. */
  static of(design: DesignOut): DesignStore {
    const store = DesignStore.opened.get(design.id) ?? new DesignStore(design);
    DesignStore.opened.set(design.id, store);
    return store;
  }

  private constructor(design: DesignOut) {
    this.outbox = new Outbox<Entry>({
      name: `kegcart.unsent.${design.id}`,
      isEntry: isChange,
      goes: (entry) => !isChange(entry) || entry.problem === undefined,
      lasts: isChange,
      send: (entry) => (isChange(entry) ? this.ask(entry) : this.walk(entry)),
    });
    this.state = {
      design,
      ahead: design.document,
      status: "saved",
      waiting: 0,
      refused: [],
      takenBack: 0,
      trouble: null,
      away: null,
      keeps: true,
      problems: {},
      clash: null,
      notice: null,
    };
    this.outbox.subscribe(() => this.set({}));
    this.tell = tellOthers<number>(`kegcart.design.${design.id}`, (revision) => {
      this.behind ||= revision > this.state.design.revision;
      this.catchUp();
    });
    document.addEventListener("visibilitychange", () => this.catchUp());
    this.set({ design });
    window.addEventListener("beforeunload", (event) => {
      if (this.state.waiting > 0 && !this.state.keeps) event.preventDefault();
    });
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  get = () => this.state;

  private set(part: Partial<State>) {
    const { line, trouble, keeps } = this.outbox;
    const refused = line.filter((e) => isChange(e)).filter((e) => e.problem !== undefined);
    const waiting = line.length - refused.length;
    const status = waiting + this.underway === 0 ? "saved" : trouble && waiting > 0 ? "unsent" : "sending";
    const problems = Object.fromEntries(refused.map((e) => [fieldOf(e), e.problem!]));
    const { document } = part.design ?? this.state.design;
    this.state = {
      ...this.state,
      ...part,
      ahead: this.carried(document),
      status,
      keeps,
      waiting,
      refused,
      problems,
      takenBack: this.takenBack.length,
      trouble: waiting ? trouble : null,
    };
    if (part.design) {
      this.keepDesign();
      this.tell(part.design.revision);
    }
    this.listeners.forEach((listener) => listener());
  }

  /** Keep the design as it stands, one after the other, so that it can be opened while the server is away. */
  private keepDesign() {
    if (this.keeping) return;
    this.keeping = true;
    window.setTimeout(() => {
      const { design } = this.state;
      void keepLarge(addressOf(design.id), design).then(() => {
        this.keeping = false;
        if (this.state.design !== design) this.keepDesign();
      });
    }, 0);
  }

  /** Fetch what another page has stored, as soon as this one is looked at. */
  private catchUp() {
    window.clearTimeout(this.hearing);
    if (!this.behind || document.visibilityState === "hidden") return;
    this.hearing = window.setTimeout(() => {
      this.behind = false;
      void this.reload();
    }, HEAR_MS);
  }

  /** Put a change in line. What is being typed, and so has a merge key, is sent when the typing rests. */
  change = (patch: Operation[], label: string, mergeKey = "", typed?: string, unit?: string) => {
    const was = patch.map((operation) => valueAt(this.state.design.document, operation.path));
    const entry: Change = {
      act: freshKey(),
      patch,
      label,
      mergeKey,
      was,
      ...(typed === undefined ? {} : { typed }),
      ...(unit && { unit }),
    };
    const field = fieldOf(entry);
    this.takenBack = [];
    // What was refused in this field is put right by this.
    const line = this.outbox.line.filter((e) => !isChange(e) || e.problem === undefined || fieldOf(e) !== field);
    const last = line.at(-1);
    if (mergeKey && last && isChange(last) && last.mergeKey === mergeKey && last !== this.outbox.sending)
      this.outbox.set([...line.slice(0, -1), { ...entry, was: last.was }]);
    else this.outbox.set([...line, entry]);
    this.send(mergeKey ? REST_MS : 0);
  };

  /** Replace one decision. */
  put = (pointer: string, value: unknown, label: string) =>
    this.change([{ op: "replace", path: pointer, value }], label);

  /**
   * Replace one decision as it is typed; the text stays in the field until it is stored.
   * `op` is "add" where it is an entry of a collection that may not be there yet.
   */
  type = (pointer: string, value: unknown, label: string, typed: string, unit?: string, op: TypedOp = "replace") =>
    this.change([{ op, path: pointer, value }], label, pointer, typed, unit);

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

  /**
   * One step back or forward in the history, once what is in line before it is stored. Each call is one step.
   * While nothing gets through, what waits last is taken back here, and comes again by a step forward.
   */
  step = (step: Step["step"]) => {
    const last = this.outbox.line.at(-1);
    const again = this.takenBack.at(-1);
    if (
      step === "undo" &&
      this.outbox.trouble &&
      last &&
      last !== this.outbox.sending &&
      isChange(last) &&
      !last.problem
    ) {
      this.takenBack = [...this.takenBack, last];
      this.outbox.remove(last);
      this.say(`Taken back before it was stored: ${last.label || "the last change"}.`);
    } else if (step === "redo" && again) {
      this.takenBack = this.takenBack.slice(0, -1);
      this.outbox.add(again);
      this.say(`Done again: ${again.label || "the last change"}.`);
      this.send();
    } else {
      this.outbox.add({ act: freshKey(), step });
      this.send();
    }
  };

  /** A design that the server has stored by another way than a patch of ours; what was stored on it since holds it already. */
  accept = (design: DesignOut) => {
    if (design.revision >= this.state.design.revision) this.set({ design });
  };

  /** A design as it was opened: from the server, or from what the browser kept while the server is away. */
  opened = (design: DesignOut, away: Failure | null) => {
    const overtaken = design.revision < this.state.design.revision;
    this.set(overtaken ? { away } : { design, away });
    if (overtaken && !away) void this.reload();
    this.send();
  };

  /**
   * Fetch the design anew, after something else was stored that changes it, or where it came with an older revision than stands.
   * An older one is taken only if nothing was stored while it was on its way: then the server has it again from a backup.
   */
  reload = async () => {
    const stood = this.state.design;
    const design = await this.fetch();
    const now = this.state.design;
    if (design && !this.outbox.line.length && (design.revision >= now.revision || now === stood)) this.set({ design });
  };

  dismiss = () => this.set({ notice: null });

  say = (text: string, undo = false) => this.set({ notice: { text, undo } });

  /** Take back what was typed in a field and not stored yet, or was refused. */
  forget = (pointer: string) => {
    const { line, sending } = this.outbox;
    this.outbox.set(line.filter((e) => e === sending || !isChange(e) || fieldOf(e) !== pointer));
    this.send();
  };

  /** Send once more what was refused, or drop it. */
  again = (change: Change) => {
    const entry = { ...change, act: freshKey(), was: this.standing(change, this.state.design) };
    delete entry.problem;
    this.outbox.replace(change, entry);
    this.send();
  };

  drop = (change: Change) => this.outbox.remove(change);

  /**
   * Put a build that was taken off the shelf back on it; where the server knows it no more, make it anew as it stands here,
   * with what waits. Returns its id. Errors: Failure.
   */
  bringBack = async (): Promise<string> => {
    const { design, trouble } = this.state;
    if (trouble?.kind !== "missing") {
      await done(api.POST("/api/designs/{design_id}/restore", { params: { path: { design_id: design.id } } }));
      this.send();
      return design.id;
    }
    const made = asDesign(await take(api.POST("/api/designs/import", { body: design.document as never })));
    const moved = DesignStore.of(made);
    const { line } = this.outbox;
    this.outbox.set([]);
    moved.outbox.set([...moved.outbox.line, ...line]);
    moved.send();
    return made.id;
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

  /** The change that waits or was refused in a field: what it shows before what is stored. */
  pending = (pointer: string): Change | undefined =>
    this.outbox.line.filter((e) => isChange(e)).findLast((e) => fieldOf(e) === pointer);

  /** A document with all that waits. */
  private carried(document: DesignDocument): DesignDocument {
    const waits = this.outbox.line.filter((e) => isChange(e)).filter((e) => e.problem === undefined);
    if (!waits.length) return document;
    const out = structuredClone(document);
    for (const entry of waits) applyPatch(out, entry.patch as PatchOperation[]);
    return out;
  }

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
        act: change.act ?? "",
      },
    });
    if (data) {
      this.stored(change, await this.follow(data));
      return "done";
    }
    if (response.status === 409 && "current" in error) return this.stale(change, asDesign(error.current));
    return this.failed(change, Failure.of(error));
  }

  /** What waits behind a change that is stored was made on what it made. */
  private stored(change: Change, design: DesignOut) {
    const touched = new Set(change.patch.map((o) => o.path));
    const led = (entry: Change): Change => ({
      ...entry,
      was: entry.patch.map((o, i) => (touched.has(o.path) ? valueAt(design.document, o.path) : entry.was[i])),
    });
    this.set({ design });
    const behind = (e: Entry): e is Change => e !== change && isChange(e) && e.patch.some((o) => touched.has(o.path));
    this.outbox.set(this.outbox.line.map((e) => (behind(e) ? led(e) : e)));
  }

  /** Step back or forward, and say what that took back. */
  private async walk({ step, act }: Step): Promise<Outcome> {
    const { id, revision, history } = this.state.design;
    const label = history[step];
    const { data, error, response } = await api.POST(`/api/designs/{design_id}/${step}`, {
      params: { path: { design_id: id }, query: { answer: "changes" } },
      body: { base_revision: revision, act },
    });
    if (data) {
      const text = step === "undo" ? "Taken back" : "Done again";
      this.set({ design: await this.follow(data) });
      this.say(label ? `${text}: ${label}.` : step === "undo" ? "Nothing to take back." : "Nothing to do again.");
      return "done";
    }
    if (response.status === 409 && "current" in error) {
      this.set({ design: asDesign(error.current) });
      return "again";
    }
    const failure = Failure.of(error);
    if (failure.passes || failure.kind === "deleted") throw failure;
    this.say(failure.message);
    return "done";
  }

  /** Someone else has changed the design since: carried over, unless both changed the same thing. */
  private stale(change: Change, current: DesignOut): Outcome {
    const apart = this.apart(change, current);
    if (apart) {
      this.outbox.replace(change, apart);
      this.set({ design: current });
      return "again";
    }
    const stands = this.standing(change, current);
    const clashing = change.patch.find((_, i) => !same(change.was[i], stands[i]));
    if (clashing) {
      const shown = shownIn(current.document.brief.units, change.unit);
      const theirs = told(valueAt(current.document, clashing.path), shown);
      this.set({
        clash: {
          change,
          current,
          mine: told(change.typed === undefined ? clashing.value : shown.sent(change.typed), shown),
          theirs,
        },
      });
      return "held";
    }
    this.set({ design: current });
    return "again";
  }

  /** A new thing for which someone else has meanwhile taken the id gets another; null where there is none. */
  private apart(change: Change, current: DesignOut): Change | null {
    const taken = change.patch.find(
      (o, i) => o.op === "add" && (change.was[i] ?? null) === null && valueAt(current.document, o.path) !== undefined,
    );
    if (!taken) return null;
    const at = taken.path.lastIndexOf("/");
    const used = valueAt(current.document, taken.path.slice(0, at)) as Record<string, unknown>;
    const id = taken.path.slice(at + 1);
    const patch = withId(change.patch, taken.path.slice(0, at), id, freshId(id, used));
    return { ...change, patch, was: patch.map((o) => valueAt(current.document, o.path)) };
  }

  /** What does not get through now waits; what is refused, or breaks the program, stays with its reason. Errors: Failure. */
  private failed(change: Change, failure: Failure): Outcome {
    if (failure.passes || failure.kind === "deleted" || failure.kind === "missing") throw failure;
    const problem = failure.reason;
    // While it was on its way more may have been typed in the field: then that goes, and this is not missed.
    const later = this.outbox.line.some((e) => e !== change && isChange(e) && fieldOf(e) === fieldOf(change));
    if (later) return "done";
    this.outbox.replace(change, { ...change, problem });
    if (change.typed === undefined || failure.kind === "broken")
      this.say(failure.kind === "broken" ? `${change.label}: ${failure.message}` : `Not changed: ${failure.message}`);
    return "again";
  }
}

const Context = createContext<DesignStore | null>(null);
export const StoreProvider = Context.Provider;

export function useStore(): DesignStore {
  const store = useContext(Context);
  if (!store) throw new Error("no design is open");
  return store;
}

/** The design as it stands with all that waits, with what was foreseen of it, and what is judged of its record. */
export function useDesign(): State {
  const store = useStore();
  const state = useSyncExternalStore(store.subscribe, store.get);
  const { forecast } = useForeseen();
  const { record, life } = useRecorded();
  const design = joined(joined(joined(state.design, forecast), record), life);
  return design === state.design ? state : { ...state, design };
}

/** What the store holds of a design, without what was foreseen. */
export function useStored(store: DesignStore): State {
  return useSyncExternalStore(store.subscribe, store.get);
}
