import { useMemo } from "react";
import { useDesign } from "../design/store";
import { shownIn, type Shown } from "../design/units";

/** How a quantity that is kept in a unit is shown and typed in this build. */
export function useShown(unit: string | undefined): Shown {
  const system = useDesign().design.document.brief.units;
  return useMemo(() => shownIn(system, unit), [system, unit]);
}
