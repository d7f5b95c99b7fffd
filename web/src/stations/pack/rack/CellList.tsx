import { useState } from "react";
import Button from "react-bootstrap/Button";
import type { RackCell } from "../../../api/client";
import { useDraft } from "../../../design/browser";
import { useDesign } from "../../../design/store";
import { rackQueue, useWaiting } from "./queue";

const PAGE = 60;
const SHOWS = { all: "all", good: "good", rejected: "rejected", free: "in no build", built: "built in" } as const;
type Shown = keyof typeof SHOWS;

const fits: Record<Shown, (cell: RackCell) => boolean> = {
  all: () => true,
  good: (c) => c.reasons.length === 0,
  rejected: (c) => c.reasons.length > 0,
  free: (c) => !c.build,
  built: (c) => Boolean(c.build),
};

export interface Wish {
  pinned: Record<string, number>;
  keptOut: number[];
}

interface Props {
  cells: RackCell[];
  groups: number;
  wish: Wish;
  onWish: (wish: Wish) => void;
  onRemove: (cells: RackCell[]) => void;
}

type Measured = "capacity_ah" | "resistance_mohm" | "resting_v" | "later_v";
type Column = "nearest" | "label" | "capacity_ah" | "resistance_mohm";

/** Every cell of the rack: what was measured, whether it is good, where it is. */
export function CellList({ cells, groups, wish, onWish, onRemove }: Props) {
  const [shown, setShown] = useState<Shown>("all");
  const [typed, setTyped] = useState("");
  const [page, setPage] = useState(0);
  const [order, setOrder] = useState<{ by: Column; down: boolean }>({ by: "nearest", down: false });
  const here = useDesign().design.id;
  /** This build's cells first, then those in no build, then what others hold. */
  const rank = (cell: RackCell) => (cell.build?.design_id === here ? 0 : cell.build ? 2 : 1);
  const sortKey = (cell: RackCell) => (order.by === "nearest" ? rank(cell) : (cell[order.by] ?? -1));
  const found = cells
    .filter((c) => fits[shown](c) && c.label.toLowerCase().includes(typed.toLowerCase()))
    .sort((a, b) => {
      const [x, y] = [sortKey(a), sortKey(b)];
      return (x < y ? -1 : x > y ? 1 : 0) * (order.down ? -1 : 1);
    });
  const pages = Math.max(1, Math.ceil(found.length / PAGE));
  const onPage = Math.min(page, pages - 1);
  const head = (by: Column, name: string, num = true) => (
    <th className={num ? "num" : ""} aria-sort={order.by === by ? (order.down ? "descending" : "ascending") : "none"}>
      <button
        type="button"
        className="row-button"
        onClick={() => setOrder({ by, down: order.by === by && !order.down })}
      >
        {name} {order.by === by ? (order.down ? "▾" : "▴") : ""}
      </button>
    </th>
  );
  const edit = (cell: RackCell, field: Measured, label: string) => (
    <CellFigure cell={cell} field={field} label={label} />
  );
  const place = (cell: RackCell) =>
    wish.keptOut.includes(cell.id) ? "out" : wish.pinned[cell.id] ? String(wish.pinned[cell.id]) : "";
  const setPlace = (cell: RackCell, value: string) => {
    const pinned = { ...wish.pinned };
    delete pinned[cell.id];
    const keptOut = wish.keptOut.filter((id) => id !== cell.id);
    if (value === "out") keptOut.push(cell.id);
    else if (value) pinned[cell.id] = Number(value);
    onWish({ pinned, keptOut });
  };
  return (
    <>
      <div className="d-flex gap-2 align-items-center flex-wrap mb-2">
        <div className="tabs mb-0" role="group" aria-label="Cells shown">
          {Object.entries(SHOWS).map(([key, label]) => (
            <button
              key={key}
              type="button"
              className="tab tight"
              aria-pressed={shown === key}
              onClick={() => {
                setShown(key as Shown);
                setPage(0);
              }}
            >
              {label} {cells.filter(fits[key as Shown]).length}
            </button>
          ))}
        </div>
        <input
          className="form-control form-control-sm w-auto ms-auto"
          aria-label="Find a cell by its label"
          placeholder="find a label"
          value={typed}
          onChange={(event) => {
            setTyped(event.target.value);
            setPage(0);
          }}
        />
      </div>
      <div className="table-scroll">
        <table className="sheet-table small-figure">
          <thead>
            <tr>
              {head("label", "cell", false)}
              {head("capacity_ah", "Ah")}
              {head("resistance_mohm", "mΩ")}
              <th className="num">rested, V</th>
              <th className="num">later, V</th>
              <th>judged</th>
              <th>in the sorting</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {found.slice(onPage * PAGE, (onPage + 1) * PAGE).map((cell) => (
              <tr key={cell.id} data-row={cell.label} className={cell.reasons.length ? "rejected" : ""}>
                <td className="text-nowrap" title={[cell.format, cell.source, cell.remarks].filter(Boolean).join(", ")}>
                  {cell.label}
                </td>
                <td className="num">{edit(cell, "capacity_ah", "Capacity")}</td>
                <td className="num">{edit(cell, "resistance_mohm", "Resistance")}</td>
                <td className="num">{edit(cell, "resting_v", "Resting voltage")}</td>
                <td className="num">{edit(cell, "later_v", "Later voltage")}</td>
                <td>
                  {cell.reasons.length ? (
                    <span className="text-stop">{cell.reasons.join("; ")}</span>
                  ) : cell.build ? (
                    <span className="faint">
                      {cell.build.design_id === here ? "here" : cell.build.name}, {cell.build.group}.{cell.build.place}
                    </span>
                  ) : (
                    <span className="text-holds">good</span>
                  )}
                </td>
                <td>
                  <select
                    className="cell-input"
                    aria-label={`Place of ${cell.label} in the sorting`}
                    value={place(cell)}
                    onChange={(event) => setPlace(cell, event.target.value)}
                  >
                    <option value="">auto</option>
                    <option value="out">kept out</option>
                    {Array.from({ length: groups }, (_, g) => (
                      <option key={g} value={g + 1}>
                        in group {g + 1}
                      </option>
                    ))}
                  </select>
                </td>
                <td className="num">
                  <button
                    type="button"
                    className="btn btn-bare btn-sm"
                    aria-label={`Take ${cell.label} off the rack`}
                    onClick={() => onRemove([cell])}
                  >
                    ✕
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {pages > 1 && (
        <div className="d-flex gap-2 align-items-center mt-2">
          <Button variant="quiet" size="sm" disabled={onPage === 0} onClick={() => setPage(onPage - 1)}>
            ◂
          </Button>
          <span className="faint">
            {onPage * PAGE + 1} to {Math.min(found.length, (onPage + 1) * PAGE)} of {found.length}
          </span>
          <Button variant="quiet" size="sm" disabled={onPage === pages - 1} onClick={() => setPage(onPage + 1)}>
            ▸
          </Button>
        </div>
      )}
    </>
  );
}

/** A measured figure of a cell: half-typed it outlives a reload, not stored yet or refused it stays as it was typed. */
function CellFigure({ cell, field, label }: { cell: RackCell; field: Measured; label: string }) {
  const [draft, setDraft] = useDraft(`rack/${cell.id}/${field}`);
  const waits = useWaiting().findLast((w) => "id" in w && w.id === cell.id && w.field === field);
  const stored = String(cell[field] ?? "");
  const keep = () => {
    if (draft !== null && draft !== stored) rackQueue.edit(cell.id, cell.label, field, draft);
    setDraft(null);
  };
  return (
    <>
      <input
        className={`cell-input${waits?.problem ? " bad" : ""}`}
        aria-label={`${label} of ${cell.label}`}
        aria-invalid={Boolean(waits?.problem)}
        value={draft ?? (waits && "typed" in waits ? waits.typed : stored)}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === "Enter") keep();
          if (event.key === "Escape") {
            setDraft(null);
            if (waits) rackQueue.drop(waits);
          }
        }}
      />
      {waits?.problem && (
        <span className="problem" role="alert">
          {waits.problem}. Still in force: {stored || "nothing"}.
        </span>
      )}
    </>
  );
}
