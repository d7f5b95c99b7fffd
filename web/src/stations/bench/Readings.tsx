import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take } from "../../api/client";
import { useDraft } from "../../design/browser";
import { useDesign } from "../../design/store";
import { NotYet } from "../../figures/NotYet";
import { PasteDialog } from "../../figures/PasteDialog";
import { ByHand } from "./ByHand";
import { Result } from "./Result";
import { calendarDay } from "./steps";

/** The readings of a load test, pasted from a logger: what they say of the station, and what would explain them. */
export function Readings() {
  const { design } = useDesign();
  const [text, keep] = useDraft(`readings.${design.id}`);
  const [pasting, setPasting] = useState(false);
  const read = (table: string) =>
    take(
      api.POST("/api/designs/{design_id}/readings", {
        params: { path: { design_id: design.id } },
        body: { text: table },
      }),
    );
  const { data, error } = useQuery({
    queryKey: ["readings", design.id, design.revision, text],
    queryFn: () => read(text!),
    enabled: text !== null,
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  });
  const dialog = pasting && (
    <PasteDialog
      id={`readings-${design.id}`}
      title="Readings of a load test"
      lead="A line each: the time, the voltage at the posts and the current; besides, as far as you have them, clamp, end of the path, load in watts, each cell, and temperatures of air, pack, outside and each joint. A column “step” names the steps; without it the loads tell them."
      label="Readings"
      placeholder={
        "time (s);voltage (V);current (A);load (W);cell 1 (V);air (°C)\n0;27.3;0.05;0;3.42;20.1\n5;27.1;20.4;500;3.39;20.1"
      }
      action="Read them"
      onHide={() => setPasting(false)}
      take={async (table) => {
        await read(table);
        keep(table);
      }}
    />
  );
  if (text === null)
    return (
      <>
        <div className="empty-state">
          <h2>Learn from the test</h2>
          <p>
            Run the test plan with a logger, and paste what it wrote. The figures of the station are found from it, each
            with how far it may be off; and where readings do not fit, what would explain them best.
          </p>
          <button type="button" className="btn btn-primary" onClick={() => setPasting(true)}>
            Paste readings…
          </button>
          {dialog}
        </div>
        <ByHand />
      </>
    );
  return (
    <>
      <div className="d-flex gap-2 mb-2">
        <button type="button" className="tab" onClick={() => setPasting(true)}>
          other readings…
        </button>
        <button type="button" className="tab" onClick={() => keep(null)}>
          put away
        </button>
      </div>
      {data ? (
        <Result found={data} run="" source={`pasted readings, ${calendarDay(new Date())}`} />
      ) : (
        <NotYet error={error} doing="Learning from the readings…" />
      )}
      {dialog}
      <ByHand />
    </>
  );
}
