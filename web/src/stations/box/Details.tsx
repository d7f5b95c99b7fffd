import Button from "react-bootstrap/Button";
import type { BoxThing, Place } from "../../api/client";
import { freshId } from "../../design/ids";
import { useSelection } from "../../design/selection";
import { useDesign, useStore } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { FigureRow } from "../../figures/FigureRow";
import { SelectField, TextField } from "../../figures/fields";
import { More } from "../../figures/More";
import { useOptions } from "../../figures/reference";
import { Asked } from "./Asked";
import { KeepCase } from "./ChooseCase";
import { BODY, CASE, FAN, FEATURE, FITTING, FIXTURE, PINNED, VENT } from "./fields";

const FIGURES: Record<string, string> = {
  width: "Width",
  depth: "Depth",
  height: "Height",
  mass: "Mass",
  cables: "Its cables need",
};

/** A thing that stands in the box or sits in a face: its body, and where it is. */
export function ThingDetails({ thing }: { thing: BoxThing }) {
  const store = useStore();
  const { design } = useDesign();
  const [, select] = useSelection();
  const place = design.document.box.places[thing.key];
  const out = () => {
    store.change([{ op: "remove", path: thing.place }], `${thing.name} taken out of its place`);
    store.say(`Taken out of its place: ${thing.name}.`, true);
    select("");
  };
  return (
    <>
      <div className="crumb">Box · {thing.how}</div>
      <div className="part-head">
        <h2>{thing.name}</h2>
        {place && (
          <Button variant="bare" size="sm" onClick={out}>
            take out
          </Button>
        )}
      </div>
      <dl className="figure-list">
        {Object.entries(FIGURES).map(
          ([name, label]) => thing.figures[name] && <FigureRow key={name} label={label} figure={thing.figures[name]} />,
        )}
        <OfHeat thing={thing} />
      </dl>
      <More label="by its own measures">
        <OwnBody thing={thing} />
      </More>
    </>
  );
}

/** What it gives off in the worst hour, and how warm it becomes there, of how much. */
function OfHeat({ thing }: { thing: BoxThing }) {
  const { figures } = useDesign().design.assessment;
  const gives = `forecast/hottest/warm/${thing.key}`;
  const most = `forecast/heat/most/${thing.key}`;
  const reached = thing.key === "pack" ? "forecast/hottest/hottest_pack" : "forecast/hottest/hottest_inside";
  return (
    <>
      {figures[gives] && <FigureRow label="Heat, worst hour" path={gives} />}
      {figures[most] && figures[reached] && (
        <div>
          <dt>{thing.key === "pack" ? "Warmest" : "Air there, warmest"}</dt>
          <dd>
            <Fig path={reached} /> of <Fig path={most} />
          </dd>
        </div>
      )}
    </>
  );
}

/** What was measured of a body; its entry is made with the first figure. */
function OwnBody({ thing }: { thing: BoxThing }) {
  const store = useStore();
  const at = `/box/bodies/${thing.key}`;
  if (store.get().ahead.box.bodies[thing.key]) return <Asked at={at} fields={BODY} />;
  return (
    <Button
      variant="quiet"
      size="sm"
      onClick={() => store.change([{ op: "add", path: at, value: {} }], `${thing.name} measured`)}
    >
      I measured it
    </Button>
  );
}

/** Where a thing is, how it lies, what holds it. */
export function PlaceDecisions({ thing, place }: { thing: BoxThing; place: Place }) {
  const at = thing.place;
  if (place.at === "face")
    return (
      <Asked
        at={at}
        fields={[
          { field: "face", label: "In the face", list: "OnFace.face" },
          { field: "x_mm", label: "Middle, from the left", unit: "mm" },
          { field: "y_mm", label: "Middle, over the floor", unit: "mm" },
          { field: "sealing", label: "Sealed", list: "OnFace.sealing", empty: "as its kind is" },
          PINNED,
        ]}
      />
    );
  return <InsideDecisions thing={thing} place={place} />;
}

const FACES_IN: [string, string][] = [
  ["floor", "the floor"],
  ["back", "the back, fixed to it"],
  ["front", "the front, fixed to it"],
  ["left", "the left side, fixed to it"],
  ["right", "the right side, fixed to it"],
  ["lid", "the lid, hanging"],
];

function InsideDecisions({ thing, place }: { thing: BoxThing; place: Extract<Place, { at: "inside" }> }) {
  const { design } = useDesign();
  const ups = useOptions("Inside.up").filter((o) => !thing.ups.length || thing.ups.includes(String(o.value)));
  const fixtures = Object.entries(design.document.box.fixtures).map(([key, f]) => ({
    value: `fixture:${key}`,
    label: f.name,
  }));
  const standsOn = [...FACES_IN.map(([value, label]) => ({ value, label })), ...fixtures];
  const counts = {
    x: !["left", "right"].includes(place.on ?? ""),
    y: !["front", "back"].includes(place.on ?? ""),
    z: ["front", "back", "left", "right"].includes(place.on ?? ""),
  };
  const at = thing.place;
  return (
    <>
      <div className="form-grid mt-2">
        <SelectField pointer={`${at}/on`} label="Stands on" options={standsOn} />
        <SelectField pointer={`${at}/turn`} label="Turned" list="Inside.turn" />
        {ups.length > 1 && <SelectField pointer={`${at}/up`} label="Lies" options={ups} />}
      </div>
      <Asked
        at={at}
        fields={[
          ...(counts.x ? [{ field: "x_mm", label: "From the left", unit: "mm" }] : []),
          ...(counts.y ? [{ field: "y_mm", label: "From the front", unit: "mm" }] : []),
          ...(counts.z ? [{ field: "z_mm", label: "Over the floor", unit: "mm" }] : []),
          PINNED,
        ]}
      />
      <Holds thing={thing} held={place.held ?? []} />
    </>
  );
}

/** What holds it down: each hold with its count, one more or one less. */
function Holds({ thing, held }: { thing: BoxThing; held: string[] }) {
  const store = useStore();
  const options = useOptions("hold");
  const put = (next: string[], label: string) => store.put(`${thing.place}/held`, next, `${thing.name}: ${label}`);
  const kinds = [...new Set(held)];
  const name = (key: string) => options.find((o) => o.value === key)?.label ?? key;
  return (
    <div className="field mt-2" role="group" aria-label={`What holds ${thing.name}`}>
      <span className="name">Held by</span>
      {kinds.length === 0 && <p className="faint mb-1">nothing</p>}
      {kinds.map((key) => {
        const count = held.filter((h) => h === key).length;
        const last = held.lastIndexOf(key);
        return (
          <div key={key} className="hold-row">
            <span>
              {count} × {name(key)}
            </span>
            <Button
              variant="bare"
              size="sm"
              aria-label={`one ${name(key)} less`}
              onClick={() => put(held.toSpliced(last, 1), `one ${name(key)} less`)}
            >
              −
            </Button>
            <Button
              variant="bare"
              size="sm"
              aria-label={`one ${name(key)} more`}
              disabled={held.length >= 8}
              onClick={() => put([...held, key], `one ${name(key)} more`)}
            >
              +
            </Button>
          </div>
        );
      })}
      <select
        className="form-select form-select-sm"
        aria-label={`Hold ${thing.name} by`}
        value=""
        disabled={held.length >= 8}
        onChange={(event) => put([...held, event.target.value], `held by ${name(event.target.value)}`)}
      >
        <option value="">hold it by…</option>
        {options
          .filter((o) => !kinds.includes(String(o.value)))
          .map((o) => (
            <option key={String(o.value)} value={String(o.value)}>
              {o.label}
            </option>
          ))}
      </select>
    </div>
  );
}

/** A shelf or block, or a vent or fan. */
export function OwnDetails({ at, name, crumb }: { at: string; name: string; crumb: string }) {
  const store = useStore();
  const { design } = useDesign();
  const [, select] = useSelection();
  const key = at.split("/").at(-1)!;
  const stand = Object.entries(design.document.box.places).filter(
    ([, place]) => place.at === "inside" && place.on === `fixture:${key}`,
  );
  const takeAway = () => {
    // What stands on it comes to the floor with it.
    const down = at.includes("/fixtures/")
      ? stand.map(([of]) => ({ op: "replace" as const, path: `/box/places/${of}/on`, value: "floor" }))
      : [];
    store.change([...down, { op: "remove", path: at }], `Taken away: ${name}`);
    store.say(`Taken away: ${name}.`, true);
    select("");
  };
  return (
    <>
      <div className="crumb">Box · {crumb}</div>
      <div className="part-head">
        <h2>{name}</h2>
        <Button variant="bare" size="sm" onClick={takeAway}>
          take away
        </Button>
      </div>
    </>
  );
}

export function FixtureDecisions({ at }: { at: string }) {
  return (
    <>
      <div className="form-grid mt-2">
        <TextField pointer={`${at}/name`} label="Name" />
      </div>
      <Asked at={at} fields={FIXTURE} />
    </>
  );
}

export function FittingDecisions({ at, kind }: { at: string; kind: string }) {
  return (
    <>
      <div className="form-grid mt-2">
        <TextField pointer={`${at}/name`} label="Name" />
      </div>
      <Asked at={at} fields={FITTING} />
      {kind === "fan" && <Asked at={at} fields={FAN} />}
      {["fan", "vent"].includes(kind) && <Asked at={at} fields={VENT} />}
    </>
  );
}

/** The box itself. */
export function CaseDetails({ onOther }: { onOther: () => void }) {
  const { design } = useDesign();
  return (
    <>
      <div className="crumb">Box</div>
      <div className="part-head">
        <h2>{design.document.box.case?.name}</h2>
        <Button variant="bare" size="sm" onClick={onOther}>
          take another…
        </Button>
      </div>
    </>
  );
}

/** What is decided of the box itself, and what it has on its faces. */
export function CaseDecisions() {
  const store = useStore();
  const { design } = useDesign();
  const features = design.document.box.case?.features ?? {};
  const kinds = useOptions("Feature.kind");
  const faces = useOptions("Feature.face");
  const add = () => {
    const key = freshId("latch", features);
    const value = { kind: "latch", face: "front", x_mm: 60, y_mm: 60, width_mm: 50, height_mm: 50 };
    store.change([{ op: "add", path: `/box/case/features/${key}`, value }], "Something on a face added");
  };
  return (
    <>
      <div className="form-grid mt-2">
        <TextField pointer="/box/case/name" label="Name" />
      </div>
      <Asked at="/box/case" fields={CASE} />
      <KeepCase />
      <h3 className="mt-3">On its faces</h3>
      {Object.entries(features).map(([key, feature]) => (
        <More
          key={key}
          label={`${kinds.find((k) => k.value === feature.kind)?.label ?? feature.kind}, ${
            faces.find((f) => f.value === feature.face)?.label ?? feature.face
          }`}
        >
          <Asked at={`/box/case/features/${key}`} fields={FEATURE} />
          <Button
            variant="bare"
            size="sm"
            className="ps-0"
            onClick={() =>
              store.change([{ op: "remove", path: `/box/case/features/${key}` }], `Taken away: ${feature.kind}`)
            }
          >
            take it away
          </Button>
        </More>
      ))}
      <Button variant="quiet" size="sm" className="mt-2" onClick={add}>
        Something on a face…
      </Button>
    </>
  );
}
