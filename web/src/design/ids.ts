import type { Operation } from "../api/client";

/** An id made of a name, not yet used. */
export function freshId(name: string, used: Record<string, unknown>): string {
  const stem =
    name
      .toLowerCase()
      .normalize("NFKD")
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^[^a-z]+|-+$/g, "")
      .slice(0, 34)
      .replace(/-+$/, "") || "item";
  let key = stem;
  for (let n = 2; key in used; n++) key = `${stem}-${n}`;
  return key;
}

/** An id for something that is sent: sent twice it is stored once. */
export const freshKey = () => `${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 12)}`;

/** Fields of words, which never name another thing by its id. */
const WORDS = new Set(["name", "notes", "label"]);

function swapped(value: unknown, from: string, to: string): unknown {
  if (value === from) return to;
  if (Array.isArray(value)) return value.map((entry) => swapped(entry, from, to));
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, entry]) => [key, WORDS.has(key) ? entry : swapped(entry, from, to)]),
  );
}

/** A patch in which a new thing under `parent` has another id, wherever the patch names it. */
export function withId(patch: Operation[], parent: string, from: string, to: string): Operation[] {
  const [old, fresh] = [`${parent}/${from}`, `${parent}/${to}`];
  const moved = (path: string) => (path === old || path.startsWith(`${old}/`) ? fresh + path.slice(old.length) : path);
  return patch.map((o) => ({ ...o, path: moved(o.path), value: swapped(o.value, from, to) }));
}
