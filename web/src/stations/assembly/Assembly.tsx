import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useRecorded } from "../../design/record";
import { useSelection } from "../../design/selection";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { NotYet } from "../../figures/NotYet";
import { Tabs } from "../../figures/Tabs";
import { StationFrame } from "../StationFrame";
import { AtTheBench } from "./AtTheBench";
import { AT_LINE, AT_PIECE, AT_STEP, stepOf, useBuild } from "./build";
import { CutList } from "./CutList";
import { LineDetails } from "./LineDetails";
import { Order } from "./Order";
import { Papers } from "./Papers";
import { PieceDetails } from "./PieceDetails";
import { Shopping } from "./Shopping";
import { StepDetails } from "./StepDetails";
import { TO_DO, useStandings } from "./standing";
import { Tools } from "./Tools";

const VIEWS = { order: "order", shopping: "shopping", cuts: "wire to cut", tools: "tools", papers: "papers" } as const;
type Shown = keyof typeof VIEWS;
const GLANCE: [string, string][] = [
  ["To buy", "assembly/total"],
  ["Still to pay", "assembly/left"],
  ["All of it", "assembly/worth"],
  ["For a usable kWh", "assembly/per_kwh"],
  ["Lines without a price", "assembly/without_price"],
  ["Steps", "assembly/steps"],
  ["Work", "assembly/hours"],
  ["Evenings", "assembly/evenings"],
];

/** The view in which what is selected is found. */
const viewOf = (selected: string): Shown | undefined =>
  selected.startsWith(AT_STEP)
    ? "order"
    : selected.startsWith(AT_LINE)
      ? "shopping"
      : selected.startsWith(AT_PIECE)
        ? "cuts"
        : undefined;

export default function Assembly() {
  const { design } = useDesign();
  const [selected, select] = useSelection();
  const [picked, setPicked] = useState<{ of: string; view: Shown }>({ of: "", view: viewOf(selected) ?? "order" });
  const { build, error } = useBuild();
  // What is selected brings its view, until another is asked for.
  const view = picked.of === selected ? picked.view : (viewOf(selected) ?? picked.view);
  const step = stepOf(build, selected);
  const line = build?.lines.find((l) => AT_LINE + l.key === selected);
  const piece = build?.pieces.find((p) => AT_PIECE + p.key === selected);
  const standing = useStandings();
  const [working, setWorking] = useState(false);
  const next = build?.steps.find((s) => TO_DO.includes(standing(s.key).state));
  const bought = Object.values(useRecorded().record?.bought ?? {}).some((count) => count > 0);
  const done = Number(design.assessment.figures["assembly/done"]?.value ?? 0);
  const nothing = !Object.keys(design.document.power.network).length;
  return (
    <StationFrame
      station="assembly"
      title="Assembly"
      lead={
        build && !nothing && "assembly/steps" in design.assessment.figures ? (
          <>
            {done > 0 && (
              <>
                <Fig path="assembly/done" /> of{" "}
              </>
            )}
            <Fig path="assembly/steps" /> steps{done > 0 && " done"}, about <Fig path="assembly/hours" /> of work in{" "}
            <Fig path="assembly/evenings" /> evenings;{" "}
            {bought ? (
              <>
                <Fig path="assembly/left" /> still to pay.
              </>
            ) : (
              <>
                <Fig path="assembly/total" /> to buy.
              </>
            )}
          </>
        ) : (
          "What to buy, what to cut, in what order."
        )
      }
      tools={
        build &&
        next &&
        !nothing && (
          <Button
            size="sm"
            className="text-nowrap"
            data-new
            onClick={() => {
              if (!step) select(AT_STEP + next.key);
              setWorking(true);
            }}
          >
            At the bench
          </Button>
        )
      }
      details={
        build && step ? (
          <StepDetails key={step.key} step={step} build={build} />
        ) : line ? (
          <LineDetails key={line.key} line={line} />
        ) : build && piece ? (
          <PieceDetails key={piece.key} piece={piece} build={build} />
        ) : undefined
      }
      judges={!step && !line && !piece}
      glance={GLANCE}
      caution="A pack cannot be switched off: no rings or watches, insulated tools, eyes covered. Local codes and licensed practice come before any step here."
    >
      {build && step && working && (
        <AtTheBench build={build} step={step} onGo={select} onHide={() => setWorking(false)} />
      )}
      {nothing && (
        <div className="empty-state">
          <h2>Nothing to build yet</h2>
          <p className="mb-0">
            Lay out the power path and stand its parts in a box: then everything it is made of is listed here, each wire
            with its length to cut, and each step in its order with what is checked at its end.
          </p>
        </div>
      )}
      <div className="tabs" role="group" aria-label="View">
        <Tabs views={VIEWS} view={view} onView={(v) => setPicked({ of: selected, view: v })} />
      </div>
      {!build ? (
        <NotYet error={error} doing="Working out how it is built…" />
      ) : view === "order" ? (
        <Order build={build} selected={selected} onSelect={select} />
      ) : view === "shopping" ? (
        <Shopping build={build} selected={selected} onSelect={select} />
      ) : view === "cuts" ? (
        <CutList build={build} selected={selected} onSelect={select} />
      ) : view === "tools" ? (
        <Tools build={build} />
      ) : (
        <Papers build={build} />
      )}
    </StationFrame>
  );
}
