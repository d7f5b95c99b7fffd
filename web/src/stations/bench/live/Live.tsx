import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, take, type TestRunHead } from "../../../api/client";
import { useDraft } from "../../../design/browser";
import { useRuns } from "../../../design/runs";
import { useDesign } from "../../../design/store";
import { NotYet } from "../../../figures/NotYet";
import { RunScreen } from "./RunScreen";
import { SetUp } from "./SetUp";

/** The load test live: made ready, run with what instruments say, and read again later. margin: where what it says of the station stands. */
export function Live({ margin }: { margin: HTMLElement | null }) {
  const { design } = useDesign();
  const [chosen, choose] = useDraft(`run.${design.id}`);
  const { data, error } = useRuns(design.id);
  const underWay = data?.runs.find((run) => !run.over_at)?.id;
  useEffect(() => {
    if (underWay) choose(underWay); // it stays in view when it is over
  }, [underWay, choose]);
  if (!data) return <NotYet error={error} doing="Looking for tests…" />;
  const shown = underWay ?? (data.runs.some((run) => run.id === chosen) ? chosen : null);
  if (shown) return <OneRun key={shown} id={shown} margin={margin} onLeave={() => choose(null)} />;
  return (
    <>
      <SetUp margin={margin} onBegun={choose} />
      <Past runs={data.runs} onChoose={choose} />
    </>
  );
}

/** So often it is asked what a test that is over says, until all of it is worked out. */
const JUDGED_MS = 1000;

function OneRun({ id, margin, onLeave }: { id: string; margin: HTMLElement | null; onLeave: () => void }) {
  const { data, error } = useQuery({
    queryKey: ["runs", id, "whole"],
    queryFn: () => take(api.GET("/api/runs/{run_id}", { params: { path: { run_id: id } } })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 0,
    refetchInterval: ({ state }) => (state.data?.judging ? JUDGED_MS : false),
  });
  const queries = useQueryClient();
  const told = data && !data.live && !data.judging;
  useEffect(() => {
    if (told) void queries.invalidateQueries({ queryKey: ["recorded", data.design_id] }); // what it found is a finding now
  }, [told, queries, data?.design_id]);
  if (!data) return <NotYet error={error} doing="Opening the test…" />;
  return <RunScreen key={`${data.id}-${data.live}`} run={data} margin={margin} onLeave={onLeave} />;
}

const day = new Intl.DateTimeFormat("en-GB", { dateStyle: "medium", timeStyle: "short" });

function Past({ runs, onChoose }: { runs: TestRunHead[]; onChoose: (id: string) => void }) {
  if (!runs.length) return null;
  return (
    <>
      <h2 className="form-group-title">Tests that were run</h2>
      <ul className="past-runs">
        {runs.map((run) => (
          <li key={run.id}>
            <button type="button" className="tab" onClick={() => onChoose(run.id)}>
              {day.format(new Date(run.begun_at))}
            </button>{" "}
            {run.done} of {run.steps} steps
            {run.stops > 0 && <strong className="off">, stopped at a line</strong>}
          </li>
        ))}
      </ul>
    </>
  );
}
