import type { TestRun } from "../../../api/client";
import { useShown } from "../../../figures/units";

/** A reading in the unit of its line, with where that stands. */
export function Read({ line, value, run }: { line: string; value: number; run: TestRun }) {
  const limit = run.lines[line];
  const shown = useShown(limit?.unit);
  if (!limit) return <>{value}</>;
  return (
    <>
      {Number(shown.to(value).toPrecision(4))} {shown.unit}, stop at {limit.text}
    </>
  );
}
