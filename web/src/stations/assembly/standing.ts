/** How the steps of a build stand on the screen: as the server judges them, with what waits to be stored. */
import type { StepStanding } from "../../api/client";
import { useRecorded, useRecordLine, type Tick } from "../../design/record";
import { useDesign } from "../../design/store";

export interface ShownStanding extends StepStanding {
  /** What was typed and is not stored yet, or was refused; it stands in the place of what is stored. */
  waits: Tick | undefined;
}

const NOTHING: Omit<StepStanding, "act"> = {
  state: "open",
  digest: "",
  stopped_by: "",
  outside: [],
  done: false,
  values: {},
  remark: "",
  at: "",
};

/** How a step stands, by its act. */
export function useStandings(): (act: string) => ShownStanding {
  const { design } = useDesign();
  const { record } = useRecorded();
  const { ticks } = useRecordLine(design.id);
  return (act) => ({
    ...NOTHING,
    act,
    ...record?.steps.find((s) => s.act === act),
    waits: ticks.findLast((t) => t.act === act),
  });
}

interface More {
  done?: boolean;
  remark?: string;
  values?: Tick["values"];
}

/** How a step stands, whether it counts as done, and what records more of it. typing: it is sent when the typing rests. */
export function useTicking(act: string) {
  const { design } = useDesign();
  const { line } = useRecordLine(design.id);
  const stands = useStandings()(act);
  const { waits } = stands;
  const kept = {
    done: waits?.done ?? stands.done,
    remark: waits?.remark ?? stands.remark,
    values: waits?.values ?? stands.values,
  };
  const tick = (more: More, typing: boolean) => line.put({ act, ...kept, digest: stands.digest, ...more }, typing);
  // What was done before the design changed is to be ticked anew.
  return { stands, kept, done: kept.done && (waits !== undefined || stands.state !== "again"), tick };
}

/** The word for how a step stands. */
export const WORDS: Record<StepStanding["state"], string> = {
  open: "to do",
  done: "done",
  again: "to be done again",
  failed: "its check failed",
  stopped: "waits for a check that failed",
};

/** What there is something to do about. */
export const TO_DO: StepStanding["state"][] = ["open", "again", "failed"];
