/**
 * What was typed and is not stored yet. It waits in line, is kept in the browser until the server has it (also while the
 * server is away or the page is closed), and goes out one at a time, in order.
 *
 * Keeping is a safety net: where the browser cannot keep anything, sending goes on, and `keeps` says so. What is read back
 * is checked entry by entry.
 */

/** What became of an entry: stored or dropped; to be sent again at once; later; or waiting for a word of the builder. */
export type Outcome = "done" | "again" | "later" | "held";

export interface Mail<T> {
  /** Where the browser keeps what waits. */
  key: string;
  /** Whether something read back is an entry. */
  isEntry: (value: unknown) => value is T;
  /** The next entry to go out; the first where it is left out. */
  next?: (line: readonly T[]) => T | undefined;
  /** Whether an entry is worth keeping when the page is closed; all are where it is left out. */
  lasts?: (entry: T) => boolean;
  send: (entry: T) => Promise<Outcome>;
}

const RETRY_MS = 2000;

export class Outbox<T> {
  private entries: readonly T[];
  /** The entry that is on its way. */
  sending: T | null = null;
  /** Whether the last attempt found the server away. */
  away = false;
  /** Whether the browser keeps what waits. */
  keeps = true;
  private timer: number | undefined;
  private listeners = new Set<() => void>();

  constructor(private mail: Mail<T>) {
    this.entries = this.kept();
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
      const entry = this.mail.next ? this.mail.next(this.entries) : this.entries[0];
      if (entry === undefined) return;
      window.clearTimeout(this.timer);
      this.sending = entry;
      this.tell();
      let outcome: Outcome;
      try {
        outcome = await this.mail.send(entry);
      } catch {
        outcome = "later"; // the answer broke off
      }
      this.sending = null;
      this.away = outcome === "later";
      if (outcome === "done") this.remove(entry);
      this.tell();
      if (outcome === "later" && this.entries.length) this.flush(RETRY_MS);
      if (outcome === "later" || outcome === "held") return;
    }
  }

  private tell() {
    this.listeners.forEach((listener) => listener());
  }

  private kept(): T[] {
    try {
      const read: unknown = JSON.parse(localStorage.getItem(this.mail.key) ?? "[]");
      return Array.isArray(read) ? read.filter(this.mail.isEntry) : [];
    } catch {
      return [];
    }
  }

  private keep() {
    const lasting = this.mail.lasts ? this.entries.filter(this.mail.lasts) : this.entries;
    try {
      if (lasting.length) localStorage.setItem(this.mail.key, JSON.stringify(lasting));
      else localStorage.removeItem(this.mail.key);
      this.keeps = true;
    } catch {
      this.keeps = false;
    }
  }
}
