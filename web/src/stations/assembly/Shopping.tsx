import {
  createColumnHelper,
  flexRender,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useReactTable,
  type SortingState,
} from "@tanstack/react-table";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import type { Build, BuildLine } from "../../api/client";
import { useRecorded, useRecordLine } from "../../design/record";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { QuantityInput } from "../../figures/QuantityInput";
import { Alternatives } from "./Alternatives";
import { AT_LINE, isFor } from "./build";
import { PasteShopping } from "./PasteShopping";

interface Props {
  build: Build;
  selected: string;
  onSelect: (pointer: string) => void;
}

const column = createColumnHelper<BuildLine>();
const COLUMNS = [
  column.accessor("what", { header: "what", sortingFn: "text" }),
  column.accessor("rating", { header: "rating", sortingFn: "text" }),
  column.accessor((line) => Number(line.need.value), { id: "need", header: "needed" }),
  column.accessor("owned", { header: "there" }),
  column.accessor((line) => Number(line.price?.value ?? -1), { id: "price", header: "each" }),
  column.accessor((line) => Number(line.buy.value), { id: "buy", header: "to buy" }),
  column.accessor((line) => Number(line.cost?.value ?? -1), { id: "cost", header: "cost" }),
];
const NUMBERS = ["need", "owned", "price", "buy", "cost"];

/** Everything the build is made of, group by group; sorted by a column it is one list. */
export function Shopping({ build, selected, onSelect }: Props) {
  const { design } = useDesign();
  const [sorting, setSorting] = useState<SortingState>([]);
  const [filter, setFilter] = useState("");
  const [pasting, setPasting] = useState(false);
  const [onlyLeft, setOnlyLeft] = useState(false);
  const { bought, buy, stored, refused } = useBought();
  const listed = new Set(build.lines.map((line) => line.key));
  const beyond = Object.entries(stored).filter(([key, count]) => count > 0 && !listed.has(key));
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called here alone, and handed to nothing that is kept
  const table = useReactTable({
    data: build.lines, // the same list each time: with another one the table begins anew
    columns: COLUMNS,
    state: { sorting, globalFilter: filter },
    onSortingChange: setSorting,
    onGlobalFilterChange: setFilter,
    globalFilterFn: (row, _, words: string) => {
      const { what, rating, group } = row.original;
      return `${what} ${rating} ${group}`.toLowerCase().includes(words.trim().toLowerCase());
    },
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
  });
  const found = table.getRowModel().rows.map((row) => row.original);
  const rows = onlyLeft ? found.filter((line) => leftOf(line, bought) > 0) : found;
  const groups = sorting.length
    ? [{ key: "", name: "", lines: rows }]
    : build.groups.map((g) => ({ ...g, lines: rows.filter((line) => line.group === g.key) }));
  const { currency } = design.document.brief;
  return (
    <>
      <div className="list-tools">
        <input
          type="search"
          className="form-control form-control-sm"
          placeholder="find a line"
          aria-label="Find a line"
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
        />
        <label className="form-check-label d-flex gap-1 align-items-center text-nowrap">
          <input
            type="checkbox"
            className="form-check-input mt-0"
            checked={onlyLeft}
            onChange={(event) => setOnlyLeft(event.target.checked)}
          />
          still to buy
        </label>
        {sorting.length > 0 && (
          <Button variant="bare" size="sm" onClick={() => setSorting([])}>
            by group again
          </Button>
        )}
        <span className="ms-auto">
          <a className="btn btn-bare btn-sm" href={`/api/designs/${design.id}/shopping.csv`} download>
            CSV
          </a>
          <Button variant="bare" size="sm" onClick={() => setPasting(true)}>
            Paste prices…
          </Button>
        </span>
      </div>
      {pasting && <PasteShopping onHide={() => setPasting(false)} />}
      {refused.map(({ entry, line, problem }) => (
        <p key={entry} className="problem" role="alert">
          Not taken that {build.lines.find((l) => l.key === line)?.what ?? line} was bought: {problem}.
        </p>
      ))}
      <div className="table-scroll">
        <table className="sheet-table shopping">
          <thead>
            <tr>
              <th>
                <span className="visually-hidden">bought</span>
              </th>
              {table.getFlatHeaders().map((header) => {
                const sorted = header.column.getIsSorted();
                return (
                  <th
                    key={header.id}
                    className={NUMBERS.includes(header.id) ? "num" : ""}
                    aria-sort={sorted ? (sorted === "asc" ? "ascending" : "descending") : "none"}
                  >
                    <button type="button" className="sort" onClick={header.column.getToggleSortingHandler()}>
                      {flexRender(header.column.columnDef.header, header.getContext())}
                      {header.id === "cost" && `, ${currency}`}
                      {sorted && <span aria-hidden>{sorted === "asc" ? " ▴" : " ▾"}</span>}
                    </button>
                  </th>
                );
              })}
            </tr>
          </thead>
          {groups
            .filter((g) => g.lines.length)
            .map((g) => (
              <tbody key={g.key}>
                {g.name && (
                  <tr className="group-row">
                    <th colSpan={COLUMNS.length} scope="rowgroup">
                      {g.name}
                    </th>
                    <th className="num">{cost(g.lines)}</th>
                  </tr>
                )}
                {g.lines.map((line) => (
                  <Row
                    key={line.key}
                    line={line}
                    bought={bought(line.key)}
                    selected={selected}
                    onSelect={onSelect}
                    onBuy={buy}
                  />
                ))}
              </tbody>
            ))}
        </table>
      </div>
      {rows.length === 0 && (
        <p className="faint mt-2">{onlyLeft && !filter ? "Everything is bought." : "No line has these words."}</p>
      )}
      <p className="shopping-total">
        To buy <Fig path="assembly/total" />
        {design.document.brief.budget != null && (
          <>
            {" "}
            of a budget of {design.document.brief.budget} {currency}
          </>
        )}
        {build.lines.some((line) => bought(line.key) > 0) && (
          <>
            ; <Fig path="assembly/left" /> of it still to pay
          </>
        )}
        ; <Fig path="assembly/without_price" /> lines have no price. <Fig path="assembly/per_kwh" /> for a usable kWh.
      </p>
      {beyond.length > 0 && (
        <p className="faint">
          Bought, and no longer on the list since the design changed:{" "}
          {beyond.map(([key]) => key.replaceAll(":", ", ").replaceAll("-", " ")).join("; ")}.
        </p>
      )}
      <Alternatives />
    </>
  );
}

/** How many were bought of each line, with what waits to be stored; and what says so. */
function useBought() {
  const { design } = useDesign();
  const { record } = useRecorded();
  const { line, purchases } = useRecordLine(design.id);
  const bought = (key: string) =>
    purchases.findLast((p) => p.line === key && !p.problem)?.count ?? record?.bought[key] ?? 0;
  return { bought, buy: line.buy, stored: record?.bought ?? {}, refused: purchases.filter((p) => p.problem) };
}

/** How many of a line are still to be bought: a design that grew wants more than was bought for it. */
const leftOf = (line: BuildLine, bought: (key: string) => number) =>
  line.comes_with ? 0 : Math.max(0, Number(line.buy.value) - bought(line.key));

/** What the lines of a group cost together. */
const cost = (lines: BuildLine[]) => {
  const cents = lines.reduce((sum, line) => sum + Math.round(Number(line.cost?.value ?? 0) * 100), 0);
  return cents ? (cents / 100).toFixed(2) : "";
};

interface RowProps {
  line: BuildLine;
  bought: number;
  selected: string;
  onSelect: (pointer: string) => void;
  onBuy: (line: string, count: number) => void;
}

function Row({ line, bought, selected, onSelect, onBuy }: RowProps) {
  const at = AT_LINE + line.key;
  const nothing = Number(line.buy.value) === 0;
  const all = bought >= Number(line.buy.value) - 1e-6;
  return (
    <tr
      data-row={line.key}
      className={at === selected || isFor(line.places, selected) ? "selected" : ""}
      onClick={(event) => event.target instanceof HTMLTableCellElement && onSelect(at)}
    >
      <td className="tick-cell">
        {!line.comes_with && (!nothing || bought > 0) && (
          <input
            type="checkbox"
            className="form-check-input"
            aria-label={`Bought: ${line.what} ${line.rating}`}
            checked={all && bought > 0}
            ref={(box) => {
              if (box) box.indeterminate = bought > 0 && !all;
            }}
            onChange={() => onBuy(line.key, all && bought > 0 ? 0 : Number(line.buy.value))}
          />
        )}
      </td>
      <td>
        <button type="button" className="btn btn-bare btn-sm p-0 text-start" onClick={() => onSelect(at)}>
          {line.what}
        </button>
      </td>
      <td className="faint">{line.rating}</td>
      <td className="num text-nowrap">
        <Fig figure={line.need} />
      </td>
      <td className="num own-cell">
        {!line.comes_with && (
          <QuantityInput
            pointer={`/assembly/owned/${line.key}`}
            label={`There already, ${line.what} ${line.rating}`}
            unit={line.unit || undefined}
            optional
            entry
            placeholder="–"
            cell
          />
        )}
      </td>
      <td className="num own-cell">
        {!line.comes_with && (
          <QuantityInput
            pointer={`/assembly/prices/${line.key}`}
            label={`Price of one, ${line.what} ${line.rating}`}
            optional
            entry
            placeholder={line.price?.text ?? "?"}
            cell
          />
        )}
      </td>
      <td className="num text-nowrap">
        {line.comes_with ? "" : nothing ? <span className="faint">–</span> : <Fig figure={line.buy} />}
        {bought > 0 && !all && <span className="faint d-block">{line.unit ? "a part is" : bought} bought</span>}
      </td>
      <td className="num text-nowrap">
        {line.comes_with ? (
          <span className="faint">comes with it</span>
        ) : line.cost ? (
          !nothing && <Fig figure={line.cost} text={Number(line.cost.value).toFixed(2)} />
        ) : (
          !nothing && <span className="faint">no price</span>
        )}
      </td>
    </tr>
  );
}
