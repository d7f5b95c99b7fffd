import { useEffect, useRef, useState } from "react";
import Button from "react-bootstrap/Button";
import type { TestRun } from "../../../api/client";
import { LINES } from "../steps";
import type { RunFeed, RunState } from "./feed";
import { Read } from "./Read";

const BEEPS = 6;
const BEEP_S = 0.22;
const PAUSE_S = 0.14;
const PITCH_HZ = 880;

/** A sound that is heard over a fan: short, high, some times. */
function sound() {
  try {
    const context = new AudioContext();
    for (let n = 0; n < BEEPS; n += 1) {
      const tone = context.createOscillator();
      tone.type = "square";
      tone.frequency.value = PITCH_HZ;
      tone.connect(context.destination);
      const begin = context.currentTime + n * (BEEP_S + PAUSE_S);
      tone.start(begin);
      tone.stop(begin + BEEP_S);
      if (n === BEEPS - 1) tone.onended = () => void context.close();
    }
  } catch {
    // A browser without sound: the word stands there all the same.
  }
}

/** A stop line was reached: the whole screen says so, until it is looked at. */
export function StopWord({ run, feed, state }: { run: TestRun; feed: RunFeed; state: RunState }) {
  const stop = state.state === "stopped" ? feed.events.findLast((e) => e.kind === "stop" && e.data.line) : undefined;
  const [seen, see] = useState<number | null>(null);
  const shown = stop && seen !== stop.at_s ? stop : null;
  const button = useRef<HTMLButtonElement>(null);
  const at = shown?.at_s;
  useEffect(() => {
    if (at === undefined) return;
    sound();
    button.current?.focus();
  }, [at]);
  if (!shown) return null;
  const line = String(shown.data.line);
  return (
    <div className="stop-word" role="alertdialog" aria-label="Stop" aria-describedby="stop-word-why">
      <p className="stop-word-large">STOP</p>
      <p id="stop-word-why">
        {LINES[line] ?? line} <Read line={line} value={Number(shown.data.value)} run={run} />
        {shown.data.where ? `: ${String(shown.data.where)}` : ""}.
      </p>
      <p>
        {state.obeys.includes("load") ? "The load was told to stop. " : "Switch the load off first. "}
        Now the inverter off, then the main switch.
      </p>
      {state.alarm && <p className="stop-word-alarm">{state.alarm}</p>}
      <Button ref={button} variant="light" size="lg" onClick={() => see(shown.at_s)}>
        It is off: show the test
      </Button>
    </div>
  );
}
