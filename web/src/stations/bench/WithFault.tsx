import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type FaultDial } from "../../api/client";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { NotYet } from "../../figures/NotYet";
import { ReadTable } from "./ReadTable";
import { Stops } from "./Result";

interface Chosen {
  kind: string;
  which: number;
  size: string;
}

/** The rehearsal with a fault dialled in by hand: what the meters would show of it, and what it does to the days. */
export function WithFault() {
  const { design } = useDesign();
  const [chosen, choose] = useState<Chosen>({ kind: "loose", which: 1, size: "" });
  const path = { params: { path: { design_id: design.id } } };
  const { data: known } = useQuery({
    queryKey: ["dials", design.id, design.revision],
    queryFn: () => take(api.GET("/api/designs/{design_id}/dials", path)),
    placeholderData: keepPreviousData,
  });
  const dial = known?.dials.find((d) => d.kind === chosen.kind) ?? known?.dials[0];
  const asked = dial && {
    kind: dial.kind,
    which: dial.of.length ? Math.min(Math.max(1, chosen.which), dial.of.length) : 0,
    size: chosen.size.trim() || dial.usual,
  };
  const { data, error } = useQuery({
    queryKey: ["with-fault", design.id, design.revision, asked],
    queryFn: () => take(api.POST("/api/designs/{design_id}/with-fault", { ...path, body: asked! })),
    enabled: asked !== undefined,
    retry: false,
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  });
  if (!known) return <NotYet error={null} doing="Looking what can go wrong…" />;
  if (!dial || !asked)
    return (
      <div className="empty-state">
        <h2>Nothing to rehearse yet</h2>
        <p className="mb-0">
          Put in loads and lay out their path: then a fault can be dialled in, to see what it would show.
        </p>
      </div>
    );
  const [sound, ill] = data?.run_time ?? [];
  return (
    <>
      <p className="faint">
        What a fault would show on the meters of the load test, and what it does to the days, before it happens.
      </p>
      <Dialling
        key={dial.kind}
        dials={known.dials}
        dial={dial}
        chosen={{ ...chosen, which: asked.which }}
        onChoose={choose}
      />
      {error && (
        <p className="problem" role="alert">
          {error.message}
        </p>
      )}
      {!error && data && (
        <>
          {sound && ill && (
            <p className="put-in-time">
              <span className="faint">{ill.label}</span>
              <strong>
                <Fig figure={sound} /> → <Fig figure={ill} />
              </strong>
            </p>
          )}
          <Stops stops={data.stops} />
          <ReadTable steps={data.steps} title="What the meters would show" />
          {data.days.length > 0 && <Days days={data.days} />}
        </>
      )}
      {!error && !data && <NotYet error={null} doing="Rehearsing it…" />}
    </>
  );
}

interface Controls {
  dials: FaultDial[];
  dial: FaultDial;
  chosen: Chosen;
  onChoose: (chosen: Chosen) => void;
}

function Dialling({ dials, dial, chosen, onChoose }: Controls) {
  const [typed, type] = useState(chosen.size);
  return (
    <div className="by-hand dialling">
      <select
        className="form-select form-select-sm"
        aria-label="Fault"
        value={dial.kind}
        onChange={(event) => onChoose({ kind: event.target.value, which: 1, size: "" })}
      >
        {dials.map((d) => (
          <option key={d.kind} value={d.kind}>
            {d.label}
          </option>
        ))}
      </select>
      {dial.of.length > 0 && (
        <select
          className="form-select form-select-sm"
          aria-label="Of which"
          value={chosen.which}
          onChange={(event) => onChoose({ ...chosen, which: Number(event.target.value) })}
        >
          {dial.of.map((name, n) => (
            <option key={n} value={n + 1}>
              {name}
            </option>
          ))}
        </select>
      )}
      <label>
        {dial.size}{" "}
        <input
          className="form-control form-control-sm d-inline-block w-auto"
          size={8}
          value={typed}
          placeholder={dial.usual}
          onChange={(event) => type(event.target.value)}
          onBlur={() => onChoose({ ...chosen, size: typed })}
          onKeyDown={(event) => event.key === "Enter" && onChoose({ ...chosen, size: typed })}
        />
      </label>
    </div>
  );
}

interface Season {
  season: string;
  figures: { label: string; before: Parameters<typeof Fig>[0]["figure"]; after: Parameters<typeof Fig>[0]["figure"] }[];
}

function Days({ days }: { days: Season[] }) {
  return (
    <>
      <h2 className="form-group-title">What it does to the days</h2>
      <div className="table-scroll">
        <table className="sheet-table">
          <thead>
            <tr>
              <th />
              {days.map((d) => (
                <th key={d.season} className="num" colSpan={2}>
                  {d.season} days
                </th>
              ))}
            </tr>
            <tr>
              <th />
              {days.flatMap((d) => [
                <th key={`${d.season} sound`} className="num">
                  sound
                </th>,
                <th key={`${d.season} ill`} className="num">
                  with it
                </th>,
              ])}
            </tr>
          </thead>
          <tbody>
            {days[0]!.figures.map((row, n) => (
              <tr key={row.label}>
                <td>{row.label}</td>
                {days.flatMap((d) => {
                  const { before, after } = d.figures[n]!;
                  return [
                    <td key={`${d.season} sound`} className="num">
                      <Fig figure={before} />
                    </td>,
                    <td key={`${d.season} ill`} className={`num ${before?.text === after?.text ? "faint" : "fw-bold"}`}>
                      <Fig figure={after} />
                    </td>,
                  ];
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}
