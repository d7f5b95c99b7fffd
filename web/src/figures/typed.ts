/** What a field shows: what is being typed, else what waits to be stored or was refused, else what is stored. */
import { useState } from "react";
import { same, useDesign, useStore, valueAt, type TypedOp } from "../design/store";

interface Pending {
  /** The value that waits to be stored, else the one that is. */
  value: unknown;
  waiting: boolean;
  /** Why the last one was not taken. */
  problem: string | undefined;
}

/** The value of a choice at a pointer, as it waits or is stored. */
export function usePending(pointer: string): Pending {
  const store = useStore();
  const { design, ahead } = useDesign();
  const value = valueAt(ahead, pointer);
  const waiting = !same(value, valueAt(design.document, pointer));
  return { value, waiting, problem: store.pending(pointer)?.problem };
}

/** The text of a field at a pointer, which takes effect as it is typed. `read` makes of it what is sent, `show` writes what stands. */
export function useTyped(
  pointer: string,
  label: string,
  read: (text: string) => unknown = (text) => text,
  show: (value: unknown) => string = (value) => String(value ?? ""),
  unit?: string,
  op?: TypedOp,
) {
  const store = useStore();
  const stored = show(usePending(pointer).value);
  const [typed, setTyped] = useState<string | null>(null);
  const change = store.pending(pointer);
  const waits = change && (change.typed ?? String(change.patch[0]?.value ?? ""));
  return {
    /** To be put on the input. */
    field: {
      value: typed ?? waits ?? stored,
      onChange: (event: { target: { value: string } }) => {
        const text = event.target.value;
        setTyped(text);
        store.type(pointer, read(text), `${label}: ${text || "auto"}`, text, unit, op);
      },
      onBlur: () => setTyped(null),
    },
    problem: change?.problem,
    /** What stands, or will when what waits is stored. */
    stored,
    /** Take back what was typed and is not stored, or was refused. */
    forget: () => {
      setTyped(null);
      store.forget(pointer);
    },
  };
}
