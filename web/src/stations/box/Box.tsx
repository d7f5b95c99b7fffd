import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import Dropdown from "react-bootstrap/Dropdown";
import { api, take, type BoxDrawn, type BoxThing, type Operation, type Severity } from "../../api/client";
import { freshId } from "../../design/ids";
import { belongsTo, useSelection } from "../../design/selection";
import { useDesign, useStore, valueAt } from "../../design/store";
import { BoxView, type Moved } from "../../drawings/BoxView";
import { Fig } from "../../figures/Figure";
import { NotYet } from "../../figures/NotYet";
import { Tabs } from "../../figures/Tabs";
import { StationFrame } from "../StationFrame";
import {
  CaseDecisions,
  CaseDetails,
  FittingDecisions,
  FixtureDecisions,
  OwnDetails,
  PlaceDecisions,
  ThingDetails,
} from "./Details";
import { ChooseCase } from "./ChooseCase";
import { PartsTable } from "./PartsTable";
import { Heat, HeatOfTheDays } from "./Heat";
import { Masses } from "./Masses";
import { Model } from "./Model";
import { ProposeLayout } from "./ProposeLayout";
import { TemplateSheet } from "./TemplateSheet";

const VIEWS = {
  stands: "as it stands",
  model: "3D",
  faces: "faces",
  heat: "heat",
  mass: "mass",
  template: "template",
} as const;
type Shown = keyof typeof VIEWS | "choose";
const SIDES = ["front", "back", "left", "right", "lid", "floor"] as const;
type Side = (typeof SIDES)[number];
const WORST: Severity[] = ["stop", "mend", "note"];
const GLANCE: [string, string][] = [
  ["Mass, as it stands", "box/mass"],
  ["On the left hand", "box/hand_left"],
  ["On the right hand", "box/hand_right"],
  ["Centre, from the left", "box/centre_x"],
  ["Centre, over the floor", "box/centre_z"],
  ["Tips at", "box/tips_at"],
  ["Cables with lugs", "box/wiring"],
  ["Inside, hottest", "forecast/hottest/hottest_inside"],
  ["Left running", "forecast/hottest/rest_inside"],
];
const NEW_FITTINGS: [string, string, object][] = [
  ["vent", "a vent", { width_mm: 60 }],
  ["fan", "a fan", { width_mm: 76, inside_mm: 26 }],
  ["gland", "a cable gland", { width_mm: 20, inside_mm: 20, sealing: "tight" }],
  ["grommet", "a grommet", { width_mm: 18 }],
  ["relief", "a relief valve or panel", { width_mm: 24, sealing: "splash" }],
  ["drain", "a drain", { width_mm: 8, face: "floor" }],
];
const capital = (text: string) => text[0]!.toUpperCase() + text.slice(1);

export default function Box() {
  const { design } = useDesign();
  const [selected, select] = useSelection();
  const [picked, setPicked] = useState<Shown>("stands");
  const [chosen, setSide] = useState<{ of: string; side: Side }>({ of: "", side: "front" });
  const worst = useWorst();
  const { data, error } = useQuery({
    queryKey: ["box", design.id, design.revision],
    queryFn: () => take(api.GET("/api/designs/{design_id}/box", { params: { path: { design_id: design.id } } })),
    placeholderData: keepPreviousData,
    gcTime: 0,
  });
  const { case: box, places, fixtures, fittings } = design.document.box;
  const things = data?.things ?? [];
  const shown: Shown = box ? picked : "choose";
  const thing = things.find((t) => belongsTo(selected, t.place));
  const place = thing && places[thing.key];
  const own = /^\/box\/(fixtures|fittings)\/([^/]+)/.exec(selected);
  const fixture = own?.[1] === "fixtures" ? fixtures[own[2]!] : undefined;
  const fitting = own?.[1] === "fittings" ? fittings[own[2]!] : undefined;
  // What is picked on a face brings that face, until another is asked for.
  const onFace = (fitting ?? (place?.at === "face" ? place : undefined))?.face;
  const side = chosen.of === selected ? chosen.side : (onFace ?? chosen.side);
  const ofCase = box && belongsTo(selected, "/box/case");
  const nowhere = things.filter((t) => t.where === "nowhere");
  return (
    <StationFrame
      station="box"
      title="Box"
      lead={
        box ? (
          <>
            <Fig path="box/mass" /> with all in it, in a box of <Fig path="box/length" /> × <Fig path="box/width" /> ×{" "}
            <Fig path="box/height" /> inside
            {nowhere.length === 0
              ? "."
              : `; ${nowhere.length} of its parts ${nowhere.length > 1 ? "have" : "has"} no place yet.`}
          </>
        ) : (
          "What it is all fitted into."
        )
      }
      tools={box && <Tools things={things} />}
      details={
        thing ? (
          <ThingDetails key={thing.key} thing={thing} />
        ) : fixture ? (
          <OwnDetails at={own![0]} name={fixture.name} crumb="shelf or block" />
        ) : fitting ? (
          <OwnDetails at={own![0]} name={fitting.name} crumb={fitting.kind} />
        ) : ofCase ? (
          <CaseDetails onOther={() => setPicked("choose")} />
        ) : undefined
      }
      decisions={
        thing && place ? (
          <PlaceDecisions key={thing.key} thing={thing} place={place} />
        ) : thing ? (
          <PlaceIt thing={thing} />
        ) : fixture ? (
          <FixtureDecisions key={own![0]} at={own![0]} />
        ) : fitting ? (
          <FittingDecisions key={own![0]} at={own![0]} kind={fitting.kind} />
        ) : ofCase ? (
          <CaseDecisions />
        ) : undefined
      }
      glance={GLANCE}
      caution="Two people lift what is over 23 kg. Drilling: eyes and lungs, and nothing live behind it. The pack goes in last, its terminals covered."
    >
      {!box && (
        <div className="empty-state">
          <h2>No box yet</h2>
          <p>
            Take one by its inside, or build your own: then every part can be stood in it to scale, and it is seen what
            fits, what it weighs, and whether the lid shuts.
          </p>
        </div>
      )}
      {box && (
        <div className="tabs" role="group" aria-label="View">
          <Tabs views={VIEWS} view={shown === "choose" ? "stands" : shown} onView={setPicked} />
          <Button
            variant="bare"
            size="sm"
            className="ms-auto"
            onClick={() => {
              setPicked("stands");
              select("/box/case");
            }}
          >
            the box itself
          </Button>
        </div>
      )}
      {shown === "choose" ? (
        <ChooseCase onDone={() => setPicked("stands")} />
      ) : !data?.hollow ? (
        <NotYet error={error} doing="Drawing the box…" />
      ) : shown === "stands" ? (
        <>
          <div className="box-views">
            <div>
              <Drawn data={data} keys={["above", "front"]} />
            </div>
            <div>
              <div className="tabs mb-0" role="group" aria-label="Face">
                {SIDES.map((s) => (
                  <button
                    key={s}
                    type="button"
                    className="tab tight"
                    aria-pressed={side === s}
                    onClick={() => setSide({ of: selected, side: s })}
                  >
                    {s}
                  </button>
                ))}
              </div>
              <Drawn data={data} keys={[`face-${side}`, "side"]} />
            </div>
          </div>
          <HeatOfTheDays first />
          <PartsTable things={things} selected={selected} onSelect={select} />
          <p className="mt-2">
            {[
              ["Print the layout, A4", "layout.pdf"],
              ["letter", "layout.pdf?paper=letter"],
              ["SVG", "layout.svg"],
            ].map(([label, file]) => (
              <a
                key={file}
                className="btn btn-bare btn-sm"
                href={`/api/designs/${design.id}/${file}`}
                target="_blank"
                rel="noreferrer"
              >
                {label}
              </a>
            ))}
          </p>
        </>
      ) : shown === "model" && box ? (
        <>
          <Model
            data={{ ...data, hollow: data.hollow }}
            box={box}
            selected={thing?.place ?? own?.[0] ?? ""}
            onSelect={select}
            worst={worst}
            flat={
              <div className="box-faces">
                <Drawn data={data} keys={["above", "front", "side"]} />
              </div>
            }
          />
          <PartsTable things={things} selected={selected} onSelect={select} />
        </>
      ) : shown === "heat" ? (
        <Heat />
      ) : shown === "faces" ? (
        <div className="box-faces">
          <Drawn data={data} keys={SIDES.map((s) => `face-${s}`)} />
        </div>
      ) : shown === "template" ? (
        <TemplateSheet holes={data.holes} />
      ) : (
        <>
          <Masses things={things} />
          <div className="box-faces">
            <Drawn data={data} keys={["above", "side"]} />
          </div>
        </>
      )}
    </StationFrame>
  );
}

/** The worst that is found of a place of the design. */
function useWorst() {
  const { findings } = useDesign().design.assessment;
  return (pointer: string) => {
    const own = findings.filter((f) => belongsTo(f.place, pointer));
    return WORST.find((severity) => own.some((f) => f.severity === severity));
  };
}

/** Some views of the box, in which things are moved. */
function Drawn({ data, keys }: { data: BoxDrawn; keys: string[] }) {
  const store = useStore();
  const { design } = useDesign();
  const [selected, select] = useSelection();
  const worst = useWorst();
  const { hollow } = data;
  if (!hollow) return null;
  const features = Object.values(design.document.box.case?.features ?? {});
  const move = ({ place, by }: Moved, keys: boolean) => {
    const { ahead } = store.get();
    const patch: Operation[] = Object.entries(by).map(([axis, mm]) => {
      const path = `${place}/${axis}_mm`;
      return { op: "replace", path, value: Math.round((Number(valueAt(ahead, path) ?? 0) + mm) * 10) / 10 };
    });
    const name = data.handles.find((h) => h.place === place)?.name ?? "part";
    // Step after step of the arrow keys is one step of undo.
    store.change(patch, `${name} moved`, keys ? `${place}/moved` : "");
  };
  const turn = (place: string) => {
    const at = valueAt(store.get().ahead, place) as { turn?: number; at?: string } | undefined;
    if (at?.turn === undefined) return;
    store.put(`${place}/turn`, at.at === "face" ? 90 - at.turn : (at.turn + 90) % 360, "turned");
  };
  return keys.map((key) => {
    const view = data.views.find((v) => v.key === key);
    if (!view) return null;
    const face = key.replace("face-", "");
    const zones = features
      .filter((f) => f.face === face)
      .map((f): [string, [number, number, number, number, boolean]] => [
        `a ${f.kind}`,
        [f.x_mm, f.y_mm, f.width_mm, f.height_mm, false],
      ]);
    return (
      <div key={key} className="squared">
        <BoxView
          view={view}
          handles={data.handles}
          hollow={hollow}
          zones={zones}
          selected={selected}
          onSelect={select}
          onMove={move}
          onTurn={turn}
          worst={worst}
        />
      </div>
    );
  });
}

/** Fetches clear places for one thing, or for all that have none, and stands them there. */
function usePlacing() {
  const store = useStore();
  const { design } = useDesign();
  return (thing?: BoxThing) =>
    void store.prepare(async () => {
      try {
        const { patch, left } = await take(
          api.GET("/api/designs/{design_id}/box/places", {
            params: { path: { design_id: design.id }, query: thing ? { thing: thing.key } : {} },
          }),
        );
        if (patch.length) store.change(patch, thing ? `${thing.name} placed` : `${patch.length} parts placed`);
        store.say(
          left.length ? `There is no clear place for ${left.join(", ")}.` : "Placed where it is clear.",
          !left.length,
        );
      } catch (error) {
        store.say(`Not placed: ${(error as Error).message}`);
      }
    });
}

function PlaceIt({ thing }: { thing: BoxThing }) {
  const place = usePlacing();
  return (
    <Button size="sm" onClick={() => place(thing)}>
      {thing.where === "outside" ? "Carry it in the box" : "Place it where it is clear"}
    </Button>
  );
}

function Tools({ things }: { things: BoxThing[] }) {
  const store = useStore();
  const place = usePlacing();
  const [, select] = useSelection();
  const nowhere = things.filter((t) => t.where === "nowhere");
  const [proposing, setProposing] = useState(false);
  const { box } = store.get().ahead;
  const fit = ([kind, label, more]: (typeof NEW_FITTINGS)[number]) => {
    const name = capital(label.replace(/^an? /, ""));
    const key = freshId(name, box.fittings);
    const middle = {
      x_mm: Math.round((box.case?.width_mm ?? 200) / 2),
      y_mm: Math.round((box.case?.height_mm ?? 200) / 2),
    };
    const value = { kind, name, face: "left", ...middle, ...more };
    store.change([{ op: "add", path: `/box/fittings/${key}`, value }], `${name} cut in`);
    select(`/box/fittings/${key}`);
  };
  const shelf = () => {
    const key = freshId("shelf", box.fixtures);
    const { length_mm: width_mm = 400, width_mm: depth_mm = 300, height_mm: high = 200 } = box.case ?? {};
    const value = { name: "Shelf", z_mm: Math.round(high / 2), width_mm, depth_mm, height_mm: 9 };
    store.change([{ op: "add", path: `/box/fixtures/${key}`, value }], "Shelf added");
    select(`/box/fixtures/${key}`);
  };
  return (
    <>
      {nowhere.length > 0 && (
        <Button size="sm" onClick={() => place()}>
          Place what has no place
        </Button>
      )}
      {things.length > 0 && (
        <Button variant="quiet" size="sm" onClick={() => setProposing(true)}>
          Propose a layout…
        </Button>
      )}
      {proposing && <ProposeLayout things={things} onHide={() => setProposing(false)} />}
      <Dropdown align="end">
        <Dropdown.Toggle variant="quiet" size="sm" data-new>
          Add to the box…
        </Dropdown.Toggle>
        <Dropdown.Menu>
          {NEW_FITTINGS.map((fitting) => (
            <Dropdown.Item key={fitting[0]} onClick={() => fit(fitting)}>
              {capital(fitting[1])}
            </Dropdown.Item>
          ))}
          <Dropdown.Item onClick={shelf}>A shelf, divider or block</Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
    </>
  );
}
