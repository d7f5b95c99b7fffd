/** Answers of the server: a design whole, or as it differs from the one that the screen stands on. */
import { applyPatch, type Operation as PatchOperation } from "rfc6902";
import { asDesign, type ChangedOut, type DesignDocument, type DesignOut, type Figure } from "../api/client";

interface Changed {
  was: number;
  now: Record<string, unknown>;
}

const isChanged = (entry: object): entry is Changed => "was" in entry && "now" in entry;

/** A list in which a number stands for that entry of the list before, and `{was, now}` for one that was changed. */
function merged<T extends object>(before: readonly T[], after: readonly (number | Changed | T)[]): T[] {
  return after.map((entry) => {
    if (typeof entry === "number") return before[entry]!;
    return isChanged(entry) ? (patched(before[entry.was], entry.now) as T) : entry;
  });
}

/** A figure after a JSON Merge Patch (RFC 7396): what is null goes, objects are merged. */
function patched(before: unknown, change: unknown): unknown {
  if (typeof change !== "object" || change === null || Array.isArray(change)) return change;
  const out: Record<string, unknown> = typeof before === "object" && before !== null ? { ...before } : {};
  for (const [name, value] of Object.entries(change)) {
    if (value === null) delete out[name];
    else out[name] = patched(out[name], value);
  }
  return out;
}

/** The design after a change; null where the answer does not fit what stands here, and the whole must be asked for. */
export function after(design: DesignOut, changes: ChangedOut): DesignOut | null {
  if (!("since" in changes)) return asDesign(changes);
  if (changes.since !== design.revision) return null;
  const document: DesignDocument = structuredClone(design.document);
  const missed = applyPatch(document, changes.document as PatchOperation[]);
  if (missed.some(Boolean)) return null;
  const figures = { ...design.assessment.figures };
  for (const [path, change] of Object.entries(changes.figures))
    figures[path] = patched(figures[path], change) as Figure;
  for (const path of changes.gone) delete figures[path];
  return {
    ...design,
    revision: changes.revision,
    document,
    assessment: {
      figures,
      findings: merged(design.assessment.findings, changes.findings),
      checks: merged(design.assessment.checks, changes.checks),
      offers: merged(design.assessment.offers, changes.offers),
      verdict: changes.verdict,
      next: changes.next,
      begun: changes.begun,
      charging: changes.charging,
      suits_12v: changes.suits_12v,
    },
    diagram: {
      ...changes.diagram,
      items: merged(design.diagram.items, changes.diagram.items),
      areas: merged(design.diagram.areas, changes.diagram.areas),
    },
    wires: merged(design.wires, changes.wires),
    day: changes.day ?? design.day,
    plugged: changes.plugged,
    history: changes.history,
  };
}
