/**
 * What the browser keeps for us. It may be full, blocked, or hold nonsense: nothing here ever throws, and what could not
 * be kept is told by the answer.
 */
import { useCallback, useState } from "react";

/** The store for good, or the one of this tab, which outlives a reload. */
type Where = "good" | "tab";

const LARGE_KEPT = 12;

const storage = (where: Where) => (where === "good" ? window.localStorage : window.sessionStorage);

export function kept(key: string, where: Where = "good"): string | null {
  try {
    return storage(where).getItem(key);
  } catch {
    return null;
  }
}

/** Keep a text, or nothing more under this key; returns whether that was done. */
export function keep(key: string, text: string | null, where: Where = "good"): boolean {
  try {
    if (text === null) storage(where).removeItem(key);
    else storage(where).setItem(key, text);
    return true;
  } catch {
    return false;
  }
}

/** The keys that begin so. */
export function keysOf(prefix: string): string[] {
  try {
    return Object.keys(window.localStorage).filter((key) => key.startsWith(prefix));
  } catch {
    return [];
  }
}

const LARGE = "kegcart-designs";

/** Keep something large, as a design, under an address; best as may be. */
export async function keepLarge(address: string, value: unknown): Promise<void> {
  try {
    const cache = await window.caches.open(LARGE);
    await cache.put(address, Response.json(value));
    const others = await cache.keys();
    for (const request of others.slice(0, -LARGE_KEPT)) await cache.delete(request);
  } catch {
    // Without it a reload while the server is away shows nothing: that is all.
  }
}

/** What was kept under an address; null where there is nothing. */
export async function keptLarge(address: string): Promise<unknown> {
  try {
    return (await (await window.caches.open(LARGE)).match(address))?.json() ?? null;
  } catch {
    return null;
  }
}

const FILES = "kegcart-files";
const fileAt = (key: string) => `/kept-file/${key}`;
/** What could not be kept is held by the page, as long as that is open. */
const held = new Map<string, Blob>();

/** Keep a file until it is sent. */
export async function keepFile(key: string, file: Blob): Promise<void> {
  try {
    await (await window.caches.open(FILES)).put(fileAt(key), new Response(file));
  } catch {
    held.set(key, file);
  }
}

/** A file that was kept; null where it is gone. */
export async function keptFile(key: string): Promise<Blob | null> {
  if (held.has(key)) return held.get(key)!;
  try {
    return (await (await window.caches.open(FILES)).match(fileAt(key)))?.blob() ?? null;
  } catch {
    return null;
  }
}

/** Keep a file no longer. */
export async function dropFile(key: string): Promise<void> {
  held.delete(key);
  try {
    await (await window.caches.open(FILES)).delete(fileAt(key));
  } catch {
    // It was never kept.
  }
}

const draftAt = (key: string) => `kegcart.draft.${key}`;

/** Leave something half typed for the field that shows it. */
export const leaveDraft = (key: string, text: string) => keep(draftAt(key), text, "tab");

/** What is being typed and is no entry yet, null where nothing is: it outlives a reload of the page. */
export function useDraft(key: string): [string | null, (text: string | null) => void] {
  const at = draftAt(key);
  const [text, setText] = useState(() => kept(at, "tab"));
  const set = useCallback(
    (typed: string | null) => {
      setText(typed);
      keep(at, typed, "tab");
    },
    [at],
  );
  return [text, set];
}

const PAGE_AT = "kegcart.page";
/** The page that was here before this one was loaded again; null in a new tab. */
export const BEFORE = kept(PAGE_AT, "tab");
/** Tells this page from others in what it keeps. */
export const PAGE = `${Date.now().toString(36)}${Math.random().toString(36).slice(2)}`;
keep(PAGE_AT, PAGE, "tab");

/** Hold a name for as long as this page lives. */
export function holdName(name: string) {
  window.navigator.locks?.request(name, () => new Promise(() => {})).catch(() => {});
}

/** Do something once no page holds this name any more; at once where the browser knows no locks. */
export function whenFree(name: string, then: () => void) {
  if (window.navigator.locks) window.navigator.locks.request(name, then).catch(then);
  else then();
}

/**
 * Do something on one page of all that want it: the one that holds the name, and when that goes, the next. Returns how to give it up.
 * Where the browser knows no locks every page does it.
 */
export function onOnePage(name: string, begin: () => () => void): () => void {
  const { locks } = window.navigator;
  if (!locks) return begin();
  const given = new AbortController();
  let stop = () => {};
  locks
    .request(name, { signal: given.signal }, () => {
      if (given.signal.aborted) return;
      const end = begin();
      return new Promise<void>((resolve) => {
        stop = () => {
          end();
          resolve();
        };
      });
    })
    .catch(() => {});
  return () => {
    given.abort();
    stop();
  };
}

/** How long a name must be free before another page's things are taken: one that is loaded again takes its own first. */
const LEFT_MS = 2500;

/** Do something once the page that holds this name has gone for good; at once where nobody held it to begin with. */
export function whenLeft(name: string, then: () => void) {
  const { locks } = window.navigator;
  if (!locks) return then();
  let free = 1;
  const look = () =>
    void locks
      .request(name, { ifAvailable: true }, (lock) => {
        free = lock ? free + 1 : 0;
        if (free > 1) then();
        else window.setTimeout(look, LEFT_MS);
      })
      .catch(then);
  look();
}

/** Tell the other pages of this browser, and hear them. Returns how to tell. */
export function tellOthers<T>(name: string, hear: (said: T) => void): (said: T) => void {
  if (!("BroadcastChannel" in window)) return () => {};
  const channel = new BroadcastChannel(name);
  channel.onmessage = (event: MessageEvent<T>) => hear(event.data);
  return (said) => channel.postMessage(said);
}
