/** Shortcuts, by the character that is typed, whatever key of the keyboard it lies on; silent while anything is being edited. */
import { useEffect, useRef } from "react";

/** What each does, by its character, or by its name with modifiers: `mod` is Ctrl, on a Mac ⌘. */
export type Shortcuts = Record<string, () => void>;

const LAST_LATIN = 0x24f;

const isEdited = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    target instanceof HTMLTextAreaElement ||
    target instanceof HTMLSelectElement ||
    (target instanceof HTMLInputElement && !["checkbox", "radio", "range", "button"].includes(target.type)));

/** A dialog or an open menu has the keyboard to itself. */
const isElsewhere = (target: EventTarget | null) =>
  document.querySelector(".modal.show") !== null ||
  (target instanceof Element && target.closest(".dropdown-menu.show") !== null);

/** The name of what was pressed. A letter of another script goes by the Latin letter on the same key. */
function nameOf(event: KeyboardEvent): string {
  const typed = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const isOfOtherScript = typed.length === 1 && typed.charCodeAt(0) > LAST_LATIN;
  const letter = isOfOtherScript && /^Key([A-Z])$/.exec(event.code)?.[1];
  const key = letter ? letter.toLowerCase() : typed;
  if (!event.ctrlKey && !event.metaKey) return event.altKey ? `alt+${key}` : key;
  // AltGr is told as Ctrl with Alt: what it types is a character like any other.
  if (event.ctrlKey && event.altKey) return event.getModifierState("AltGraph") ? key : `alt+${key}`;
  return `mod+${event.shiftKey ? "shift+" : ""}${key}`;
}

export function useShortcuts(shortcuts: Shortcuts) {
  const latest = useRef(shortcuts);
  useEffect(() => {
    latest.current = shortcuts;
  });
  useEffect(() => {
    // What was typed into may be gone from under the fingers: until the builder goes elsewhere, what follows was meant for it.
    let editing = false;
    const down = (event: KeyboardEvent) => {
      const { target } = event;
      if (isEdited(target)) {
        // A dialog that closes on what was typed in it is left by the builder's own word.
        editing = event.key !== "Escape" && !isElsewhere(target);
        if (event.key === "Escape" && !isElsewhere(target)) (target as HTMLElement).blur();
        return;
      }
      if (event.key === "Escape" || event.key === "Tab") editing = false;
      if (editing || event.defaultPrevented || event.isComposing || isElsewhere(target)) return;
      const act = latest.current[nameOf(event)];
      if (!act) return;
      event.preventDefault();
      act();
    };
    const typed = ({ target }: Event) => {
      editing = isEdited(target) && !isElsewhere(target);
    };
    const left = ({ type, target }: Event) => {
      if (type === "pointerdown" || (target instanceof Element && target !== document.body && !isEdited(target)))
        editing = false;
    };
    document.addEventListener("keydown", down);
    document.addEventListener("input", typed);
    document.addEventListener("pointerdown", left, true);
    document.addEventListener("focusin", left);
    return () => {
      document.removeEventListener("keydown", down);
      document.removeEventListener("input", typed);
      document.removeEventListener("pointerdown", left, true);
      document.removeEventListener("focusin", left);
    };
  }, []);
}
