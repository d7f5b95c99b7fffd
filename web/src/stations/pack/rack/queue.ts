/**
 * What was typed at the rack and is not stored yet: new cells, and figures of cells set right. It waits in the browser, also
 * while the server is away or the page is closed, and goes out one at a time. What is refused stays with its reason until
 * it is put right or dropped.
 */
import { useSyncExternalStore } from "react";
import { api, Failure, take, type Chemistry } from "../../../api/client";
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

interface NewCell {
  cell: Typed;
  problem: string;
}

/** A figure of a cell on the rack, as it was typed. */
interface Edit {
  id: number;
  label: string;
  field: string;
  typed: string;
  problem: string;
}

type Waiting = NewCell | Edit;

const has = (value: object, name: string, type: string) => name in value && typeof Reflect.get(value, name) === type;

function isWaiting(value: unknown): value is Waiting {
  if (typeof value !== "object" || value === null || !has(value, "problem", "string")) return false;
  if ("cell" in value)
    return typeof value.cell === "object" && value.cell !== null && has(value.cell, "label", "string");
  return has(value, "id", "number") && ["label", "field", "typed"].every((name) => has(value, name, "string"));
}

/** What is no number is sent as it is, to be refused with its reason; the measured value stands. */
function figureOf(typed: string): number | string | null {
  const text = typed.trim().replace(",", ".");
  return text === "" ? null : Number.isNaN(Number(text)) ? text : Number(text);
}

class RackQueue {
  private outbox: Outbox<Waiting>;
  /** Called when the rack may have changed; with the cell where a figure of it was set right. */
  stored: (cell?: number) => void = () => {};

  constructor() {
    this.outbox = new Outbox<Waiting>({
      name: "kegcart.rack.unsent",
      isEntry: isWaiting,
      goes: (w) => !w.problem,
      send: (entry) => this.post(entry),
    });
  }

  subscribe = (listener: () => void) => this.outbox.subscribe(listener);

  get = () => this.outbox.line;

  get trouble(): Failure | null {
    return this.outbox.trouble;
  }

  add = (cell: Typed) => {
    this.outbox.add({ cell, problem: "" });
    this.send();
  };

  /** Set a figure right; what was refused of it before is put right by this. */
  edit = (id: number, label: string, field: string, typed: string) => {
    const { line, sending } = this.outbox;
    const others = line.filter((w) => w === sending || !("id" in w) || w.id !== id || w.field !== field);
    this.outbox.set([...others, { id, label, field, typed, problem: "" }]);
    this.send();
  };

  /** Take one out again, to put it right or to forget it. */
  drop = (taken: Waiting) => this.outbox.remove(taken);

  send = () => this.outbox.flush();

  private async post(entry: Waiting): Promise<Outcome> {
    try {
      if ("cell" in entry) await take(api.POST("/api/rack/cells", { body: { cells: [entry.cell] } }));
      else
        await take(
          api.PATCH("/api/rack/cells/{cell_id}", {
            params: { path: { cell_id: entry.id } },
            body: { [entry.field]: figureOf(entry.typed) },
          }),
        );
    } catch (error) {
      const failure = Failure.of(error);
      if (failure.passes) throw failure;
      // It stays in line with its reason, and the rack may have what stands in its way.
      this.outbox.replace(entry, { ...entry, problem: failure.reason });
      this.stored();
      return "again";
    }
    this.outbox.remove(entry);
    this.stored("id" in entry ? entry.id : undefined);
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
