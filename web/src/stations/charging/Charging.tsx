import Button from "react-bootstrap/Button";
import Dropdown from "react-bootstrap/Dropdown";
import { useState } from "react";
import type { SourceKind } from "../../api/client";
import { freshId } from "../../design/ids";
import { belongsTo, useSelection } from "../../design/selection";
import { useDesign, useStore } from "../../design/store";
import { ChargingDay, ChargingNight } from "../../drawings/ChargingDay";
import { useRun, type Season } from "../../drawings/run";
import { Fig } from "../../figures/Figure";
import { CheckField, SelectField } from "../../figures/fields";
import { More } from "../../figures/More";
import { QuantityInput } from "../../figures/QuantityInput";
import { NotYet } from "../../figures/NotYet";
import { useReference } from "../../figures/reference";
import { Tabs } from "../../figures/Tabs";
import { StationFrame } from "../StationFrame";
import { Connecting } from "./Connecting";
import { SourceDecisions, SourceDetails } from "./SourceDetails";
import { OverTheYear, SunFields } from "./OverTheYear";
import { SourceTable } from "./SourceTable";

const GLANCE: [string, string][] = [
  ["Into the pack at once", "charging/sums/pack"],
  ["The pack may be charged with", "pack/charge_limit"],
  ["Taken from the pack a day", "power/drawn_day"],
  ["Full, hottest days", "forecast/hottest/full_at"],
  ["Full, coldest days", "forecast/coldest/full_at"],
  ["To warm the pack, coldest", "charging/warming/energy"],
  ["The pad takes for that", "charging/warming/hours"],
  ["Time to full, coldest", "forecast/coldest/time_to_full"],
];
const YEAR = { year: "over the year" } as const;
const VIEWS = { day: "the day", night: "until it is full", connecting: "connecting" } as const;
type View = keyof typeof VIEWS | keyof typeof YEAR;
const FIRST: [string, string][] = [
  ["mains", "A charger at the wall"],
  ["vehicle", "A vehicle"],
  ["solar", "Solar panels"],
];

export default function Charging() {
  const store = useStore();
  const { design } = useDesign();
  const [selected, select] = useSelection();
  const [picked, setView] = useState<View>();
  const [season, setSeason] = useState<Season>("hottest");
  const kinds = useReference()?.sources ?? [];
  const run = useRun(season);
  const sources = design.document.charging.sources;
  const keys = Object.keys(sources);
  const chosen = keys.find((key) => belongsTo(selected, `/charging/sources/${key}`));
  const figures = design.assessment.figures;
  const full = `forecast/${season}/full_at`;
  // What usually charges a pack is played where nothing that charges it is decided.
  const standsIn = !design.assessment.charging.some((s) => s.bank === "pack");
  const sunny = [...new Set(design.assessment.charging.filter((s) => s.kind === "solar").map((s) => s.bank))];
  const view = picked === "year" && !sunny.length ? "day" : (picked ?? (sunny.length ? "year" : "day"));
  const add = (kind: SourceKind) => {
    const key = freshId(kind.first_name, store.get().ahead.charging.sources);
    const value = { kind: kind.key, name: kind.first_name };
    store.change([{ op: "add", path: `/charging/sources/${key}`, value }], `Source added: ${kind.first_name}`);
    select(`/charging/sources/${key}`);
  };
  return (
    <StationFrame
      station="charging"
      title="Charging"
      lead={
        keys.length === 0 ? (
          "How the energy gets back in."
        ) : (
          <>
            {figures["charging/sums/pack"] && (
              <>
                Up to <Fig path="charging/sums/pack" /> into the pack at once.{" "}
              </>
            )}
            {standsIn ? (
              "Nothing that charges the pack is decided yet."
            ) : figures[full] ? (
              <>
                In the {season} days the charge ends at <Fig path={full} />.
              </>
            ) : (
              run.data && <>In the {season} days it does not end within the hours there are.</>
            )}
          </>
        )
      }
      tools={
        <Dropdown align="end">
          <Dropdown.Toggle variant="quiet" size="sm" data-new>
            Add a source…
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {kinds.map((kind) => (
              <Dropdown.Item key={kind.key} onClick={() => add(kind)}>
                {kind.add[0]!.toUpperCase() + kind.add.slice(1)}
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
      }
      details={chosen ? <SourceDetails key={chosen} id={chosen} /> : undefined}
      decisions={chosen ? <SourceDecisions key={chosen} id={chosen} /> : undefined}
      glance={GLANCE}
      caution="Never charge unattended, in an escape route, or near what burns. Lead-acid gives off hydrogen: air, and no sparks. Lithium is not charged below freezing."
    >
      {keys.length === 0 ? (
        <div className="empty-state">
          <h2>Nothing charges it yet</h2>
          <p>
            Say what brings the energy back: its kind, its current, its hours. Set point and current are chosen by the
            pack; cable and fuse follow where it joins the power path.
          </p>
          {FIRST.map(([key, label], n) => {
            const kind = kinds.find((k) => k.key === key);
            return (
              kind && (
                <Button
                  key={key}
                  variant={n ? "quiet" : "primary"}
                  size="sm"
                  className="me-2"
                  onClick={() => add(kind)}
                >
                  {label}
                </Button>
              )
            );
          })}
        </div>
      ) : (
        <>
          <div className="tabs" role="group" aria-label="View">
            <Tabs views={sunny.length ? { ...YEAR, ...VIEWS } : VIEWS} view={view} onView={setView} />
            {(view === "day" || view === "night") && (
              <label className="field inline ms-auto" htmlFor="charging-season">
                <span className="name">in its</span>
                <select
                  id="charging-season"
                  className="form-select form-select-sm w-auto"
                  value={season}
                  onChange={(event) => setSeason(event.target.value as Season)}
                >
                  <option value="hottest">hottest days</option>
                  <option value="coldest">coldest days</option>
                </select>
              </label>
            )}
          </div>
          {view === "connecting" ? (
            <Connecting />
          ) : view === "year" ? (
            <OverTheYear banks={sunny} />
          ) : run.data ? (
            view === "day" ? (
              <ChargingDay run={run.data} selected={selected} onSelect={select} />
            ) : (
              <ChargingNight run={run.data} />
            )
          ) : (
            <NotYet error={run.error} doing="Simulating…" />
          )}
          {standsIn && (view === "day" || view === "night") && (
            <p className="legend">
              The curve is that of a usual charger while it is plugged in: none of these charges the pack.
            </p>
          )}
          <SourceTable selected={selected} onSelect={select} season={season} />
          <div className="form-grid mt-2">
            <SelectField pointer="/charging/goal" label="Charged" list="Charging.goal" />
            {sunny.length > 0 && <SunFields />}
          </div>
          {(figures["charging/warming/hold"] || design.document.charging.pad.watts) && (
            <More label="a pad that warms the pack">
              <div className="form-grid">
                <QuantityInput pointer="/charging/pad/watts" label="Heating pad" unit="W" optional placeholder="none" />
                <QuantityInput
                  pointer="/charging/pad/area_cm2"
                  label="Its area"
                  unit="cm²"
                  optional
                  placeholder="not known"
                />
              </div>
              <CheckField pointer="/charging/pad/cut_out" label="It has a thermal cut-out of its own" />
            </More>
          )}
        </>
      )}
    </StationFrame>
  );
}
