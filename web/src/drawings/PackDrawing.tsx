/** The pack as it will stand, drawn by the core in true millimetres; the other side mirrored, for whoever solders there. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useDesign } from "../app/store";

interface Props {
  selected: string;
  onSelect: (pointer: string) => void;
}

type Side = "top" | "bottom";

export function PackDrawing({ selected, onSelect }: Props) {
  const { design } = useDesign();
  const [side, setSide] = useState<Side>("top");
  const frame = useRef<HTMLDivElement>(null);
  const { pack } = design.document;
  const at = `/api/designs/${design.id}/pack`;
  const { data } = useQuery({
    queryKey: ["pack-drawing", design.id, side, design.revision],
    queryFn: async () => {
      const answer = await fetch(`${at}.svg?side=${side}`);
      const text = await answer.text();
      // The file carries the styles of paper; on the screen the theme's own stand in their place.
      return answer.ok ? text.replace(/<\?xml[^>]*>\s*/, "").replace(/<style>[\s\S]*?<\/style>/, "") : "";
    },
    placeholderData: keepPreviousData,
    gcTime: 0,
  });
  const collection = pack.form === "cells" ? "/pack/groups/g" : "/pack/strings/s";
  useEffect(() => {
    const chosen = selected.startsWith(collection) ? selected.slice(collection.length).split("/")[0] : "";
    frame.current?.querySelectorAll("[data-group]").forEach((g) => {
      g.classList.toggle("chosen", g.getAttribute("data-group") === chosen);
    });
  }, [data, selected, collection]);
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
      <div
        ref={frame}
        className="pack-drawing-sheet"
        onClick={(event) => {
          const group = (event.target as Element).closest("[data-group]")?.getAttribute("data-group");
          if (group) onSelect(collection + group);
        }}
        dangerouslySetInnerHTML={{ __html: data ?? "" }}
      />
    </figure>
  );
}
