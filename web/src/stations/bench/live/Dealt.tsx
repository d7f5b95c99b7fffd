import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { api, take } from "../../../api/client";

/** What was dealt to the stand-ins of a test that is over, told when the builder has made up their mind. */
export function Dealt({ run }: { run: string }) {
  const [told, tell] = useState(false);
  const { data } = useQuery({
    queryKey: ["runs", run, "dealt"],
    queryFn: () => take(api.GET("/api/runs/{run_id}/dealt", { params: { path: { run_id: run } } })),
    gcTime: 0,
  });
  if (!data?.words) return null;
  return (
    <p className="dealt">
      {told ? (
        <>
          Dealt to the simulated bench: <strong>{data.words}</strong>.
        </>
      ) : (
        <Button variant="quiet" size="sm" onClick={() => tell(true)}>
          What was dealt to the simulated bench?
        </Button>
      )}
    </p>
  );
}
