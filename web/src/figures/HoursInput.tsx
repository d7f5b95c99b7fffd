import { useState } from "react";
import { useDraft } from "../design/browser";
import { useDesign, useStore } from "../design/store";

const clock = (hour: number) => {
  const minutes = Math.round(hour * 60);
  const rest = minutes % 60;
  return `${Math.floor(minutes / 60)}${rest ? `:${String(rest).padStart(2, "0")}` : ""}`;
};

export type Windows = Record<string, { from_h: number; to_h: number }>;

function hoursText(windows: Windows): string {
  return Object.values(windows)
    .map((w) => `${clock(w.from_h)}–${clock(w.to_h)}`)
    .join(", ");
}

/** Windows typed as people write them: `10:30–12, 15–16:30`. The times themselves are read by the core. */
export function HoursInput({
  pointer,
  of,
  windows = {},
  placeholder = "10–12, 15:30–17",
  className = "cell-input hours-input",
}: {
  pointer: string;
  /** Whose hours they are. */
  of: string;
  windows?: Windows;
  /** What stands where none are typed. */
  placeholder?: string;
  className?: string;
}) {
  const store = useStore();
  const { design } = useDesign();
  const stored = hoursText(windows);
  const [draft, setDraft] = useDraft(`${design.id}${pointer}`);
  const [unread, setUnread] = useState("");
  const change = store.pending(pointer);
  const problem = unread || change?.problem;
  const take = () => {
    if (draft === null || draft === stored) {
      setDraft(null);
      setUnread("");
      return;
    }
    const typed: Record<string, { from_h: string; to_h: string }> = {};
    const parts = draft
      .split(/[,;]/)
      .map((part) => part.trim())
      .filter(Boolean);
    for (const [i, part] of parts.entries()) {
      const ends = part.split(/\s*(?:–|-|to|…)\s*/);
      if (ends.length !== 2 || !ends[0] || !ends[1]) {
        setUnread(`'${part}' is no span of hours: write it as 10:30–12`);
        return;
      }
      typed[`w${i + 1}`] = { from_h: ends[0], to_h: ends[1] };
    }
    setDraft(null);
    setUnread("");
    store.type(pointer, typed, `Hours of ${of}: ${draft}`, draft);
  };
  return (
    <>
      <input
        className={`${className}${problem ? " bad" : ""}`}
        aria-label={`Hours of ${of}`}
        aria-invalid={Boolean(problem)}
        placeholder={placeholder}
        value={draft ?? change?.typed ?? stored}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === "Enter") take();
          if (event.key === "Escape") {
            setDraft(null);
            setUnread("");
            store.forget(pointer);
          }
        }}
      />
      {problem && (
        <span className="problem" role="alert">
          {problem}. Still in force: {stored || placeholder}.
        </span>
      )}
    </>
  );
}
