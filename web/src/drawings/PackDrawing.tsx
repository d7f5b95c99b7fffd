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

export function PackDrawing({ selected, onSelect }: Props) {
  const { design } = useDesign();
  const [side, setSide] = useState<Side>("top");
  const { pack } = design.document;
  const at = `/api/designs/${design.id}/pack`;
  const { data, error } = useQuery({
    queryKey: ["pack-drawing", design.id, side, design.revision],
    queryFn: () =>
      take(
        api.GET("/api/designs/{design_id}/pack-drawing", {
          params: { path: { design_id: design.id }, query: { side } },
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
        <span className="ms-auto" />
        <a className="btn btn-bare btn-sm" href={`${at}.pdf?side=${side}&scale=true`} target="_blank" rel="noreferrer">
          print 1:1
        </a>
        <a className="btn btn-bare btn-sm" href={`${at}.pdf?side=${side}`} target="_blank" rel="noreferrer">
          print to fit
        </a>
        <a className="btn btn-bare btn-sm" href={`${at}.svg?side=${side}`} download>
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
          />
        ) : (
          <NotYet error={error} doing="Drawing the pack…" />
        )}
      </div>
    </figure>
  );
}
