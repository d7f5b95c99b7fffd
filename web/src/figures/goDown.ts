import type { KeyboardEvent } from "react";

const FIELD = "input:not([type=checkbox]), select";

/**
 * In a table Enter goes down in the same column, with Shift up; from the last row on to the new one, if there is one.
 * The field is never left for nothing: what is typed next would go nowhere.
 */
export function goDown(event: KeyboardEvent) {
  const field = event.target;
  if (event.key !== "Enter" || event.defaultPrevented || !(field instanceof HTMLElement) || !field.matches(FIELD))
    return;
  const cell = field.closest("td");
  const row = cell?.closest("tr");
  if (!cell || !row) return;
  event.preventDefault();
  const step = (from: Element) => (event.shiftKey ? from.previousElementSibling : from.nextElementSibling);
  let next: HTMLElement | null | undefined;
  for (let there = step(row); there && !next; there = step(there))
    next = there.children[cell.cellIndex]?.querySelector<HTMLElement>(FIELD);
  if (!event.shiftKey) next ??= row.closest("table")?.querySelector<HTMLElement>("[data-new]");
  (next ?? field).focus();
  if ((next ?? field) instanceof HTMLInputElement) ((next ?? field) as HTMLInputElement).select();
}
