/** The pack as it will stand, drawn by the core in true millimetres; the other side mirrored, for whoever solders there. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take } from "../api/client";
import { useDesign } from "../design/store";
import { NotYet } from "../figures/NotYet";
import { Drawn } from "./Drawn";

interface Props {
  selected: string;
  onSelect: (pointer: string) => void;
}

type Side = "top" | "bottom";
type Shown = "cells" | "links";

/** How large the drawing is shown: 1 is as wide as the sheet. */
const ZOOMS = [1, 1.5, 2.2, 3.3, 5];

export function PackDrawing({ selected, onSelect }: Props) {
  const { design } = useDesign();
  const [side, setSide] = useState<Side>("top");
  const [shown, setShown] = useState<Shown>("cells");
  const [zoom, setZoom] = useState(0);
  const { pack } = design.document;
  const at = `/api/designs/${design.id}/pack`;
  // Labels of cells on end would lie under their links: each has a drawing of its own.
  const onEnd = pack.form === "cells" && pack.cell?.shape === "cylindrical";
  const { data, error } = useQuery({
    queryKey: ["pack-drawing", design.id, side, shown, design.revision],
    queryFn: () =>
      take(
        api.GET("/api/designs/{design_id}/pack-drawing", {
          params: { path: { design_id: design.id }, query: { side, shown } },
        }),
      ),
    placeholderData: keepPreviousData,
    gcTime: 0,
  });
  return (
    <figure className="pack-drawing">
      <div className="pack-drawing-tools">
        {pack.form === "cells" && (
          <div className="tabs mb-0" role="group" aria-label="Seen from">
            {(["top", "bottom"] as const).map((s) => (
              <button key={s} type="button" className="tab tight" aria-pressed={side === s} onClick={() => setSide(s)}>
                {s === "top" ? "from above" : "from below, mirrored"}
              </button>
            ))}
          </div>
        )}
        {onEnd && (
          <div className="tabs mb-0" role="group" aria-label="Shown of it">
            {(["cells", "links"] as const).map((s) => (
              <button
                key={s}
                type="button"
                className="tab tight"
                aria-pressed={shown === s}
                onClick={() => setShown(s)}
              >
                {s}
              </button>
            ))}
          </div>
        )}
        <span className="ms-auto" />
        <span className="zoom" role="group" aria-label="Zoom">
          <button
            type="button"
            className="btn btn-bare btn-sm"
            aria-label="smaller"
            disabled={zoom === 0}
            onClick={() => setZoom(zoom - 1)}
          >
            −
          </button>
          <span className="faint">{Math.round(ZOOMS[zoom]! * 100)} %</span>
          <button
            type="button"
            className="btn btn-bare btn-sm"
            aria-label="larger"
            disabled={zoom === ZOOMS.length - 1}
            onClick={() => setZoom(zoom + 1)}
          >
            +
          </button>
        </span>
        <a className="btn btn-bare btn-sm" href={`${at}.pdf?side=${side}&scale=true`} target="_blank" rel="noreferrer">
          print 1:1
        </a>
        <a className="btn btn-bare btn-sm" href={`${at}.pdf?side=${side}`} target="_blank" rel="noreferrer">
          print to fit
        </a>
        <a className="btn btn-bare btn-sm" href={`${at}.svg?side=${side}&shown=${shown}`} download>
          SVG
        </a>
      </div>
      <div className="pack-drawing-sheet">
        {data ? (
          <Drawn
            drawing={data}
            label={`The pack seen from ${side === "top" ? "above" : "below, mirrored"}`}
            selected={selected}
            onSelect={onSelect}
            style={zoom ? { width: `${ZOOMS[zoom]! * 100}%`, maxHeight: "none" } : undefined}
          />
        ) : (
          <NotYet error={error} doing="Drawing the pack…" />
        )}
      </div>
    </figure>
  );
}
