/**
 * What was typed and is not stored yet. It waits in line, is kept in the browser until the server has it (also while the
 * server is away or the page is closed), and goes out one at a time, in order.
 *
 * Each page keeps its own line, so that two of one build never overwrite each other's. What a page leaves behind when it is
 * loaded again is taken over by itself; what one leaves that is closed, by any other that finds it.
 *
 * Keeping is a safety net: where the browser cannot keep anything, sending goes on, and `keeps` says so. What is read back
 * is checked entry by entry.
 */
import { Failure } from "../api/client";
import { BEFORE, holdName, keep, kept, keysOf, PAGE, whenFree, whenLeft } from "./browser";

/** What became of an entry: stored or dropped; to be sent again at once; or waiting for a word of the builder. */
export type Outcome = "done" | "again" | "held";

interface Mail<T> {
  /** Under which name the browser keeps what waits. */
  name: string;
  /** Whether something read back is an entry. */
  isEntry: (value: unknown) => value is T;
  /** Whether an entry is to go out; one that was refused stays until it is put right. */
  goes: (entry: T) => boolean;
  /** Whether an entry is worth keeping when the page is closed; all are where it is left out. */
  lasts?: (entry: T) => boolean;
  /** Errors: Failure, where the server is away or cannot take it now: it is sent again later. */
  send: (entry: T) => Promise<Outcome>;
}

const RETRY_MS = 2000;

export class Outbox<T> {
  private entries: readonly T[] = [];
  /** The entry that is on its way. */
  sending: T | null = null;
  /** Why the last attempt did not get through; null where it did. */
  trouble: Failure | null = null;
  /** Whether the browser keeps what waits. */
  keeps = true;
  private key: string;
  private timer: number | undefined;
  private listeners = new Set<() => void>();
  private heirOf = new Set<string>();

  constructor(private mail: Mail<T>) {
    this.key = `${mail.name}.${PAGE}`;
    this.heirOf.add(this.key);
    holdName(this.key);
    this.inherit();
    window.addEventListener("storage", () => this.inherit());
  }

  get line(): readonly T[] {
    return this.entries;
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Put the line in another order, or other entries in it. */
  set(line: readonly T[]) {
    this.entries = line;
    this.keep();
    this.tell();
  }

  add(entry: T) {
    this.set([...this.entries, entry]);
  }

  replace(entry: T, by: T) {
    this.set(this.entries.map((e) => (e === entry ? by : e)));
  }

  remove(entry: T) {
    this.set(this.entries.filter((e) => e !== entry));
  }

  /** Send what waits, after a rest in ms. */
  flush(rest = 0) {
    window.clearTimeout(this.timer);
    if (rest > 0) this.timer = window.setTimeout(() => void this.run(), rest);
    else void this.run();
  }

  private async run(): Promise<void> {
    while (this.sending === null) {
      const entry = this.entries.find(this.mail.goes);
      if (entry === undefined) return;
      window.clearTimeout(this.timer);
      this.sending = entry;
      this.tell();
      let outcome: Outcome | "later" = "later";
      try {
        outcome = await this.mail.send(entry);
        this.trouble = null;
      } catch (error) {
        this.trouble = Failure.of(error);
      }
      this.sending = null;
      if (outcome === "done") this.remove(entry);
      this.tell();
      if (outcome === "later" && this.entries.length) this.flush(RETRY_MS);
      if (outcome === "later" || outcome === "held") return;
    }
  }

  private tell() {
    this.listeners.forEach((listener) => listener());
  }

  private inherit() {
    for (const key of keysOf(this.mail.name)) {
      if (this.heirOf.has(key)) continue;
      this.heirOf.add(key);
      const wait = key === `${this.mail.name}.${BEFORE}` ? whenFree : whenLeft;
      wait(key, () => {
        const left = this.read(key);
        keep(key, null);
        if (!left.length) return;
        this.set([...left, ...this.entries]);
        this.flush();
      });
    }
  }

  private read(key: string): T[] {
    try {
      const found: unknown = JSON.parse(kept(key) ?? "[]");
      return Array.isArray(found) ? found.filter(this.mail.isEntry) : [];
    } catch {
      return [];
    }
  }

  private keep() {
    const lasting = this.mail.lasts ? this.entries.filter(this.mail.lasts) : this.entries;
    // That an empty line was kept proves nothing.
    if (!lasting.length) keep(this.key, null);
    else this.keeps = keep(this.key, JSON.stringify(lasting));
  }
}
