import { useState } from "react";
import Button from "react-bootstrap/Button";
import { LabelSheets } from "../../../figures/LabelSheets";
import { useOptions } from "../../../figures/reference";
import { api, take, type CellPack, type DesignOut, type RackCell, type Sorting } from "../../../api/client";
import { useDesign, useStore } from "../../../design/store";
import { useWatch } from "../../../design/watch";
import type { Wish } from "./CellList";
import type { Limits } from "./Pile";

const howFar = (job: string) => take(api.GET("/api/rack/sort/{job}", { params: { path: { job } } }));

interface Props {
  cells: RackCell[];
  pack: CellPack;
  wish: Wish;
  limits: Limits | null;
  onPlaced: () => void;
}

/** Ways in which a resistance is measured. */
const WAYS = ["1khz", "dc"] as const;

/** What a pattern of holders comes to, in words. */
function holderWords({ holder, holder_groups }: { holder: number; holder_groups: number }, s: number, p: number) {
  if (holder * holder_groups === 1) return "Each cell stands for itself.";
  const count = Math.ceil(p / holder) * Math.ceil(s / holder_groups);
  const inside = holder_groups === 1 ? `${holder} cells of one group` : `${holder} of each of ${holder_groups} groups`;
  return `${count} holders of ${holder * holder_groups}: ${inside}, matched to one another.`;
}

/** Good cells sorted into groups, seen before they are built in. */
export function Sorter({ cells, pack, wish, limits, onPlaced }: Props) {
  const store = useStore();
  const { design } = useDesign();
  const number = (path: string) => Number(design.assessment.figures[path]?.value ?? 1);
  const [series, setSeries] = useState(String(number("pack/series")));
  const [parallel, setParallel] = useState(String(number("pack/parallel")));
  const [holder, setHolder] = useState(String(pack.holder ?? 1));
  const [holderGroups, setHolderGroups] = useState(String(pack.holder_groups ?? 1));
  const formats = [
    ...new Set(cells.filter((c) => c.chemistry === pack.chemistry && c.format).map((c) => c.format)),
  ].sort();
  const [format, setFormat] = useState<string | null>(null);
  const pattern = { holder: Number(holder) || 1, holder_groups: Number(holderGroups) || 1 };
  const [thorough, setThorough] = useState(false);
  const ways = useOptions("Cell.resistance_by");
  const [by, setBy] = useState<"" | "1khz" | "dc">("");
  const [sorting, setSorting] = useState<Sorting | null>(null);
  const [moved, setMoved] = useState<number | null>(null);
  const [problem, setProblem] = useState("");
  const { watch, end } = useWatch(howFar);

  const begin = async () => {
    setProblem("");
    setMoved(null);
    try {
      const now = await take(
        api.POST("/api/rack/sort", {
          body: {
            design_id: design.id,
            series: Number(series),
            parallel: Number(parallel),
            ...pattern,
            cell_format: format,
            kept_out: wish.keptOut,
            pinned: Object.fromEntries(Object.entries(wish.pinned)),
            limits,
            resistance_by: by || null,
            thorough,
          },
        }),
      );
      setSorting(now);
      if (!now.done) watch(now.job, setSorting);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const stop = async () => {
    if (!sorting) return;
    end();
    setSorting(await take(api.DELETE("/api/rack/sort/{job}", { params: { path: { job: sorting.job } } })));
  };
  const refill = async () => {
    setProblem("");
    try {
      const found = await take(api.POST("/api/rack/refill", { body: { design_id: design.id } }));
      const ah = found.groups.map((g) => g.reduce((sum, id) => sum + (byId.get(id)?.capacity_ah ?? 0), 0));
      setMoved(found.moved);
      setSorting({
        job: "",
        done: true,
        progress: 1,
        spread_ah: null,
        error: "",
        good: 0,
        left_out: [],
        result: {
          groups: found.groups,
          capacity_ah: ah,
          spread: found.spread,
          spread_ah: Math.max(...ah) - Math.min(...ah),
          conductance_spread: 0,
          stopped: false,
        },
      });
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const place = async (groups: number[][]) => {
    setProblem("");
    const { data, error } = await api.POST("/api/rack/place", {
      body: {
        design_id: design.id,
        base_revision: design.revision,
        groups,
        ...pattern,
        reclaimed: pack.cell?.reclaimed ?? true,
      },
    });
    if (data) {
      store.accept(data as DesignOut);
      store.say(`${groups.flat().length} cells are built in.`, true);
      onPlaced();
    } else {
      setProblem((error as { message: string }).message);
    }
  };
  const byId = new Map(cells.map((c) => [c.id, c]));
  const result = sorting?.done ? sorting.result : null;
  const field = (id: string, name: string, value: string, set: (v: string) => void) => (
    <label className="field" htmlFor={id}>
      <span className="name">{name}</span>
      <input
        id={id}
        className="form-control form-control-sm"
        value={value}
        onChange={(event) => set(event.target.value)}
      />
    </label>
  );
  const most = result ? Math.max(...result.capacity_ah) : 1;
  const least = result ? Math.min(...result.capacity_ah) : 0;
  const floor = least - Math.max(most - least, most * 0.002) * 2;
  return (
    <>
      <div className="form-grid mb-2">
        {field("sort-series", "Groups in series (S)", series, setSeries)}
        {field("sort-parallel", "Cells in parallel (P)", parallel, setParallel)}
        {field("sort-holder", "Cells of a group in one holder", holder, setHolder)}
        {field("sort-holder-groups", "Groups it reaches over", holderGroups, setHolderGroups)}
        {formats.length > 1 && (
          <label className="field" htmlFor="sort-format">
            <span className="name">Format</span>
            <select
              id="sort-format"
              className="form-select form-select-sm"
              value={format ?? "all"}
              onChange={(e) => setFormat(e.target.value === "all" ? null : e.target.value)}
            >
              <option value="all">all, if of one format</option>
              {formats.map((f) => (
                <option key={f} value={f}>
                  only {f}
                </option>
              ))}
            </select>
          </label>
        )}
        <label className="field" htmlFor="sort-by">
          <span className="name">Resistances</span>
          <select
            id="sort-by"
            className="form-select form-select-sm"
            value={by}
            onChange={(e) => setBy(WAYS.find((way) => way === e.target.value) ?? "")}
          >
            <option value="">all, if of one kind</option>
            {ways.map((w) => (
              <option key={String(w.value)} value={String(w.value)}>
                only {w.label}
              </option>
            ))}
          </select>
        </label>
      </div>
      <p className="faint mb-2">{holderWords(pattern, Number(series), Number(parallel))}</p>
      <div className="d-flex gap-2 align-items-center flex-wrap mb-2">
        <Button size="sm" disabled={sorting !== null && !sorting.done} onClick={() => void begin()}>
          Sort
        </Button>
        {pack.groups && Object.keys(pack.groups).length > 0 && (
          <Button variant="quiet" size="sm" onClick={() => void refill()}>
            Replace rejects, moving few
          </Button>
        )}
        <div className="form-check mb-0">
          <input
            id="thorough"
            type="checkbox"
            className="form-check-input"
            checked={thorough}
            onChange={(event) => setThorough(event.target.checked)}
          />
          <label className="form-check-label" htmlFor="thorough">
            search on for up to a minute
          </label>
        </div>
        {Object.keys(pack.groups ?? {}).length > 0 && (
          <span className="ms-auto d-flex gap-1">
            {(
              [
                ["plan.pdf", "Plan"],
                ["plan.csv", "Plan, CSV"],
              ] as const
            ).map(([file, label]) => (
              <a
                key={file}
                className="btn btn-bare btn-sm"
                href={`/api/designs/${design.id}/${file}`}
                target="_blank"
                rel="noreferrer"
              >
                {label}
              </a>
            ))}
            <LabelSheets file="labels.pdf" label="Labels" />
          </span>
        )}
        {(wish.keptOut.length > 0 || Object.keys(wish.pinned).length > 0) && (
          <span className="faint">
            {Object.keys(wish.pinned).length} pinned, {wish.keptOut.length} kept out
          </span>
        )}
      </div>
      {sorting && !sorting.done && (
        <div className="d-flex gap-3 align-items-center mb-2">
          <progress className="flex-grow-1" max={1} value={sorting.progress} aria-label="Sorting" />
          <span className="faint">
            {sorting.spread_ah === null || sorting.spread_ah === undefined
              ? ""
              : `spread so far ${(sorting.spread_ah * 1000).toFixed(1)} mAh`}
          </span>
          <Button variant="quiet" size="sm" onClick={() => void stop()}>
            Stop, take what is found
          </Button>
        </div>
      )}
      {(problem || sorting?.error) && (
        <p className="problem" role="alert">
          {problem || sorting?.error}.
        </p>
      )}
      {sorting && sorting.left_out.length > 0 && (
        <p className="faint">
          {sorting.good} to sort from; left out: {sorting.left_out.map((l) => `${l.count} ${l.reason}`).join(", ")}.
        </p>
      )}
      {result && (
        <>
          <p className="mb-1">
            Groups of <strong>{least.toFixed(3)}</strong> to <strong>{most.toFixed(3)} Ah</strong>: spread{" "}
            <strong>{(result.spread * 100).toFixed(3)} %</strong>
            {result.conductance_spread > 0 && `, conductance ${(result.conductance_spread * 100).toFixed(2)} %`}
            {moved !== null && `; ${moved} ${moved === 1 ? "cell is" : "cells are"} moved`}
            {result.stopped && "; stopped early"}.
          </p>
          <ol className="group-bars">
            {result.capacity_ah.map((ah, g) => (
              <li key={g}>
                <span className="bar" style={{ width: `${((ah - floor) / (most - floor)) * 100}%` }} />
                <span className="words">
                  {ah.toFixed(3)} Ah:{" "}
                  {result.groups[g]!.slice(0, 6)
                    .map((id) => byId.get(id)?.label)
                    .join(", ")}
                  {result.groups[g]!.length > 6 && "…"}
                </span>
              </li>
            ))}
          </ol>
          <Button size="sm" onClick={() => void place(result.groups)}>
            Build these cells in
          </Button>
        </>
      )}
    </>
  );
}
