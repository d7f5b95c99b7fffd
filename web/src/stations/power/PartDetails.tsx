import { useDesign } from "../../design/store";
import { ChoiceRow } from "../../figures/ChoiceRow";
import { useReference } from "../../figures/reference";
import { CheckField, TextField } from "../../figures/fields";
import { FigureRow } from "../../figures/FigureRow";
import { More } from "../../figures/More";
import { QuantityInput } from "../../figures/QuantityInput";
import { AddBehind } from "./AddParts";
import { OfItsKind } from "./OfItsKind";
import { placeOf } from "./places";
import { RunDetails } from "./RunDetails";
import { ReplacePart } from "./ReplacePart";
import { TakeOut } from "./TakeOut";

/** Figures by part, as (figure, label), what decides first; those that are not there are left out. */
const FIRST: [string, string][] = [
  ["current", "Running"],
  ["design", "Sized for"],
  ["surge", "Worst surge"],
  ["circuit", "Runs on its circuit"],
  ["asked", "Asked of one way"],
  ["limit", "One way carries"],
  ["path_drop", "Drop from the post"],
];
const FURTHER: [string, string][] = [
  ["fault", "Fault here"],
  ["hot", "Carries in the air inside"],
  ["interrupts", "Interrupts"],
  ["voltage", "Voltage rating"],
  ["continuous", "At the hottest"],
  ["surge_rating", "Surge rating"],
  ["idle", "Idle draw"],
  ["precharge", "Pre-charge resistor"],
  ["stud", "Stud"],
  ["rated_current", "Draws at its rating"],
  ["energy_day", "Takes a day"],
];

export function PartDetails({ id }: { id: string }) {
  const { design } = useDesign();
  const parts = useReference()?.parts;
  const network = design.document.power.network;
  const node = network[id];
  const kind = parts?.find((k) => k.key === node?.part);
  if (!node || !kind) return null;
  const at = `/power/network/${id}`;
  const figures = design.assessment.figures;
  const hasRun = `power/${id}/run/gauge` in figures;
  const there = (list: [string, string][]) =>
    list
      .filter(([name]) => `power/${id}/${name}` in figures)
      .map(([name, label]) => <FigureRow key={name} label={label} path={`power/${id}/${name}`} />);
  return (
    <>
      <div className="crumb">Power path · {kind.title}</div>
      <div className="part-head">
        <h2>{node.name}</h2>
        <TakeOut key={`${id}-out`} id={id} name={node.name} next={placeOf(node.feed, design.document.power)} />
      </div>
      <dl className="figure-list">
        {kind.choices.map(({ figure, label }) => (
          <ChoiceRow key={figure} path={`power/${id}/${figure}`} label={label} />
        ))}
        {there(FIRST)}
      </dl>
      {!hasRun && ["inverter", "ac_breaker"].includes(network[node.feed]?.part ?? "") && (
        <QuantityInput pointer={`${at}/run/length_m`} label="AC cable to it, 0 on the inverter's face" unit="m" />
      )}
      {hasRun && <RunDetails at={`${at}/run`} figures={`power/${id}/run`} title="The run to it" />}
      <div className="form-grid mt-2">
        <TextField pointer={`${at}/name`} label="Name" />
      </div>
      <OfItsKind at={at} node={node} kind={kind} hasRun={hasRun} />
      <ReplacePart key={`${id}-replace`} id={id} node={node} kind={kind} />
      <AddBehind id={id} name={node.name} kinds={parts ?? []} />
      <More label="more of its figures">
        {kind.has_negative && hasRun && (
          <CheckField
            pointer={`${at}/negative`}
            label="Negative straight to the post, round the shunt"
            on="post"
            off="busbar"
          />
        )}
        <dl className="figure-list">{there(FURTHER)}</dl>
      </More>
    </>
  );
}
