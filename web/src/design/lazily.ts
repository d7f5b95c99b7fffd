import { lazy, type ComponentType } from "react";

const RETRY_MS = 2000;

/** A part of the screen that is fetched when it is opened; while the server is away it is asked for again until it comes. */
export function lazily<Props>(load: () => Promise<{ default: ComponentType<Props> }>) {
  return lazy(async () => {
    for (;;) {
      try {
        return await load();
      } catch {
        await new Promise((again) => setTimeout(again, RETRY_MS));
      }
    }
  });
}
