import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useDraft } from "../../design/browser";
import { useRecorded } from "../../design/record";
import { useSelection } from "../../design/selection";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { Tabs } from "../../figures/Tabs";
import { StationFrame } from "../StationFrame";
import type { Draft } from "./EntryForm";
import { dayText, KINDS, type EntryKind } from "./kinds";
import { PasteLog } from "./PasteLog";
import { TimeLine } from "./TimeLine";
import { Visits } from "./Visits";
import { Wear } from "./Wear";

const VIEWS = { time: "time line", visits: "visits", wear: "wear" } as const;
type Shown = keyof typeof VIEWS;
const GLANCE: [string, string][] = [
  ["Uses", "log/uses"],
  ["Taken out", "log/out"],
  ["Put in", "log/in"],
  ["Full cycles", "log/cycles"],
  ["Capacity, last test", "log/capacity"],
  ["Of what it held new", "log/share"],
  ["Its chemistry would leave", "log/left"],
];

/** The view in which what is selected is found. */
const viewOf = (selected: string): Shown | undefined =>
  selected.startsWith("/log/visits")
    ? "visits"
    : selected.startsWith("/log/wear")
      ? "wear"
      : selected
        ? "time"
        : undefined;

/** What is half typed, as it was kept; nothing where it cannot be read. */
function draftOf(text: string | null): Draft | null {
  try {
    const draft = JSON.parse(text ?? "null") as Draft | null;
    return draft && draft.kind in KINDS && typeof draft.fields === "object" ? draft : null;
  } catch {
    return null;
  }
}

export default function Log() {
  const { design } = useDesign();
  const { life } = useRecorded();
  const [selected] = useSelection();
  const [picked, setPicked] = useState<{ of: string; view: Shown }>({ of: "", view: viewOf(selected) ?? "time" });
  const view = picked.of === selected ? picked.view : (viewOf(selected) ?? picked.view);
  const show = (to: Shown) => setPicked({ of: selected, view: to });
  const [kept, keep] = useDraft(`log.${design.id}`);
  const draft = draftOf(kept);
  const setDraft = (next: Draft | null) => keep(next && JSON.stringify(next));
  const [pasting, setPasting] = useState(false);
  const [taken, setTaken] = useState("");
  const begin = (kind: EntryKind) => {
    setDraft({ kind, item: "", fields: {} });
    show("time");
  };
  const overdue = life?.visits.filter((v) => v.state === "overdue").length ?? 0;
  const next = life?.visits[0];
  return (
    <StationFrame
      station="log"
      title="Log"
      lead={
        life?.since ? (
          <>
            In service since {dayText(life.since)}: <Fig path="log/uses" />{" "}
            {life.figures["log/uses"]?.value === 1 ? "use" : "uses"}, <Fig path="log/out" /> taken out.{" "}
            {overdue > 0
              ? `${overdue === 1 ? "One visit is" : `${overdue} visits are`} overdue.`
              : next && `Next visit: ${next.label}, ${dayText(next.due)}.`}
          </>
        ) : (
          "What was done, measured, used, broken and mended, from the first step to the last season."
        )
      }
      tools={
        <>
          <Button variant="quiet" size="sm" className="text-nowrap" onClick={() => setPasting(true)}>
            Paste a table…
          </Button>
          <a className="btn btn-quiet btn-sm text-nowrap" href={`/api/designs/${design.id}/life.csv`} download>
            CSV
          </a>
        </>
      }
      glance={GLANCE}
      caution="A pack that was dropped, wetted, overheated or run flat is not charged again before it is looked at, group by group, outdoors."
    >
      <div className="tabs" role="group" aria-label="View">
        <Tabs views={VIEWS} view={view} onView={show} />
      </div>
      {taken && (
        <p className="taken-in" role="status">
          {taken}
        </p>
      )}
      {view === "time" ? (
        <TimeLine draft={draft} onDraft={setDraft} selected={selected} />
      ) : view === "visits" ? (
        <Visits selected={selected} onFault={() => begin("fault")} />
      ) : (
        <Wear onTest={begin} />
      )}
      {pasting && <PasteLog onHide={() => setPasting(false)} onTaken={setTaken} />}
    </StationFrame>
  );
}
