import { useQuery } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { useState } from "react";
import { api, take, type Pack } from "../../api/client";
import { useDesign, useStore } from "../../design/store";
import { FigureRow } from "../../figures/FigureRow";
import { NotYet } from "../../figures/NotYet";
import { useOptions } from "../../figures/reference";

type Form = Pack["form"];

/** Packs from generic parts that would serve these loads and this brief, of the form at hand or of any. */
export default function Suggestions({ onTaken }: { onTaken: () => void }) {
  const store = useStore();
  const { design } = useDesign();
  const forms = useOptions("pack-form");
  const [form, setForm] = useState<Form | "">(
    design.assessment.begun.includes("pack") ? design.document.pack.form : "",
  );
  const { data, error } = useQuery({
    queryKey: ["packs", design.id, design.revision, form],
    queryFn: () =>
      take(
        api.GET("/api/designs/{design_id}/packs", {
          params: { path: { design_id: design.id }, query: { form: form || undefined } },
        }),
      ),
  });
  const tabs = (
    <div className="tabs" role="group" aria-label="Made of">
      {[{ value: "", label: "any form" }, ...forms].map(({ value, label }) => (
        <button
          key={String(value)}
          type="button"
          className="tab tight"
          aria-pressed={form === value}
          onClick={() => setForm(value as Form | "")}
        >
          {label}
        </button>
      ))}
    </div>
  );
  if (!data)
    return (
      <>
        {tabs}
        <NotYet error={error} doing="Trying the generic cells and batteries…" />
      </>
    );
  if (!data.length) {
    return (
      <>
        {tabs}
        <div className="empty-state">
          <h2>None of the generic packs serves</h2>
          <p>
            Energy, current, voltage, budget and mass together ask for more than any of this form gives. Try another
            form, ease the budget or the mass limit in the brief, or let the loads ask for less.
          </p>
        </div>
      </>
    );
  }
  return (
    <>
      {tabs}
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
    </>
  );
}
