import { said } from "../../../design/units";
import { useShown } from "../../../figures/units";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import Button from "react-bootstrap/Button";
import { askAnew } from "../../../api/anew";
import { api, take, type RackCell } from "../../../api/client";
import { useDesign, useStore } from "../../../design/store";
import { CellList, type Wish } from "./CellList";
import { ImportCells } from "./ImportCells";
import { Pile, type Limits } from "./Pile";
import { rackQueue } from "./queue";
import { Sorter } from "./Sorter";
import { TypeCells } from "./TypeCells";
import { NotYet } from "../../../figures/NotYet";

const VIEWS = { cells: "cells", pile: "the pile", sort: "sort into groups" } as const;
type View = keyof typeof VIEWS;

/** The cell rack: measured cells that all builds share, this build's and the free ones first. */
export default function Rack({ onPlaced }: { onPlaced: () => void }) {
  const store = useStore();
  const queries = useQueryClient();
  const warmth = useShown("°C");
  const { design } = useDesign();
  const { pack } = design.document;
  const [view, setView] = useState<View>("cells");
  const [limits, setLimits] = useState<Limits | null>(null);
  const [wish, setWish] = useState<Wish>({ pinned: {}, keptOut: [] });
  const [importing, setImporting] = useState(false);
  const { data, error } = useQuery({
    queryKey: ["rack", limits, design.revision],
    queryFn: () => take(api.GET("/api/rack", { params: { query: { ...limits, design_id: design.id } } })),
    placeholderData: keepPreviousData,
    gcTime: 0,
  });
  const reload = () => void askAnew(queries, "rack");
  useEffect(() => {
    rackQueue.stored = (cell) => {
      void askAnew(queries, "rack");
      // A cell that is built in takes its build with it.
      if (cell !== undefined) void store.reload();
    };
    rackQueue.send();
    return () => {
      rackQueue.stored = () => {};
    };
  }, [queries, store]);

  const remove = async (cells: RackCell[]) => {
    try {
      await take(api.POST("/api/rack/remove", { body: { ids: cells.map((c) => c.id) } }));
      store.say(`${cells.length === 1 ? cells[0]!.label : `${cells.length} cells`} taken off the rack.`);
    } catch (error) {
      store.say(`Not taken off: ${(error as Error).message}`);
    }
    reload();
  };
  // While the server is away the rack as last seen stays, and typing goes on.
  if (!data) return <NotYet error={error} doing="Opening the rack…" />;
  const good = data.cells.filter((c) => !c.reasons.length).length;
  const builds = new Map<string, number>();
  for (const c of data.cells) if (c.build) builds.set(c.build.name, (builds.get(c.build.name) ?? 0) + 1);
  const groups = Number(design.assessment.figures["pack/series"]?.value ?? 1);
  return (
    <>
      <div className="d-flex gap-2 align-items-center flex-wrap mb-2">
        <div className="tabs mb-0" role="group" aria-label="Views of the rack">
          {Object.entries(VIEWS).map(([key, label]) => (
            <button
              key={key}
              type="button"
              className="tab tight"
              aria-pressed={view === key}
              onClick={() => setView(key as View)}
            >
              {label}
            </button>
          ))}
        </div>
        <span className="faint">
          {data.cells.length} cells, {good} good
          {[...builds].map(([name, n]) => `; ${n} in ${name}`).join("")}
        </span>
        <span className="ms-auto" />
        <Button variant="quiet" size="sm" onClick={() => setImporting(true)}>
          Import…
        </Button>
        <a className="btn btn-quiet btn-sm" href="/api/rack/file.csv">
          CSV
        </a>
      </div>
      {view === "cells" && (
        <>
          <TypeCells pack={pack} nextLabel={data.next_label} />
          {data.cells.length ? (
            <CellList
              cells={data.cells}
              groups={groups}
              wish={wish}
              onWish={setWish}
              onRemove={(cells) => void remove(cells)}
            />
          ) : (
            <div className="empty-state">
              <h2>The rack is empty</h2>
              <p>
                Measure each cell: its capacity at 0.2 to 0.5 C near {said(warmth, 25)}, its resistance, its voltage a
                day after charge and again two weeks on. Type them above, one hand on the tester, or import a table.
              </p>
            </div>
          )}
        </>
      )}
      {view === "pile" && <Pile rack={data} onLimits={setLimits} />}
      {view === "sort" &&
        (pack.form === "cells" ? (
          <Sorter cells={data.cells} pack={pack} wish={wish} limits={limits} onPlaced={onPlaced} />
        ) : (
          <div className="empty-state">
            <h2>Sorting is for loose cells</h2>
            <p>This pack is made of finished batteries or modules. Choose loose cells under “as it stands” to sort.</p>
          </div>
        ))}
      {importing && (
        <ImportCells
          pack={pack}
          onHide={() => setImporting(false)}
          onAdded={(count) => {
            store.say(`${count} cells are on the rack.`);
            reload();
          }}
        />
      )}
    </>
  );
}
