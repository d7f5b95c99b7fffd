import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import type { PartField } from "../../api/client";
import { useSelection } from "../../design/selection";
import { valueAt, useDesign, useStore } from "../../design/store";
import { ChoiceRow } from "../../figures/ChoiceRow";
import { DaysOn } from "../../figures/DaysOn";
import { Decisions } from "../../figures/Decision";
import { TextField } from "../../figures/fields";
import { FigureRow } from "../../figures/FigureRow";
import { More } from "../../figures/More";
import { useReference } from "../../figures/reference";

/** Choices and figures of a source, as (figure, label), what decides first; those that it has not are left out. */
const CHOICES: [string, string][] = [
  ["one", "Current"],
  ["in_series", "Panels in a string"],
  ["controller", "Controller"],
  ["tilt", "Tilt"],
  ["facing", "Facing"],
  ["fuse", "Fuse at its battery"],
  ["run/gauge", "Cable from there"],
];
const FIRST: [string, string][] = [
  ["current", "Into what it charges"],
  ["set_point", "Set point"],
  ["at_pack", "Seen there in the end"],
  ["held", "Held when full"],
  ["tail", "Ends at"],
  ["taken_w", "It takes"],
  ["wall_a", "From the wall"],
  ["circuit_a", "On that circuit"],
  ["input_a", "Taken from what feeds it"],
  ["voc_cold", "Open, cold"],
  ["vmp_hot", "Working, hot"],
  ["output_cold", "Cold clear day"],
  ["output_hot", "In the heat"],
];
const FURTHER: [string, string][] = [
  ["efficiency", "Efficiency"],
  ["drop", "Drop of the diode"],
  ["heat", "Its own heat"],
  ["allowed_a", "The circuit carries for hours"],
  ["lasting_a", "The alternator gives for long"],
  ["run/drop", "Drop of that cable"],
  ["isc", "Short-circuit current"],
  ["string_fuse", "Least fuse of a string"],
  ["strings", "Strings side by side"],
  ["clipped", "Clipped on a cold clear day"],
  ["clipped_days", "Clipped in a year"],
];
/** What every source is asked for stands behind what its kind is asked for, and opens. */
const SETTINGS = "set_v";
/** What a maker's sheet says is asked apart: most take what is typical. */
const ofASheet = (field: PartField) => field.field.includes("sheet/");

export function SourceDetails({ id }: { id: string }) {
  const store = useStore();
  const { design } = useDesign();
  const [, select] = useSelection();
  const kinds = useReference()?.sources;
  const source = design.document.charging.sources[id];
  const kind = kinds?.find((k) => k.key === source?.kind);
  const told = design.assessment.charging.find((s) => s.key === id);
  if (!source || !kind) return null;
  const at = `/charging/sources/${id}`;
  const path = (name: string) => `charging/${id}/${name}`;
  const figures = design.assessment.figures;
  // What says the same as the figure before it is left out.
  const same = (name: string, other: string) => figures[path(name)]?.text === figures[path(other)]?.text;
  const doubled = (name: string) =>
    (name === "at_pack" && same(name, "set_point")) || (name === "current" && same(name, "one"));
  const there = (list: [string, string][]) => list.filter(([name]) => path(name) in figures && !doubled(name));
  const rows = (list: [string, string][]) =>
    there(list).map(([name, label]) => <FigureRow key={name} label={label} path={path(name)} />);
  const joins = told?.joins;
  const takeAway = () => {
    const freed = joins ? [{ op: "replace" as const, path: `/power/network/${joins}/source`, value: null }] : [];
    store.change([...freed, { op: "remove", path: at }], `Source taken away: ${source.name}`);
    store.say(`Taken away: ${source.name}.`, true);
    select("");
  };
  return (
    <>
      <div className="crumb">Charging · {kind.title}</div>
      <div className="part-head">
        <h2>{source.name}</h2>
        <Button variant="bare" size="sm" onClick={takeAway}>
          take away
        </Button>
      </div>
      <dl className="figure-list">
        {there(CHOICES).map(([name, label]) => (
          <ChoiceRow key={name} path={path(name)} label={label} />
        ))}
        {rows(FIRST)}
      </dl>
      {joins && (
        <p className="mb-1">
          It joins at{" "}
          <Link to={`/build/${design.id}/power?at=${encodeURIComponent(`/power/network/${joins}`)}`}>
            {design.document.power.network[joins]?.name}
          </Link>
          .
        </p>
      )}
      <More label="more of its figures">
        <dl className="figure-list">{rows(FURTHER)}</dl>
      </More>
    </>
  );
}

/** What is decided of a source: what its kind is asked for, its sheets, how it is set and ends. */
export function SourceDecisions({ id }: { id: string }) {
  const { design } = useDesign();
  const kinds = useReference()?.sources;
  const source = design.document.charging.sources[id];
  const kind = kinds?.find((k) => k.key === source?.kind);
  if (!source || !kind) return null;
  const at = `/charging/sources/${id}`;
  const asked = kind.fields.filter((f: PartField) => !f.needs || Boolean(valueAt(source, `/${f.needs}`)));
  const common = asked.findIndex((f) => f.field === SETTINGS);
  return (
    <>
      <div className="form-grid mt-2">
        <TextField pointer={`${at}/name`} label="Name" />
      </div>
      {design.document.loads.days > 1 && <DaysOn at={at} name={source.name} says="Gives on" />}
      <Decisions at={at} fields={asked.slice(0, common).filter((f) => !ofASheet(f))} />
      {asked.some(ofASheet) && (
        <More label="by their own sheets">
          <Decisions at={at} fields={asked.filter(ofASheet)} />
        </More>
      )}
      <More label="how it is set, and ends">
        <Decisions at={at} fields={asked.slice(common)} />
      </More>
    </>
  );
}
