import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Fragment, useState } from "react";
import Button from "react-bootstrap/Button";
import Dropdown from "react-bootstrap/Dropdown";
import { api, take } from "../../api/client";
import { useNavigate } from "react-router";
import { belongsTo, useSelection } from "../../design/selection";
import { stationOf } from "../../design/stations";
import { StationFrame } from "../StationFrame";
import { useDesign, useStore } from "../../design/store";
import { PowerDiagram } from "../../drawings/PowerDiagram";
import { Fig } from "../../figures/Figure";
import { Tabs } from "../../figures/Tabs";
import { freshId } from "../../design/ids";
import { AcSide } from "./AcSide";
import { OutletItems } from "./AddParts";
import { BankDetails } from "./BankDetails";
import { NegativeDetails, ShuntDetails } from "./NegativeSide";
import { PartDetails } from "./PartDetails";
import { PasteWires } from "./PasteWires";
import { PostsDetails } from "./PostsDetails";
import { CutOffs, IdleDrain } from "./Standby";
import { WireTable } from "./WireTable";

const GLANCE: [string, string][] = [
  ["Running peak", "power/current"],
  ["Worst surge", "power/surge"],
  ["Fault at the posts", "pack/fault"],
  ["Main path, warm", "power/main_resistance"],
  ["Lost in cables a day", "power/wiring_day"],
  ["Shunt", "power/shunt/rating"],
  ["On the shelf, switch open", "power/shelf_off"],
];

const VIEWS = { diagram: "diagram", wires: "wire table", cutoffs: "cut-offs", idle: "idle", ac: "AC side" } as const;
type View = keyof typeof VIEWS;

/** The diagram with parts folded by hand, or at a moment; nothing until the builder asks for either. */
function useLaid(folded: string[] | null, moment: number | null) {
  const { design } = useDesign();
  const wanted = folded !== null || moment !== null;
  const { data } = useQuery({
    queryKey: ["diagram", design.id, design.revision, folded, moment],
    queryFn: () =>
      take(
        api.GET("/api/designs/{design_id}/diagram", {
          params: { path: { design_id: design.id }, query: { folded: folded?.join(","), step: moment ?? undefined } },
        }),
      ),
    enabled: wanted,
    placeholderData: keepPreviousData,
  });
  return wanted ? data : undefined;
}

/** The steps of the schedule, in words. */
function useMoments() {
  const { design } = useDesign();
  return useQuery({
    queryKey: ["moments", design.id, design.document.loads],
    queryFn: () => take(api.GET("/api/designs/{design_id}/moments", { params: { path: { design_id: design.id } } })),
    placeholderData: keepPreviousData,
  }).data;
}

export default function Power() {
  const store = useStore();
  const { design } = useDesign();
  const [selected, select] = useSelection();
  const [view, setView] = useState<View>("diagram");
  const [folded, setFolded] = useState<string[] | null>(null);
  const [moment, setMoment] = useState<number | null>(null);
  const [pasting, setPasting] = useState(false);
  const laid = useLaid(folded, moment);
  const moments = useMoments();
  const fold = (key: string) => {
    const before = folded ?? design.diagram.areas.filter((area) => area.behind > 0).map((area) => area.fold);
    setFolded(before.includes(key) ? before.filter((k) => k !== key) : [...before, key]);
  };
  const { network, banks } = design.document.power;
  const bank = Object.keys(banks).find((key) => belongsTo(selected, `/power/banks/${key}`));
  const keys = Object.keys(network);
  const part = keys.find(
    (key) => selected === `/power/network/${key}` || selected.startsWith(`/power/network/${key}/`),
  );
  const shunt = selected.startsWith("/power/shunt") && design.document.power.shunt;
  const navigate = useNavigate();
  const open = (place: string) =>
    place.startsWith("/power/")
      ? select(place)
      : void navigate(`/build/${design.id}/${stationOf(place)}?at=${encodeURIComponent(place)}`);
  const laidOut = design.assessment.offers.find((offer) => offer.source === "");
  const hottest = keys
    .filter((key) => `power/${key}/run/loading` in design.assessment.figures)
    .sort(
      (a, b) =>
        Number(design.assessment.figures[`power/${b}/run/loading`]!.value) -
        Number(design.assessment.figures[`power/${a}/run/loading`]!.value),
    )[0];
  const layOut = laidOut && (
    <Button size="sm" onClick={() => store.change(laidOut.patch, "Power path laid out for the loads")}>
      {laidOut.label}
    </Button>
  );
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
            <OutletItems source="pack" />
            {Object.entries(banks).map(([key, bank]) => (
              <Fragment key={key}>
                <Dropdown.Header>on {bank.name}</Dropdown.Header>
                <OutletItems source={key} />
              </Fragment>
            ))}
            <Dropdown.Divider />
            <Dropdown.Item
              onClick={() => {
                const ahead = store.get().ahead.power;
                const key = freshId("second bank", { ...ahead.network, ...ahead.banks });
                store.change(
                  [{ op: "add", path: `/power/banks/${key}`, value: { name: "Second bank" } }],
                  "Second bank added",
                );
                select(`/power/banks/${key}`);
              }}
            >
              Add a second bank
            </Dropdown.Item>
            <Dropdown.Item
              onClick={() => {
                const bonded = !design.document.power.chassis_bond;
                store.put("/power/chassis_bond", bonded, bonded ? "Negative bonded to the chassis" : "Bond taken away");
              }}
            >
              {design.document.power.chassis_bond
                ? "Take away the bond to the chassis"
                : "Bond the negative to the chassis"}
            </Dropdown.Item>
            {!design.document.power.shunt && (
              <Dropdown.Item onClick={() => store.put("/power/shunt", {}, "Shunt added")}>Add a shunt</Dropdown.Item>
            )}
          </Dropdown.Menu>
        </Dropdown>
      }
      details={
        part ? (
          <PartDetails key={part} id={part} />
        ) : bank ? (
          <BankDetails key={bank} id={bank} />
        ) : selected === "/pack" ? (
          <PostsDetails />
        ) : shunt ? (
          <ShuntDetails />
        ) : selected.startsWith("/power/negative") ? (
          <NegativeDetails />
        ) : undefined
      }
      glance={GLANCE}
      caution="The pack's side is live whatever is switched off. Cap the far end of each lead before the near end is bolted down; fuses go in last."
    >
      {keys.length === 0 && Object.keys(banks).length === 0 ? (
        <div className="empty-state">
          <h2>No path yet</h2>
          <p>
            Main fuse close to the post, main switch, busbars, a shunt in the negative; from there an inverter for AC
            and a fuse block with a circuit for each outlet. Each part arrives sized, and can be pinned to what you own.
          </p>
          {layOut ?? <p className="mb-0">Put in loads first, or add a first outlet with “Add…”.</p>}
        </div>
      ) : (
        <>
          {layOut && (
            <div className="waiting-loads">
              <span>Some loads have no outlet yet.</span>
              {layOut}
            </div>
          )}
          <div className="tabs" role="group" aria-label="View">
            <Tabs views={VIEWS} view={view} onView={setView} />
            {view === "diagram" && (
              <label className="field inline ms-auto" htmlFor="shown-at">
                <span className="name">shown at</span>
                <select
                  id="shown-at"
                  className="form-select form-select-sm w-auto"
                  value={moment ?? ""}
                  onChange={(event) => setMoment(event.target.value === "" ? null : Number(event.target.value))}
                >
                  <option value="">the worst minute</option>
                  {(moments ?? []).map((label, i) => (
                    <option key={i} value={i}>
                      {label}
                    </option>
                  ))}
                </select>
              </label>
            )}
            {view === "wires" && (
              <span className="ms-auto d-flex gap-2">
                <Button variant="quiet" size="sm" onClick={() => setPasting(true)}>
                  Paste…
                </Button>
                <a className="btn btn-quiet btn-sm" href={`/api/designs/${design.id}/wires.csv`}>
                  CSV
                </a>
              </span>
            )}
          </div>
          {view === "diagram" && (
            <>
              <PowerDiagram selected={selected} onSelect={select} laid={laid} onFold={fold} />
              <p className="legend">
                Keep it as{" "}
                <a href={`/api/designs/${design.id}/power.svg`} download>
                  SVG
                </a>
                , or print it with its wire table:{" "}
                <a href={`/api/designs/${design.id}/power.pdf`} target="_blank" rel="noreferrer">
                  A4
                </a>
                ,{" "}
                <a href={`/api/designs/${design.id}/power.pdf?paper=letter`} target="_blank" rel="noreferrer">
                  letter
                </a>
                .
              </p>
            </>
          )}
          {(view === "diagram" || view === "wires") && <WireTable selected={selected} onSelect={open} />}
          {view === "cutoffs" && <CutOffs />}
          {view === "idle" && <IdleDrain />}
          {view === "ac" && <AcSide />}
          {pasting && <PasteWires onHide={() => setPasting(false)} />}
        </>
      )}
    </StationFrame>
  );
}
