import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Modal from "react-bootstrap/Modal";
import { useDesign } from "../../design/store";
import { useReference } from "../../figures/reference";
import { straightIfItMay } from "./supplies";
import { api, take, type Appliance, type NewLoad } from "../../api/client";

export function useAppliances(): Appliance[] | undefined {
  return useQuery({
    queryKey: ["appliances"],
    queryFn: () => take(api.GET("/api/reference/appliances")),
    staleTime: Infinity,
  }).data;
}

/** A load with the typical figures of an appliance; it begins at nine, or runs all day. 12 V go straight from a 12 V pack. */
export function useAsLoad() {
  const { suits_12v } = useDesign().design.assessment;
  const kinds = useReference()?.kinds;
  return (appliance: Appliance) =>
    asLoad(appliance, straightIfItMay(appliance.supply, appliance.kind, suits_12v, kinds));
}

function asLoad(appliance: Appliance, supply: Appliance["supply"]): NewLoad {
  const { label, kind, watts, on_min, off_min, power_factor, surge, hours, direct } = appliance;
  const windows = { w1: hours >= 16 ? { from_h: 0, to_h: 24 } : { from_h: 9, to_h: 9 + hours } };
  const cycle = on_min && off_min ? { on_min, off_min } : null;
  return { name: label, kind, supply, watts, power_factor, surge, cycle, windows, direct };
}

const said = (n: number) => (n >= 1000 ? `${n / 1000} kW` : `${n} W`);

/** Typical appliances with honest ranges, to start a load from. */
export function ApplianceShelf(props: { show: boolean; onHide: () => void; onAdd: (load: NewLoad) => void }) {
  const { show, onHide, onAdd } = props;
  const asLoad = useAsLoad();
  const appliances = useAppliances();
  const supplies = useReference()?.supplies ?? [];
  const [typed, setTyped] = useState("");
  const [added, setAdded] = useState<string[]>([]);
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const found = (appliances ?? []).filter((a) => words.every((w) => `${a.label} ${a.kind}`.toLowerCase().includes(w)));
  return (
    <Modal
      show={show}
      onHide={onHide}
      onExited={() => setAdded([])}
      size="lg"
      scrollable
      aria-labelledby="appliances-title"
    >
      <Modal.Header closeButton>
        <div className="flex-grow-1 me-3">
          <h2 id="appliances-title">Typical appliances</h2>
          <input
            className="form-control mt-2"
            aria-label="Search the appliances"
            placeholder="lamp, cooler, drill…"
            value={typed}
            autoFocus
            onChange={(event) => setTyped(event.target.value)}
          />
        </div>
      </Modal.Header>
      <Modal.Body>
        <table className="sheet-table">
          <thead>
            <tr>
              <th>appliance</th>
              <th>fed by</th>
              <th className="num">typical</th>
              <th className="num">from – to</th>
              <th className="num">surge ×</th>
              <th className="num">duty</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {found.map((a) => (
              <tr key={a.key} title={`${a.source} (${a.basis})`}>
                <td>{a.label}</td>
                <td>{supplies.find((s) => s.key === a.supply)?.short}</td>
                <td className="num">{said(a.watts)}</td>
                <td className="num faint">
                  {said(a.watts_low)} – {said(a.watts_high)}
                </td>
                <td className="num">{a.surge ?? "of its kind"}</td>
                <td className="num">
                  {a.on_min && a.off_min ? `${Math.round((a.on_min / (a.on_min + a.off_min)) * 100)} %` : ""}
                </td>
                <td className="num">
                  <button
                    type="button"
                    className="btn btn-quiet btn-sm"
                    aria-label={`Add ${a.label}`}
                    onClick={() => {
                      onAdd(asLoad(a));
                      setAdded([...added, a.key]);
                    }}
                  >
                    {added.includes(a.key) ? "added" : "add"}
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {appliances && found.length === 0 && (
          <p className="faint mt-2">Nothing of that name. Type it as a new load, with the watts from its plate.</p>
        )}
        <p className="faint mt-3 mb-0">
          Typical figures, to be replaced by a plate or a meter. Hours and days are yours to set.
        </p>
      </Modal.Body>
    </Modal>
  );
}
