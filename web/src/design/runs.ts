/** The load tests of a build: those that were run, and the one that is under way. */
import { useQuery } from "@tanstack/react-query";
import { api, take, type TestRunHead } from "../api/client";

/** So often it is looked whether one was begun elsewhere. */
const LOOK_MS = 15_000;

export function useRuns(design: string) {
  return useQuery({
    queryKey: ["runs", design],
    queryFn: () => take(api.GET("/api/designs/{design_id}/runs", { params: { path: { design_id: design } } })),
    gcTime: 60_000,
    refetchInterval: LOOK_MS,
  });
}

/** The test that is under way; undefined where none is. */
export function useUnderWay(design: string): TestRunHead | undefined {
  return useRuns(design).data?.runs.find((run) => !run.over_at);
}
