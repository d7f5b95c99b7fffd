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
