import { useState } from "react";
import { useSelection } from "../../design/selection";
import { StationFrame } from "../StationFrame";
import { lazily } from "../../design/lazily";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { Tabs } from "../../figures/Tabs";
import { AsItStands } from "./AsItStands";
import { Limits } from "./Limits";
import { PackDetails } from "./PackDetails";

const Rack = lazily(() => import("./rack/Rack"), <p className="faint">Opening…</p>);
const Suggestions = lazily(() => import("./Suggestions"), <p className="faint">Opening…</p>);

const VIEWS = {
  stands: "as it stands",
  limits: "limits",
  rack: "cell rack",
  serve: "three that would serve",
} as const;
type View = keyof typeof VIEWS;

const GLANCE: [string, string][] = [
  ["Cells in all", "pack/cells"],
  ["Resistance", "pack/resistance"],
  ["Fault at the posts", "pack/fault"],
  ["Gives", "pack/continuous"],
  ["Burst", "pack/burst"],
  ["May be charged with", "pack/charge_limit"],
  ["Cycles to 80 %", "pack/cycles"],
  ["Mass", "pack/mass"],
  ["Cost", "pack/cost"],
  ["A usable kWh", "pack/cost_per_kwh"],
];

export default function Pack() {
  const { design } = useDesign();
  const [selected] = useSelection();
  const [view, setView] = useState<View>("stands");
  const isSelected = selected.startsWith("/pack/") || selected === "/pack";
  return (
    <StationFrame
      station="pack"
      title="Pack"
      lead={
        <>
          <Fig path="pack/v_nom" />, <Fig path="pack/capacity" />: <Fig path="pack/nominal" /> nominal,{" "}
          <Fig path="power/available" /> usable on the coldest day. Gives <Fig path="pack/continuous" />, asked for{" "}
          <Fig path="power/current" />.
        </>
      }
      details={isSelected ? <PackDetails selected={selected} pack={design.document.pack} /> : undefined}
      glance={GLANCE}
      caution="A pack cannot be switched off. Cover every post but the one in hand, rings and watches off, insulated tools, eye protection. Never charge it unattended or in an escape route. A damaged or swollen cell goes out, in sand, to a collection point."
    >
      <div className="tabs" role="group" aria-label="Views of the pack">
        <Tabs views={VIEWS} view={view} onView={setView} />
      </div>
      {view === "stands" && <AsItStands />}
      {view === "limits" && <Limits />}
      {view === "rack" && <Rack onPlaced={() => setView("stands")} />}
      {view === "serve" && <Suggestions onTaken={() => setView("stands")} />}
    </StationFrame>
  );
}
