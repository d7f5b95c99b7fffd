import { useEffect, useState } from "react";
import Button from "react-bootstrap/Button";
import { clock } from "../steps";

const SPEEDS = [1, 10, 60, 300];
const FRAME_MS = 100;

/** A test that is over, played again. */
export function Replay({ end, at, onAt }: { end: number; at: number; onAt: (at: number) => void }) {
  const [speed, setSpeed] = useState(60);
  const [playing, setPlaying] = useState(false);
  const ended = at >= end;
  useEffect(() => {
    if (!playing || ended) return;
    const timer = window.setTimeout(() => onAt(Math.min(end, at + (speed * FRAME_MS) / 1000)), FRAME_MS);
    return () => window.clearTimeout(timer);
  }, [playing, ended, at, end, speed, onAt]);
  return (
    <div className="run-replay">
      <Button
        variant="quiet"
        size="sm"
        onClick={() => {
          if (ended) onAt(0);
          setPlaying(ended || !playing);
        }}
      >
        {playing && !ended ? "Hold" : "Play"}
      </Button>
      <span role="group" aria-label="How fast">
        {SPEEDS.map((s) => (
          <button key={s} type="button" className="tab tight" aria-pressed={s === speed} onClick={() => setSpeed(s)}>
            {s} ×
          </button>
        ))}
      </span>
      <input
        type="range"
        className="form-range"
        aria-label="Moment of the test"
        aria-valuetext={clock(at)}
        min={0}
        max={Math.max(1, end)}
        step={1}
        value={at}
        onChange={(event) => {
          setPlaying(false);
          onAt(Number(event.target.value));
        }}
      />
      <time>{clock(at)}</time>
    </div>
  );
}
