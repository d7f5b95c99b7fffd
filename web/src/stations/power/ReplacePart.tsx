import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { askAnew } from "../../api/anew";
import { api, take, type Node, type Operation, type PartKind } from "../../api/client";
import { same, useDesign, useStore } from "../../design/store";
import { EffectLine } from "../../figures/FindingList";

/** A generic part, or one of the builder's own, in place of this one: its effect is seen first. */
export function ReplacePart({ id, node, kind }: { id: string; node: Node; kind: PartKind }) {
  const store = useStore();
  const queries = useQueryClient();
  const { design } = useDesign();
  const [chosen, setChosen] = useState("");
  const sized = kind.choices.filter((choice) => kind.own.includes(choice.field));
  const { data } = useQuery({
    queryKey: ["path-parts", design.id, id, node.part, design.assessment.figures["pack/v_max"]?.value],
    queryFn: () =>
      take(
        api.GET("/api/designs/{design_id}/parts", {
          params: { path: { design_id: design.id }, query: { part: id } },
        }),
      ),
    enabled: sized.length > 0,
  });
  if (!sized.length || !data) return null;
  const at = `/power/network/${id}`;
  const part = data[Number(chosen)];
  /** What was picked stays shown for as long as its figures stand. */
  const now = data.findIndex(({ figures }) =>
    Object.entries(figures).every(([name, value]) => same((node as Record<string, unknown>)[name], value)),
  );
  const patch: Operation[] =
    chosen !== "" && part
      ? Object.entries(part.figures).map(([name, value]) => ({ op: "replace", path: `${at}/${name}`, value }))
      : [];
  const currency = design.document.brief.currency;
  /** Pins what stands now, and keeps it on the builder's own shelf. */
  const own = async () => {
    const named: Record<string, string | number> = {};
    for (const { field, figure } of sized) {
      const { key, value } = design.assessment.figures[`power/${id}/${figure}`] ?? {};
      const own = key ?? value;
      if (own !== undefined) named[field] = own;
    }
    const label = `${node.name}, ${design.assessment.figures[`power/${id}/rating`]?.text ?? ""}`.slice(0, 80);
    try {
      await take(api.POST("/api/power/parts", { body: { kind: node.part, name: label, figures: named, owned: 1 } }));
    } catch (error) {
      store.say(`Not kept: ${(error as Error).message}`);
      return;
    }
    await askAnew(queries, "path-parts");
    store.change(
      Object.entries(named).map(([name, value]) => ({ op: "replace", path: `${at}/${name}`, value })),
      `Owned: ${label}`,
    );
    store.say(`Kept as yours, and pinned: ${label}.`, true);
  };
  const group = (title: string, of: (part: NonNullable<typeof data>[number]) => boolean) => {
    const items = data.map((p, i) => ({ p, i })).filter(({ p }) => of(p));
    return (
      items.length > 0 && (
        <optgroup label={title}>
          {items.map(({ p, i }) => (
            <option key={i} value={i}>
              {p.label}
              {p.price ? `, about ${p.price} ${currency}` : p.owned ? ", owned" : ""}
            </option>
          ))}
        </optgroup>
      )
    );
  };
  return (
    <div className="mt-2">
      <label className="field" htmlFor={`${id}-replace`}>
        <span className="name">Replace it with</span>
        <select
          id={`${id}-replace`}
          className="form-select form-select-sm"
          value={chosen || (now < 0 ? "" : String(now))}
          onChange={(event) => setChosen(event.target.value)}
        >
          <option value="">…</option>
          {group("your own", (p) => p.own !== null)}
          {group("measured in your builds", (p) => p.measured)}
          {group("generic", (p) => p.own === null && !p.measured)}
        </select>
      </label>
      {part && chosen !== "" && (
        <div className="remedy">
          <Button
            size="sm"
            onClick={() => {
              store.change(patch, `${node.name}: ${part.label}`);
              store.say(`${node.name} is now ${part.label}.`, true);
              setChosen("");
            }}
          >
            Take {part.label}
          </Button>
          {part.measured && <p className="faint mb-1">It was {part.source}.</p>}
          <EffectLine patch={patch} />
        </div>
      )}
      <Button variant="bare" size="sm" className="ps-0" onClick={() => void store.prepare(own)}>
        I own this
      </Button>
    </div>
  );
}
