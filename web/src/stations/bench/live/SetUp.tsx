import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { createPortal } from "react-dom";
import { api, Failure, take } from "../../../api/client";
import { useDraft } from "../../../design/browser";
import { useDesign } from "../../../design/store";
import { NotYet } from "../../../figures/NotYet";
import { InstrumentList } from "./Instruments";

/** What a test is begun with: the instruments that are read, and the steps in their order. */
export function SetUp({ margin, onBegun }: { margin: HTMLElement | null; onBegun: (run: string) => void }) {
  const { design } = useDesign();
  const queries = useQueryClient();
  const [kept, keep] = useDraft(`run-steps.${design.id}`);
  const [left, leave] = useDraft(`run-without.${design.id}`);
  const [problem, setProblem] = useState("");
  const [beginning, setBeginning] = useState(false);
  const [byItself, setByItself] = useState(true);
  const { data: plan, error } = useQuery({
    queryKey: ["test-plan", design.id, design.revision],
    queryFn: () => take(api.GET("/api/designs/{design_id}/test-plan", { params: { path: { design_id: design.id } } })),
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  });
  const { data: own } = useQuery({
    queryKey: ["instruments"],
    queryFn: () => take(api.GET("/api/bench/instruments")),
  });
  if (!plan || !own) return <NotYet error={error} doing="Planning the test…" />;
  if (!plan.steps.length)
    return (
      <div className="empty-state">
        <h2>Nothing to test yet</h2>
        <p className="mb-0">The test is derived from the loads and the power path: put those in first.</p>
      </div>
    );
  const every = plan.steps.map((s) => s.key);
  const order = ordered(kept, every);
  const without = new Set(left?.split(" ").filter(Boolean));
  const notRead = new Set(own.own.filter((i) => without.has(`i:${i.name.replaceAll(" ", "_")}`)).map((i) => i.name));
  const toggle = (key: string) => {
    const next = new Set(without);
    if (!next.delete(key)) next.add(key);
    leave([...next].join(" ") || null);
  };
  const move = (key: string, by: number) => {
    const at = order.indexOf(key);
    const next = order.toSpliced(at, 1).toSpliced(at + by, 0, key);
    keep(next.join(" "));
  };
  const begin = async () => {
    setBeginning(true);
    setProblem("");
    try {
      const body = {
        steps: order.filter((key) => !without.has(key)),
        instruments: own.own.map((i) => i.name).filter((name) => !notRead.has(name)),
        by_itself: byItself,
      };
      const run = await take(
        api.POST("/api/designs/{design_id}/runs", { params: { path: { design_id: design.id } }, body }),
      );
      onBegun(run.id);
      await queries.invalidateQueries({ queryKey: ["runs"] });
    } catch (failed) {
      setProblem(Failure.of(failed).reason);
    } finally {
      setBeginning(false);
    }
  };
  const names = new Map(plan.steps.map((s) => [s.key, s.name]));
  return (
    <div className="run-set-up">
      {margin && createPortal(<HowItGoes />, margin)}
      <InstrumentList
        instruments={own}
        isRead={(name) => !notRead.has(name)}
        onRead={(name) => toggle(`i:${name.replaceAll(" ", "_")}`)}
      />
      <section>
        <h2 className="mb-1">The steps</h2>
        <label className="d-block mb-2">
          <input type="checkbox" checked={byItself} onChange={() => setByItself(!byItself)} /> A step that needs no
          hands begins by itself
        </label>
        <p className="caution-line">
          Before power: eyes, pull, torque, polarity, as the plan has it. An extinguisher at hand, nobody alone.
        </p>
        <Button disabled={beginning || order.every((key) => without.has(key))} onClick={() => void begin()}>
          {beginning ? "Making it ready…" : "Make the test ready"}
        </Button>
        {problem && (
          <p className="problem" role="alert">
            {problem}
          </p>
        )}
        <ol className="run-steps">
          {order.map((key, n) => (
            <li key={key}>
              <label>
                <input type="checkbox" checked={!without.has(key)} onChange={() => toggle(key)} /> {names.get(key)}
              </label>
              <span>
                <Button
                  variant="bare"
                  size="sm"
                  aria-label={`${names.get(key)} earlier`}
                  disabled={n === 0}
                  onClick={() => move(key, -1)}
                >
                  ↑
                </Button>
                <Button
                  variant="bare"
                  size="sm"
                  aria-label={`${names.get(key)} later`}
                  disabled={n === order.length - 1}
                  onClick={() => move(key, 1)}
                >
                  ↓
                </Button>
              </span>
            </li>
          ))}
        </ol>
      </section>
    </div>
  );
}

function HowItGoes() {
  return (
    <section>
      <h2>How it goes</h2>
      <p>
        Each instrument is asked ten times a second, and what it says is drawn over the band that the design expects.
        Out of band, the likeliest cause is told, and what would tell more.
      </p>
      <p>
        At a stop line the screen says so, with a sound, and a load that obeys is switched off at once. What is read is
        stored as it comes: a reload, or a server that was away, loses nothing of it.
      </p>
    </section>
  );
}

/** Steps in the order that was chosen; those that it does not name at their own place. */
function ordered(kept: string | null, every: string[]): string[] {
  const chosen = (kept ?? "").split(" ").filter((key) => every.includes(key));
  const out = [...new Set(chosen)];
  every.forEach((key, n) => {
    if (!out.includes(key)) out.splice(out.indexOf(every[n - 1] ?? "") + 1, 0, key);
  });
  return out;
}
