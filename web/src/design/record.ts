/**
 * What is recorded of a build: ticks and figures at the bench, what was bought, and what it lives through after. It waits in the browser until the server
 * has it, also while that is away or the page is closed, and goes out one at a time. What is refused stays with its reason until it is
 * put right or dropped.
 */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useContext, useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { api, Failure, take, type BuildLife, type BuildRecord, type DesignOut } from "../api/client";
import { dropFile, keepFile, keptFile, tellOthers } from "./browser";
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

/** Something entered into the log, as it was typed. */
export interface Written {
  /** Sent twice it is stored once. */
  entry: string;
  /** The id that it has in the log. */
  item: string;
  /** Null takes it back. */
  data: Record<string, unknown> | null;
  problem: string;
}

/** How many of a line of the shopping list were bought. */
interface Purchase {
  /** Sent twice it is stored once. */
  entry: string;
  line: string;
  count: number;
  problem: string;
}

type Kept = Tick | Written | Purchase;

const REST_MS = 700;

const has = (value: object, name: string, type: string) => typeof Reflect.get(value, name) === type;
const isTick = (kept: Kept): kept is Tick => "act" in kept;
const isWritten = (kept: Kept): kept is Written => "item" in kept;
const isPurchase = (kept: Kept): kept is Purchase => "line" in kept;
/** A photo whose file the server does not have yet. */
const isPhoto = ({ data }: Written) => data?.kind === "photo" && !("digest" in data);
const text = (value: unknown) => (typeof value === "string" ? value : "");

function isKept(value: unknown): value is Kept {
  if (typeof value !== "object" || value === null) return false;
  const all = (...names: string[]) => names.every((name) => has(value, name, "string"));
  return (
    (all("entry", "act", "remark", "digest", "problem") &&
      has(value, "done", "boolean") &&
      has(value, "values", "object")) ||
    (all("entry", "item", "problem") && has(value, "data", "object")) ||
    (all("entry", "line", "problem") && has(value, "count", "number"))
  );
}

/** The line of one build: one a page, as what waits in it outlives a visit to another station. */
class RecordLine {
  private static opened = new Map<string, RecordLine>();
  private outbox: Outbox<Kept>;
  private tell: (said: true) => void;
  private changed = new Set<() => void>();

  static of(design: string): RecordLine {
    const line = RecordLine.opened.get(design) ?? new RecordLine(design);
    RecordLine.opened.set(design, line);
    return line;
  }

  private constructor(private design: string) {
    this.outbox = new Outbox<Kept>({
      name: `kegcart.record.${design}`,
      isEntry: isKept,
      goes: (kept) => !kept.problem,
      send: (kept) => this.post(kept),
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
    const others = line.filter((kept) => kept === sending || !isTick(kept) || kept.act !== tick.act);
    this.outbox.set([...others, { ...tick, entry: freshKey(), problem: "" }]);
    this.outbox.flush(typing ? REST_MS : 0);
  };

  /** Say how many of a line were bought, in the place of what waits or was refused of it. */
  buy = (of: string, count: number) => {
    const { line, sending } = this.outbox;
    this.outbox.set(line.filter((kept) => kept === sending || !isPurchase(kept) || kept.line !== of));
    this.outbox.add({ entry: freshKey(), line: of, count, problem: "" });
    this.outbox.flush();
  };

  /** Enter something into the log, in the place of what stands or waits there under this id; null takes it back. */
  write = (item: string, data: Written["data"]) => {
    this.drop(item);
    this.outbox.add({ entry: freshKey(), item, data, problem: "" });
    this.outbox.flush();
  };

  /** Put a photo into the log. said: what it shows, and where it was taken. */
  photo = async (file: Blob, said: { step?: string; what?: string }) => {
    const item = freshKey();
    await keepFile(item, file);
    this.write(item, { kind: "photo", ...said });
  };

  /** Forget what waits of an entry of the log, or was refused. */
  drop = (item: string) => {
    const { line, sending } = this.outbox;
    this.outbox.set(line.filter((kept) => kept === sending || !isWritten(kept) || kept.item !== item));
  };

  /** Send a photo with its file. Errors: Failure. */
  private async sendPhoto({ entry, item, data }: Written): Promise<void> {
    const file = await keptFile(item);
    if (!file) throw new Failure("refused", "the browser did not keep its file: take it again");
    const query = { entry, item, step: text(data?.step), what: text(data?.what) };
    await take(
      api.POST("/api/designs/{design_id}/photos", {
        params: { path: { design_id: this.design }, query },
        body: file as never,
        bodySerializer: (body) => body,
        headers: { "Content-Type": "application/octet-stream" },
      }),
    );
    await dropFile(item);
  }

  private async post(kept: Kept): Promise<Outcome> {
    const at = { params: { path: { design_id: this.design } } };
    try {
      if (isTick(kept)) {
        const { entry, act, done, values, remark, digest } = kept;
        const body = { entry, act, done, values, remark, digest };
        await take(api.POST("/api/designs/{design_id}/record", { ...at, body }));
      } else if (isPurchase(kept)) {
        const { entry, line, count } = kept;
        await take(api.POST("/api/designs/{design_id}/record/bought", { ...at, body: { entry, line, count } }));
      } else if (isPhoto(kept)) await this.sendPhoto(kept);
      else {
        const { entry, item, data } = kept;
        await take(api.POST("/api/designs/{design_id}/life", { ...at, body: { entry, item, data } }));
      }
    } catch (error) {
      const failure = Failure.of(error);
      if (failure.passes) throw failure;
      this.outbox.replace(kept, { ...kept, problem: failure.reason });
      return "again";
    }
    this.outbox.remove(kept);
    this.changed.forEach((hear) => hear());
    this.tell(true);
    return "done";
  }
}

/** What is judged of a build beside its design: of its steps, and of its life. */
interface Judged {
  record: BuildRecord | null;
  life: BuildLife | null;
}

const Context = createContext<Judged>({ record: null, life: null });
export const RecordProvider = Context.Provider;
export const useRecorded = () => useContext(Context);

/** The record of a design as the server judges it: anew when the design or the record changes. */
export function useRecordOf(design: DesignOut, stored: boolean): Judged {
  const queries = useQueryClient();
  const { id, revision } = design;
  const [line] = useState(() => RecordLine.of(id));
  useEffect(
    () => line.onChange(() => void queries.invalidateQueries({ queryKey: ["recorded", id] })),
    [line, queries, id],
  );
  const at = { params: { path: { design_id: id } } };
  const options = { placeholderData: keepPreviousData, enabled: stored, staleTime: Infinity, gcTime: 60_000 };
  const { data: record = null } = useQuery({
    queryKey: ["recorded", id, revision, "steps"],
    queryFn: () => take(api.GET("/api/designs/{design_id}/record", at)),
    ...options,
  });
  const { data: life = null } = useQuery({
    queryKey: ["recorded", id, revision, "life"],
    queryFn: () => take(api.GET("/api/designs/{design_id}/life", at)),
    ...options,
  });
  return useMemo(() => ({ record, life }), [record, life]);
}

/** What waits to be stored of the record, with its line. */
export function useRecordLine(design: string) {
  const [line] = useState(() => RecordLine.of(design));
  const waiting = useSyncExternalStore(line.subscribe, line.get);
  return {
    line,
    ticks: waiting.filter(isTick),
    written: waiting.filter(isWritten),
    purchases: waiting.filter(isPurchase),
  };
}
