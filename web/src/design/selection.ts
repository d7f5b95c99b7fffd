/** What is selected (a JSON pointer, kept in the address), which working is pinned open, which finding is open. */
import { createContext, useCallback, useContext } from "react";
import { useSearchParams } from "react-router";
import type { Figure } from "../api/client";

export function useSelection(): [string, (pointer: string) => void] {
  const [params, setParams] = useSearchParams();
  const select = useCallback(
    (pointer: string) => setParams(pointer ? { at: pointer } : {}, { replace: true }),
    [setParams],
  );
  return [params.get("at") ?? "", select];
}

export interface MarginState {
  pinned: Figure | null;
  pin: (figure: Figure | null) => void;
  openFinding: string;
  open: (key: string) => void;
}

export const MarginContext = createContext<MarginState>({
  pinned: null,
  pin: () => {},
  openFinding: "",
  open: () => {},
});

export const useMargin = () => useContext(MarginContext);

/** Whether a finding or figure at `place` belongs to what is selected. */
export const belongsTo = (place: string, selected: string) =>
  selected !== "" && (place === selected || place.startsWith(`${selected}/`));

export const findingKey = (finding: { id: string; place: string }) => `${finding.id} ${finding.place}`;
