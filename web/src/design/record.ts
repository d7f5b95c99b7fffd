/**
 * What is recorded at the bench: ticks, what was measured, remarks. It waits in the browser until the server has it, also while that
 * is away or the page is closed, and goes out one at a time. What is refused stays with its reason until it is put right or dropped.
 */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useContext, useEffect, useState, useSyncExternalStore } from "react";
import { api, Failure, take, type BuildRecord, type DesignOut } from "../api/client";
import { tellOthers } from "./browser";
import { freshKey } from "./ids";
import { Outbox, type Outcome } from "./outbox";

/** What is recorded of a step, as it was typed. */
export interface Tick {
  /** Sent twice it is stored once. */
  entry: string;
  act: string;
  done: boolean;
  values: Record<string, string | number | boolean>;
  remark: string;
  /** Of the figures as they were seen. */
  digest: string;
  problem: string;
}

const REST_MS = 700;

function isTick(value: unknown): value is Tick {
  if (typeof value !== "object" || value === null) return false;
  const has = (name: string, type: string) => typeof Reflect.get(value, name) === type;
  return (
    ["entry", "act", "remark", "digest", "problem"].every((name) => has(name, "string")) &&
    has("done", "boolean") &&
    has("values", "object")
  );
}

/** The line of one build: one a page, as what waits in it outlives a visit to another station. */
class RecordLine {
  private static opened = new Map<string, RecordLine>();
  private outbox: Outbox<Tick>;
  private tell: (said: true) => void;
  private changed = new Set<() => void>();

  static of(design: string): RecordLine {
    const line = RecordLine.opened.get(design) ?? new RecordLine(design);
    RecordLine.opened.set(design, line);
    return line;
  }

  private constructor(private design: string) {
    this.outbox = new Outbox<Tick>({
      name: `kegcart.record.${design}`,
      isEntry: isTick,
      goes: (tick) => !tick.problem,
      send: (tick) => this.post(tick),
    });
    this.tell = tellOthers<true>(`kegcart.record.${design}`, () => this.changed.forEach((hear) => hear()));
    this.outbox.flush();
  }

  subscribe = (listener: () => void) => this.outbox.subscribe(listener);

  get = () => this.outbox.line;

  /** Hear when the record may have changed, here or on another page. */
  onChange = (hear: () => void) => {
    this.changed.add(hear);
    return () => void this.changed.delete(hear);
  };

  /** Why the last one did not get through; null where it did. */
  get trouble(): Failure | null {
    return this.outbox.trouble;
  }

  /** Put a tick in line, in the place of what waits or was refused of its step. typing: it is sent when the typing rests. */
  put = (tick: Omit<Tick, "entry" | "problem">, typing: boolean) => {
    const { line, sending } = this.outbox;
    const others = line.filter((t) => t === sending || t.act !== tick.act);
    this.outbox.set([...others, { ...tick, entry: freshKey(), problem: "" }]);
    this.outbox.flush(typing ? REST_MS : 0);
  };

  /** Forget what waits or was refused of a step. */
  drop = (act: string) => {
    const { line, sending } = this.outbox;
    this.outbox.set(line.filter((t) => t === sending || t.act !== act));
  };

  private async post(tick: Tick): Promise<Outcome> {
    const { entry, act, done, values, remark, digest } = tick;
    const body = { entry, act, done, values, remark, digest };
    try {
      await take(api.POST("/api/designs/{design_id}/record", { params: { path: { design_id: this.design } }, body }));
    } catch (error) {
      const failure = Failure.of(error);
      if (failure.passes) throw failure;
      this.outbox.replace(tick, { ...tick, problem: failure.problems?.[0]?.message ?? failure.message });
      return "again";
    }
    this.outbox.remove(tick);
    this.changed.forEach((hear) => hear());
    this.tell(true);
    return "done";
  }
}

const Context = createContext<BuildRecord | null>(null);
export const RecordProvider = Context.Provider;
export const useRecorded = () => useContext(Context);

/** The record of a design as the server judges it: anew when the design or the record changes. */
export function useRecordOf(design: DesignOut, stored: boolean): BuildRecord | null {
  const queries = useQueryClient();
  const [line] = useState(() => RecordLine.of(design.id));
  useEffect(
    () => line.onChange(() => void queries.invalidateQueries({ queryKey: ["record", design.id] })),
    [line, queries, design.id],
  );
  const { data } = useQuery({
    queryKey: ["record", design.id, design.revision],
    queryFn: () => take(api.GET("/api/designs/{design_id}/record", { params: { path: { design_id: design.id } } })),
    placeholderData: keepPreviousData,
    enabled: stored,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  return data ?? null;
}

/** What waits to be stored of the record, with its line. */
export function useRecordLine(design: string) {
  const [line] = useState(() => RecordLine.of(design));
  const waiting = useSyncExternalStore(line.subscribe, line.get);
  return { line, waiting };
}
