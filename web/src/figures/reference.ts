import { useQuery } from "@tanstack/react-query";
import { api, take } from "../api/client";

/** What the core publishes once and for all: every list to choose from, the kinds of part, supplies, chemistries. */
export function useReference() {
  return useQuery({ queryKey: ["reference"], queryFn: () => take(api.GET("/api/reference")), staleTime: Infinity })
    .data;
}

/** One list, by the name that the core gives it: of a sized choice, or of a decision as "Model.field". */
export function useOptions(name: string) {
  return useReference()?.options[name] ?? [];
}
