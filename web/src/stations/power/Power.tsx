import { useState } from "react";
import Button from "react-bootstrap/Button";
import Dropdown from "react-bootstrap/Dropdown";
import type { Operation } from "../../api/client";
import { useSelection } from "../../app/selection";
import { StationFrame } from "../../app/StationFrame";
import { useDesign, useStore } from "../../app/store";
import { PowerDiagram } from "../../drawings/PowerDiagram";
import { Fig } from "../../figures/Figure";
import { PartDetails, ShuntDetails } from "./PartDetails";
import { WireTable } from "./WireTable";

const GLANCE: [string, string][] = [
  ["Running peak", "power/current"],
  ["Worst surge", "power/surge"],
  ["Fault at the posts", "pack/fault"],
  ["Main path, warm", "power/main_resistance"],
  ["Lost in cables a day", "power/wiring_day"],
  ["Shunt", "power/shunt/rating"],
];

export default function Power() {
  const store = useStore();
  const { design } = useDesign();
  const [selected, select] = useSelection();
  const [view, setView] = useState<"diagram" | "wires">("diagram");
  const network = design.document.power.network;
  const keys = Object.keys(network);
  const part = keys.find(
    (key) => selected === `/power/network/${key}` || selected.startsWith(`/power/network/${key}/`),
  );
  const shunt = selected.startsWith("/power/shunt") && design.document.power.shunt;
  const offers = design.assessment.offers;
  const homeless = design.assessment.findings.find((f) => f.id === "loads.no-outlet" && f.remedies.length > 0);
  const hottest = keys
    .filter((key) => `power/${key}/run/loading` in design.assessment.figures)
    .sort(
      (a, b) =>
        Number(design.assessment.figures[`power/${b}/run/loading`]!.value) -
        Number(design.assessment.figures[`power/${a}/run/loading`]!.value),
    )[0];
  return (
    <StationFrame
      station="power"
      title="Power path"
      lead={
        keys.length ? (
          <>
            <Fig path="power/current" /> at the pack in the worst hour, from <Fig path="power/current_at" />;{" "}
            <Fig path="power/surge" /> in the worst surge.
            {hottest && (
              <>
                {" "}
                The hardest-worked run, to {network[hottest]!.name}, carries{" "}
                <Fig path={`power/${hottest}/run/loading`} /> of its ampacity.
              </>
            )}
          </>
        ) : (
          "From the posts of the pack to the last socket."
        )
      }
      tools={
        <Dropdown align="end">
          <Dropdown.Toggle variant="quiet" size="sm" data-new>
            Add…
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {offers.map((offer) => (
              <Dropdown.Item
                key={offer.label}
                onClick={() => {
                  store.change(offer.patch as Operation[], offer.label);
                  const last = offer.patch.at(-1);
                  if (last) select(last.path);
                }}
              >
                {offer.label}
              </Dropdown.Item>
            ))}
            {!design.document.power.shunt && (
              <Dropdown.Item onClick={() => store.put("/power/shunt", {}, "Shunt added")}>Add a shunt</Dropdown.Item>
            )}
          </Dropdown.Menu>
        </Dropdown>
      }
      details={part ? <PartDetails key={part} id={part} /> : shunt ? <ShuntDetails /> : undefined}
      glance={GLANCE}
      caution="The pack's side is live whatever is switched off. Cap the far end of each lead before the near end is bolted down; fuses go in last."
    >
      {keys.length === 0 ? (
        <div className="empty-state">
          <h2>No path yet</h2>
          <p>
            Main fuse close to the post, main switch, busbars, a shunt in the negative; from there an inverter for AC
            and a fuse block with a circuit for each outlet. Each part arrives sized, and can be pinned to what you own.
          </p>
          {homeless ? (
            <Button
              size="sm"
              onClick={() =>
                store.change(homeless.remedies[0]!.patch as Operation[], "Power path laid out for the loads")
              }
            >
              Lay out a path for these loads
            </Button>
          ) : (
            <p className="mb-0">Put in loads first, or add a first outlet with “Add…”.</p>
          )}
        </div>
      ) : (
        <>
          <div className="tabs" role="group" aria-label="View">
            <button type="button" className="tab" aria-pressed={view === "diagram"} onClick={() => setView("diagram")}>
              diagram
            </button>
            <button type="button" className="tab" aria-pressed={view === "wires"} onClick={() => setView("wires")}>
              wires only
            </button>
          </div>
          {view === "diagram" && <PowerDiagram selected={selected} onSelect={select} />}
          <WireTable selected={part} onSelect={(key) => select(`/power/network/${key}`)} />
        </>
      )}
    </StationFrame>
  );
}
