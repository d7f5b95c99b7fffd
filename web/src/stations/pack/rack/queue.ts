/**
 * Cells that were typed and are not stored yet. They wait in the browser, also while the server is away or the page
 * is closed, and go out one at a time. What is refused stays with its reason until it is put right or dropped.
 */
import { useSyncExternalStore } from "react";
import { api, type Chemistry } from "../../../api/client";
import { Outbox, type Outcome } from "../../../design/outbox";

export interface Typed {
  label: string;
  capacity_ah: number | null;
  resistance_mohm: number | null;
  resting_v: number | null;
  format: string;
  chemistry: Chemistry;
  rated_ah: number | null;
  resistance_by: "1khz" | "dc";
}

interface Waiting {
  cell: Typed;
  problem: string;
}

const isWaiting = (value: unknown): value is Waiting =>
  typeof value === "object" &&
  value !== null &&
  "problem" in value &&
  "cell" in value &&
  typeof value.cell === "object" &&
  value.cell !== null &&
  "label" in value.cell;

class RackQueue {
  private outbox: Outbox<Waiting>;
  /** Called when the rack may have changed. */
  stored: () => void = () => {};

  constructor() {
    this.outbox = new Outbox<Waiting>({
      key: "kegcart.rack.unsent",
      isEntry: isWaiting,
      next: (line) => line.find((w) => !w.problem),
      send: (entry) => this.post(entry),
    });
  }

  subscribe = (listener: () => void) => this.outbox.subscribe(listener);

  get = () => this.outbox.line;

  add = (cell: Typed) => {
    this.outbox.add({ cell, problem: "" });
    this.send();
  };

  /** Take one out again, to put it right or to forget it. */
  drop = (index: number): Typed | undefined => {
    const taken = this.outbox.line[index];
    if (taken) this.outbox.remove(taken);
    return taken?.cell;
  };

  send = () => this.outbox.flush();

  private async post(entry: Waiting): Promise<Outcome> {
    const { data, error, response } = await api.POST("/api/rack/cells", { body: { cells: [entry.cell] } });
    if (response.status >= 500) return "later";
    if (!data) {
      // It stays in line with its reason, and the rack may have what stands in its way.
      this.outbox.replace(entry, { ...entry, problem: error.problems?.[0]?.message ?? error.message });
    }
    this.stored();
    return "done";
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
