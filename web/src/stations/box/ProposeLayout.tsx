import { useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { api, take, type BoxThing, type Laying } from "../../api/client";
import { useDesign, useStore } from "../../design/store";
import { said } from "../../design/units";
import { useWatch } from "../../design/watch";
import { CheckField } from "../../figures/fields";
import { EffectLine } from "../../figures/FindingList";
import { useShown } from "../../figures/units";

const howFar = (job: string) => take(api.GET("/api/box/layout/{job}", { params: { path: { job } } }));

/** A layout of everything proposed, in this box or in the smallest that holds it: seen with its effect before it is taken. */
export function ProposeLayout({ things, onHide }: { things: BoxThing[]; onHide: () => void }) {
  const store = useStore();
  const { design } = useDesign();
  const [smallest, setSmallest] = useState(false);
  const [laying, setLaying] = useState<{ of: number; now: Laying } | null>(null);
  const [problem, setProblem] = useState("");
  const { watch, end } = useWatch(howFar);
  const pinned = Object.values(design.document.box.places).filter((place) => place.pinned).length;
  const carried = things.filter((t) => t.where !== "outside").length;
  const begin = async () => {
    setProblem("");
    setLaying(null);
    try {
      const now = await take(
        api.POST("/api/designs/{design_id}/box/layout", {
          params: { path: { design_id: design.id } },
          body: { smallest },
        }),
      );
      const of = design.revision;
      setLaying({ of, now });
      if (!now.done) watch(now.job, (later) => setLaying({ of, now: later }));
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const stop = async () => {
    if (!laying) return;
    end();
    const path = { job: laying.now.job };
    setLaying({ ...laying, now: await take(api.DELETE("/api/box/layout/{job}", { params: { path } })) });
  };
  const hide = () => {
    if (laying && !laying.now.done) void stop();
    onHide();
  };
  const now = laying?.now;
  const result = now?.result;
  const { patch, reasons = [] } = result ?? {};
  const metre = useShown("m");
  const stale = laying !== null && laying.of !== design.revision;
  const accept = () => {
    if (!patch) return;
    store.change(patch, "Layout proposed, taken");
    store.say(`${carried} parts stand as proposed.`, true);
    onHide();
  };
  return (
    <Modal show onHide={hide} aria-labelledby="layout-title">
      <Modal.Header closeButton>
        <h2 id="layout-title">Propose a layout</h2>
      </Modal.Header>
      <Modal.Body>
        <p>
          Stands all {carried} parts anew: apart, reached, balanced, with room for cables and air, and the thick cables
          short. It takes some ten seconds, and nothing is changed until you take it.
        </p>
        <div role="radiogroup" aria-label="In which box">
          {[
            {
              value: false,
              label: "in this box",
              more: pinned > 0 ? `, ${pinned} pinned ${pinned > 1 ? "stay" : "stays"} where they are` : "",
            },
            {
              value: true,
              label: "in the smallest box of the list that holds it all",
              more: ", without shelves, with the same vents and fans",
            },
          ].map(({ value, label, more }) => (
            <div className="form-check" key={label}>
              <input
                id={`layout-${value}`}
                type="radio"
                className="form-check-input"
                checked={smallest === value}
                disabled={now && !now.done}
                onChange={() => setSmallest(value)}
              />
              <label className="form-check-label" htmlFor={`layout-${value}`}>
                {label}
                <span className="faint">{more}</span>
              </label>
            </div>
          ))}
        </div>
        <div className="mt-2">
          <CheckField pointer="/box/pack_last" label="The pack goes in last: nothing stands over it" />
        </div>
        <div aria-live="polite" className="mt-3">
          {now && !now.done && (
            <div className="d-flex align-items-center gap-2">
              <progress className="flex-grow-1" max={1} value={now.progress} aria-label="Laying it out" />
              <Button variant="quiet" size="sm" onClick={() => void stop()}>
                Stop
              </Button>
            </div>
          )}
          {problem && <p className="problem">{problem}</p>}
          {now?.error && <p className="problem">{now.error}</p>}
          {reasons.length > 0 && (
            <>
              <p className="mb-1">Nothing fits:</p>
              <ul>
                {reasons.map((reason) => (
                  <li key={reason}>{reason}</li>
                ))}
              </ul>
            </>
          )}
          {patch && stale && <p>The build was changed meanwhile: propose it again.</p>}
          {patch && !stale && (
            <>
              <p className="mb-0">
                Found{result?.case && `, in another box: ${result.case}`}. All cables together are{" "}
                {said(metre, result?.cables_m ?? 0)}
                {result?.before_m != null && `; as it stands, ${said(metre, result.before_m)}`}.
              </p>
              <EffectLine patch={patch} />
            </>
          )}
        </div>
      </Modal.Body>
      <Modal.Footer>
        {patch && !stale && (
          <Button size="sm" onClick={accept}>
            Take this layout
          </Button>
        )}
        <Button
          size="sm"
          variant={patch && !stale ? "quiet" : undefined}
          disabled={now && !now.done}
          onClick={() => void begin()}
        >
          {now?.done ? "Propose again" : "Propose"}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
