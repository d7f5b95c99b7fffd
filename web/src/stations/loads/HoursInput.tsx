import { useRef, useState } from "react";
import type { Load } from "../../api/client";
import { useDesign, useStore } from "../../design/store";

const clock = (hour: number) => {
  const minutes = Math.round(hour * 60);
  const rest = minutes % 60;
  return `${Math.floor(minutes / 60)}${rest ? `:${String(rest).padStart(2, "0")}` : ""}`;
};

function hoursText(load: Load): string {
  return Object.values(load.windows ?? {})
    .map((w) => `${clock(w.from_h)}–${clock(w.to_h)}`)
    .join(", ");
}

/** Windows typed as people write them: `10:30–12, 15–16:30`. The times themselves are read by the core. */
export function HoursInput({ id, load }: { id: string; load: Load }) {
  const store = useStore();
  const { problems, status } = useDesign();
  const pointer = `/loads/items/${id}/windows`;
  const stored = hoursText(load);
  const [typed, setTyped] = useState<string | null>(null);
  const [unread, setUnread] = useState("");
  const [focused, setFocused] = useState(false);
  const taken = useRef("");
  const problem = unread || problems[pointer];
  // What was accepted shows as stored; what is being typed, was refused or is not sent yet stays as typed.
  const asTyped = typed !== null && (focused || Boolean(problem) || status !== "saved");
  const take = () => {
    if (asTyped && typed === taken.current) return;
    if (!asTyped || typed === stored) {
      setTyped(null);
      setUnread("");
      return;
    }
    const parts = typed
      .split(/[,;]/)
      .map((part) => part.trim())
      .filter(Boolean);
    const windows: Record<string, { from_h: string; to_h: string }> = {};
    for (const [i, part] of parts.entries()) {
      const ends = part.split(/\s*(?:–|-|to|…)\s*/);
      if (ends.length !== 2 || !ends[0] || !ends[1]) {
        setUnread(`'${part}' is no span of hours: write it as 10:30–12`);
        return;
      }
      windows[`w${i + 1}`] = { from_h: ends[0], to_h: ends[1] };
    }
    setUnread("");
    taken.current = typed;
    store.put(pointer, windows, `Hours of ${load.name}: ${typed}`, true);
  };
  return (
    <>
      <input
        className={`cell-input hours-input${problem ? " bad" : ""}`}
        aria-label={`Hours of ${load.name}`}
        aria-invalid={Boolean(problem)}
        placeholder="10–12, 15:30–17"
        value={asTyped ? typed : stored}
        onChange={(event) => setTyped(event.target.value)}
        onFocus={() => {
          setFocused(true);
          taken.current = "";
          if (!asTyped) setTyped(null);
        }}
        onBlur={() => {
          setFocused(false);
          take();
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") take();
          if (event.key === "Escape") {
            setTyped(null);
            setUnread("");
            store.forget(pointer);
          }
        }}
      />
      {problem && (
        <span className="problem" role="alert">
          {problem}. Still in force: {stored || "no hours"}.
        </span>
      )}
    </>
  );
}
