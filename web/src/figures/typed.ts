/** What a field shows: what is being typed, else what waits to be stored or was refused, else what is stored. */
import { useState } from "react";
import { useDesign, useStore, valueAt } from "../design/store";

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
  const { design } = useDesign();
  const change = store.pending(pointer);
  const waiting = change !== undefined && change.problem === undefined && change.patch[0]?.path === pointer;
  const value = waiting ? change.patch[0]!.value : valueAt(design.document, pointer);
  return { value, waiting, problem: change?.problem };
}

/** The text of a field at a pointer, which takes effect as it is typed. `read` makes of it what is sent. */
export function useTyped(pointer: string, label: string, stored: string, read: (text: string) => unknown) {
  const store = useStore();
  useDesign();
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
        store.type(pointer, read(text), `${label}: ${text || "auto"}`, text);
      },
      onBlur: () => setTyped(null),
    },
    problem: change?.problem,
    /** Take back what was typed and is not stored, or was refused. */
    forget: () => {
      setTyped(null);
      store.forget(pointer);
    },
  };
}
