import { useQuery } from "@tanstack/react-query";
import { api, take, type Operation } from "../api/client";

/** What the core publishes once and for all: every list to choose from, the kinds of part, supplies, chemistries. */
export function useReference() {
  return useQuery({ queryKey: ["reference"], queryFn: () => take(api.GET("/api/reference")), staleTime: Infinity })
    .data;
}

/** With another chemistry, the cells of a finished battery as it is usually sold: lead has six where LFP has four. */
export function otherCells(
  cells: Record<string, number> | undefined,
  before: string,
  after: unknown,
  pointer: string,
): Operation[] {
  const wanted = cells?.[String(after)];
  return wanted && wanted !== cells[before] ? [{ op: "replace", path: pointer, value: wanted }] : [];
}

/** One list, by the name that the core gives it: of a sized choice, or of a decision as "Model.field". */
export function useOptions(name: string) {
  return useReference()?.options[name] ?? [];
}
