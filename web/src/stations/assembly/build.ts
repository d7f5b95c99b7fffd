/** What a build is made of and in what order, as the core has it; and what of it belongs to what is selected. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, take, type Build, type BuildStep } from "../../api/client";
import { belongsTo } from "../../design/selection";
import { useDesign } from "../../design/store";

export function useBuild() {
  const { design } = useDesign();
  const { data, error } = useQuery({
    queryKey: ["assembly", design.id, design.revision],
    queryFn: () => take(api.GET("/api/designs/{design_id}/assembly", { params: { path: { design_id: design.id } } })),
    placeholderData: keepPreviousData,
    gcTime: 0,
  });
  return { build: data, error };
}

/** Where a step, a line or a piece of wire is selected; what it is made for is selected by its own place in the design. */
export const AT_STEP = "/assembly/steps/";
export const AT_LINE = "/assembly/lines/";
export const AT_PIECE = "/assembly/pieces/";

/** Whether something for these places of the design belongs to what is selected there. */
export const isFor = (places: string[], selected: string) =>
  places.some((place) => place === selected || belongsTo(selected, place));

export const stepOf = (build: Build | undefined, selected: string): BuildStep | undefined =>
  selected.startsWith(AT_STEP) ? build?.steps.find((s) => s.key === selected.slice(AT_STEP.length)) : undefined;

/** Minutes as a person says them. */
export function spell(minutes: number): string {
  const [hours, rest] = [Math.floor(minutes / 60), Math.round(minutes % 60)];
  return hours ? (rest ? `${hours} h ${rest} min` : `${hours} h`) : `${rest} min`;
}

export const sum = (numbers: number[]) => numbers.reduce((a, b) => a + b, 0);
