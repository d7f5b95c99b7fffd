import { useQuery } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { api, take } from "../../api/client";
import { useDesign, useStore } from "../../design/store";
import { FigureRow } from "../../figures/FigureRow";
import { NotYet } from "../../figures/NotYet";

/** Packs from generic parts that would serve these loads and this brief. */
export default function Suggestions({ onTaken }: { onTaken: () => void }) {
  const store = useStore();
  const { design } = useDesign();
  const { data, error } = useQuery({
    queryKey: ["packs", design.id, design.revision],
    queryFn: () => take(api.GET("/api/designs/{design_id}/packs", { params: { path: { design_id: design.id } } })),
  });
  if (!data) return <NotYet error={error} doing="Trying the generic cells and batteries…" />;
  if (!data.length) {
    return (
      <div className="empty-state">
        <h2>None of the generic packs serves</h2>
        <p>
          Energy, current, budget and mass together ask for more than any of them gives. Ease the budget or the mass
          limit in the brief, or let the loads ask for less.
        </p>
      </div>
    );
  }
  return (
    <div className="cards">
      {data.map((s) => (
        <article className="choice-card" key={s.best_at}>
          <h2>{s.best_at}</h2>
          <p className="fw-bold mb-1">{s.name}</p>
          <p className="faint">{s.reason}</p>
          <dl className="figure-list mb-3">
            {(
              [
                ["Usable", s.usable],
                ["Cost", s.cost],
                ["Mass", s.mass],
                ["Cycles", s.cycles],
              ] as const
            ).map(([name, figure]) => (
              <FigureRow key={name} label={name} figure={figure} />
            ))}
          </dl>
          <Button
            size="sm"
            onClick={() => {
              store.change(s.patch, s.name);
              store.say(`The pack is now ${s.name}.`, true);
              onTaken();
            }}
          >
            Take this pack
          </Button>
        </article>
      ))}
    </div>
  );
}
