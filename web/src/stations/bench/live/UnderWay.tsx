import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, take, type TestRun } from "../../../api/client";
import { useRunFeed } from "./feed";
import { StopWord } from "./StopWord";

/** A load test that is under way, wherever the builder is: its stop lines act on every screen. here: it is shown there already. */
export default function UnderWay({ id, bench, here }: { id: string; bench: string; here: boolean }) {
  const { data } = useQuery({
    queryKey: ["runs", id, "watched"],
    queryFn: () => take(api.GET("/api/runs/{run_id}", { params: { path: { run_id: id } } })),
    staleTime: Infinity,
    gcTime: 0,
  });
  return data?.live ? <Watched run={data} bench={bench} here={here} /> : null;
}

function Watched({ run, bench, here }: { run: TestRun; bench: string; here: boolean }) {
  const feed = useRunFeed(run);
  const { state } = feed;
  if (!state) return null;
  return (
    <>
      <StopWord run={run} feed={feed} state={state} />
      {!here && (
        <p className="run-under-way" role="status">
          A load test is {state.state}: {run.plan[state.at]?.name ?? "at its end"}. <Link to={bench}>To the bench</Link>
        </p>
      )}
    </>
  );
}
