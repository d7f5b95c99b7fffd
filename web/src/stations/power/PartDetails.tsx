import Button from "react-bootstrap/Button";
import type { Node, Operation } from "../../api/client";
import { useSelection } from "../../design/selection";
import { useDesign, useStore } from "../../design/store";
import { ChoiceRow } from "../../figures/ChoiceRow";
import { useReference } from "../../figures/reference";
import { CheckField, TextField } from "../../figures/fields";
import { FigureRow } from "../../figures/FigureRow";
import { QuantityInput } from "../../figures/QuantityInput";
import { AddBehind } from "./AddParts";
import { OfItsKind } from "./OfItsKind";
import { RunDetails } from "./RunDetails";
import { ReplacePart } from "./ReplacePart";

/** Figures by part, as (figure, label); those that are not there are left out. */
const FIGURES: [string, string][] = [
  ["current", "Running"],
  ["design", "Sized for"],
  ["surge", "Worst surge"],
  ["circuit", "Runs on its circuit"],
  ["asked", "Asked of one way"],
  ["limit", "One way carries"],
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
  ["path_drop", "Drop from the post"],
];

/** A part taken out with all behind it; loads that were plugged in there go back to auto. */
function removal(
  id: string,
  network: Record<string, Node>,
  loads: Record<string, { outlet?: string | null }>,
): Operation[] {
  const gone = [id];
  for (let i = 0; i < gone.length; i++)
    gone.push(...Object.keys(network).filter((key) => network[key]!.feed === gone[i]));
  const unplugged = Object.entries(loads).filter(([, load]) => load.outlet && gone.includes(load.outlet));
  return [
    ...unplugged.map(([key]): Operation => ({ op: "replace", path: `/loads/items/${key}/outlet`, value: null })),
    ...gone.reverse().map((key): Operation => ({ op: "remove", path: `/power/network/${key}` })),
  ];
}

export function PartDetails({ id }: { id: string }) {
  const store = useStore();
  const { design } = useDesign();
  const [, select] = useSelection();
  const parts = useReference()?.parts;
  const network = design.document.power.network;
  const node = network[id];
  const kind = parts?.find((k) => k.key === node?.part);
  if (!node || !kind) return null;
  const at = `/power/network/${id}`;
  const figures = design.assessment.figures;
  const hasRun = `power/${id}/run/gauge` in figures;
  const rows = FIGURES.filter(([name]) => `power/${id}/${name}` in figures);
  return (
    <>
      <div className="crumb">Power path · {kind.title}</div>
      <h2>{node.name}</h2>
      <dl className="figure-list">
        {kind.choices.map(({ figure, label }) => (
          <ChoiceRow key={figure} path={`power/${id}/${figure}`} label={label} />
        ))}
        {rows.map(([name, label]) => (
          <FigureRow key={name} label={label} path={`power/${id}/${name}`} />
        ))}
      </dl>
      {!hasRun && ["inverter", "ac_breaker"].includes(network[node.feed]?.part ?? "") && (
        <QuantityInput pointer={`${at}/run/length_m`} label="AC cable to it, 0 on the inverter's face" unit="m" />
      )}
      {hasRun && (
        <>
          <h3 className="mt-3">The run to it</h3>
          <RunDetails at={`${at}/run`} figures={`power/${id}/run`} />
        </>
      )}
      <div className="form-grid mt-2">
        <TextField pointer={`${at}/name`} label="Name" />
      </div>
      <OfItsKind at={at} node={node} kind={kind} hasRun={hasRun} />
      <ReplacePart key={`${id}-replace`} id={id} node={node} kind={kind} />
      <AddBehind id={id} node={node} kinds={parts ?? []} />
      {kind.has_negative && hasRun && (
        <CheckField
          pointer={`${at}/negative`}
          label="Negative straight to the post, round the shunt"
          on="post"
          off="busbar"
        />
      )}
      <Button
        variant="quiet"
        size="sm"
        className="mt-2 mb-2"
        onClick={() => {
          const { power, loads } = store.get().ahead;
          store.change(removal(id, power.network, loads.items), `Taken out: ${node.name}`);
          store.say(`Taken out: ${node.name}, and what hung on it.`, true);
          select("");
        }}
      >
        Take out
      </Button>
    </>
  );
}
