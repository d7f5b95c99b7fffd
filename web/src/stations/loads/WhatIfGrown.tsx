import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Modal from "react-bootstrap/Modal";
import { api, take } from "../../api/client";
import { useDesign } from "../../design/store";
import { Sentence } from "../../figures/Figure";
import { Mark } from "../../figures/Mark";

/** What if every load grew: with every size as it stands today, which limits would break. */
export function WhatIfGrown({ show, onHide }: { show: boolean; onHide: () => void }) {
  const { design } = useDesign();
  const [growth, setGrowth] = useState(40);
  const { data, error } = useQuery({
    queryKey: ["what-if", design.id, design.revision, growth],
    queryFn: () =>
      take(
        api.POST("/api/designs/{design_id}/what-if", {
          params: { path: { design_id: design.id } },
          body: { growth: growth / 100 },
        }),
      ),
    enabled: show,
    placeholderData: keepPreviousData,
  });
  return (
    <Modal show={show} onHide={onHide} aria-labelledby="grown-title">
      <Modal.Header closeButton>
        <h2 id="grown-title">What if the loads grow</h2>
      </Modal.Header>
      <Modal.Body>
        <label className="d-flex align-items-center gap-3" htmlFor="growth">
          by
          <input
            id="growth"
            type="range"
            className="form-range"
            min={5}
            max={150}
            step={5}
            value={growth}
            onChange={(event) => setGrowth(Number(event.target.value))}
          />
          <output className="text-nowrap fw-bold">{growth} %</output>
        </label>
        {error && <p className="problem">{error.message}</p>}
        {data && (
          <>
            <p className="faint mt-2">With every size as it stands now:</p>
            {data.new.length === 0 ? (
              <p className="holds-note">
                <Mark kind="holds" hidden /> Nothing new would break.
              </p>
            ) : (
              data.new.map((f) => (
                <div className="d-flex gap-2 mb-2" key={f.id + f.place}>
                  <Mark kind={f.severity} />
                  <div>
                    <Sentence text={f.sentence} figures={f.figures} />
                  </div>
                </div>
              ))
            )}
            {data.changes.length > 0 && (
              <p className="faint mb-0">
                {data.changes.map((c) => (
                  <span key={c.label} className="d-block">
                    {c.label} {c.before} → {c.after}
                  </span>
                ))}
              </p>
            )}
          </>
        )}
      </Modal.Body>
    </Modal>
  );
}
