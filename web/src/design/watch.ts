/** Long work that is watched: asked for how far it is, again and again, until it is done. */
import { useCallback, useEffect, useRef } from "react";

const WATCH_MS = 250;

export function useWatch<Job extends { job: string; done: boolean }>(ask: (job: string) => Promise<Job>) {
  const timer = useRef<number | undefined>(undefined);
  const end = useCallback(() => window.clearTimeout(timer.current), []);
  useEffect(() => end, [end]);
  const watch = (job: string, onNow: (now: Job) => void) => {
    timer.current = window.setTimeout(() => {
      ask(job).then(
        (now) => {
          onNow(now);
          if (!now.done) watch(job, onNow);
        },
        () => watch(job, onNow), // the server may be away for a moment
      );
    }, WATCH_MS);
  };
  return { watch, end };
}
