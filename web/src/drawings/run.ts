/** A season of a design simulated: what the bench and the charging draw on their time axes. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, take } from "../api/client";
import { useDesign } from "../design/store";

export type Season = "coldest" | "hottest";

export function useRun(season: Season) {
  const { design } = useDesign();
  return useQuery({
    queryKey: ["simulation", design.id, design.revision, season],
    queryFn: () =>
      take(
        api.GET("/api/designs/{design_id}/simulation", {
          params: { path: { design_id: design.id }, query: { season } },
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  });
}
