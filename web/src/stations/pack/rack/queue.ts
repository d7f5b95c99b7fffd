/**
 * Cells that were typed and are not stored yet. They wait in the browser, also while the server is away or the page
 * is closed, and go out one at a time. What is refused stays with its reason until it is put right or dropped.
 */
import { useSyncExternalStore } from "react";
import { api, type ErrorOut } from "../../../api/client";

export interface Typed {
  label: string;
  capacity_ah: number | null;
  resistance_mohm: number | null;
  resting_v: number | null;
  format: string;
  chemistry: string;
  rated_ah: number | null;
  resistance_by: "1khz" | "dc";
}

export interface Waiting {
  cell: Typed;
  problem: string;
}

const KEY = "kegcart.rack.unsent";
const RETRY_MS = 1500;

class RackQueue {
  private line: Waiting[];
  private busy = false;
  private timer: number | undefined;
  private listeners = new Set<() => void>();
  /** Called when the rack may have changed. */
  stored: () => void = () => {};

  constructor() {
    try {
      this.line = JSON.parse(localStorage.getItem(KEY) ?? "[]") as Waiting[];
    } catch {
      this.line = [];
    }
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  get = () => this.line;

  private set(line: Waiting[]) {
    this.line = line;
    localStorage.setItem(KEY, JSON.stringify(line));
    this.listeners.forEach((listener) => listener());
  }

  add = (cell: Typed) => {
    this.set([...this.line, { cell, problem: "" }]);
    void this.send();
  };

  /** Take one out again, to put it right or to forget it. */
  drop = (index: number): Typed | undefined => {
    const taken = this.line[index];
    this.set(this.line.filter((_, i) => i !== index));
    return taken?.cell;
  };

  send = async (): Promise<void> => {
    if (this.busy) return;
    const next = this.line.find((w) => !w.problem);
    if (!next) return;
    this.busy = true;
    window.clearTimeout(this.timer);
    let again = true;
    try {
      const { data, error, response } = await api.POST("/api/rack/cells", { body: { cells: [next.cell as never] } });
      if (data) {
        this.set(this.line.filter((w) => w !== next));
        this.stored();
      } else if (response.status >= 500) again = this.later();
      else {
        const told = error as ErrorOut;
        const problem = told.problems?.[0]?.message ?? told.message;
        this.set(this.line.map((w) => (w === next ? { ...w, problem } : w)));
        this.stored(); // the rack may have what stands in its way
      }
    } catch {
      again = this.later(); // the answer broke off
    } finally {
      this.busy = false;
    }
    if (again) await this.send();
  };

  private later() {
    this.timer = window.setTimeout(() => void this.send(), RETRY_MS);
    return false;
  }
}

export const rackQueue = new RackQueue();

export const useWaiting = () => useSyncExternalStore(rackQueue.subscribe, rackQueue.get);

/** The label that follows: its number counted up. */
export function following(label: string): string {
  const number = /\d+$/.exec(label)?.[0];
  if (!number) return `${label}-1`;
  return label.slice(0, -number.length) + String(Number(number) + 1).padStart(number.length, "0");
}
