import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type DrillDone } from "../../api/client";
import { useDraft } from "../../design/browser";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { Mark } from "../../figures/Mark";
import { NotYet } from "../../figures/NotYet";
import { ReadTable } from "./ReadTable";

interface Hand {
  seed: number;
  probes: string[];
  guess: string;
}

/** Where a measurement is found, by how its key begins. */
const PLACES: [string, RegExp][] = [
  ["Along the path", /^(terminals|run):/],
  ["Temperatures", /^(thermometer|draught)/],
  ["Cells", /^(cell|held):/],
  ["By another meter", /^meter:/],
  ["The whole", /^(recount|refill|unplugged)/],
];

const percent = (share: number) => (share > 0.995 ? "sure" : `${Math.round(100 * share)} %`);

/** What was dealt and done, as it was kept; null where it is nonsense. */
function read(text: string | null): Hand | null {
  try {
    const hand = JSON.parse(text ?? "null") as Hand | null;
    const sound = hand && Number.isInteger(hand.seed) && Array.isArray(hand.probes) && typeof hand.guess === "string";
    return sound ? hand : null;
  } catch {
    return null;
  }
}

/** A fault is dealt to a station like this one; the builder finds it by its test and as few measurements as they can. */
export function Drill() {
  const { design } = useDesign();
  const [text, keep] = useDraft(`drill.${design.id}`);
  const hand = read(text);
  const set = (next: Hand) => keep(JSON.stringify(next));
  const deal = () => set({ seed: Math.floor(Math.random() * 1e9), probes: [], guess: "" });
  const { data, error } = useQuery({
    queryKey: ["drill", design.id, design.revision, text],
    queryFn: () =>
      take(api.POST("/api/designs/{design_id}/drill", { params: { path: { design_id: design.id } }, body: hand! })),
    enabled: hand !== null,
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  });
  if (!hand)
    return (
      <div className="empty-state">
        <h2>Find the fault</h2>
        <p>
          A fault is hidden in a station like this one: a loose joint, a weak group, a meter that reads wrong, blocked
          air. Its load test is run at once; find the fault by what was read, and by as few measurements of your own as
          you can. Nothing of it touches the design.
        </p>
        <button type="button" className="btn btn-primary" onClick={deal}>
          Deal a fault
        </button>
      </div>
    );
  if (!data) return <NotYet error={error} doing="Dealing a fault and running the test…" />;
  return (
    <div className="drill">
      <ReadTable steps={data.steps} />
      <div className="drill-hands">
        <Measuring done={data} hand={hand} onHand={set} />
        <Guessing done={data} hand={hand} onHand={set} onDeal={deal} />
      </div>
      {error && <p className="problem">{error.message}</p>}
    </div>
  );
}

interface Hands {
  done: DrillDone;
  hand: Hand;
  onHand: (hand: Hand) => void;
}

function Measuring({ done, hand, onHand }: Hands) {
  const [chosen, setChosen] = useState("");
  const left = done.probes.filter((p) => !hand.probes.includes(p.key));
  return (
    <section>
      <h2 className="mb-1">Measure by hand</h2>
      <div className="drill-line">
        <select
          className="form-select"
          aria-label="What to measure"
          value={chosen}
          disabled={hand.guess !== ""}
          onChange={(event) => setChosen(event.target.value)}
        >
          <option value="">choose a measurement</option>
          {PLACES.map(([place, begins]) => (
            <optgroup key={place} label={place}>
              {left
                .filter((p) => begins.test(p.key))
                .map((p) => (
                  <option key={p.key} value={p.key}>
                    {p.words}
                  </option>
                ))}
            </optgroup>
          ))}
        </select>
        <button
          type="button"
          className="btn btn-quiet"
          disabled={!chosen || hand.guess !== ""}
          onClick={() => {
            onHand({ ...hand, probes: [...hand.probes, chosen] });
            setChosen("");
          }}
        >
          Measure
        </button>
      </div>
      {done.made.length === 0 && <p className="faint mt-2">Nothing yet: the test alone may tell.</p>}
      <ol className="drill-made">
        {done.made.map((m) => (
          <li key={m.key}>
            <span className={m.off ? "off" : ""}>
              {m.words}:{" "}
              <strong>
                <Fig figure={m.found} />
              </strong>
            </span>{" "}
            <span className="faint">
              expected <Fig figure={m.expected} />
              {m.off && ", off"}
            </span>
            {done.answer && (
              <div className="faint">
                {m.new ? "It changed what was likeliest: " : "What was likeliest stayed: "}
                {likely(m.causes)}.
              </div>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}

const likely = (causes: DrillDone["at_first"]) =>
  causes.length
    ? causes
        .filter((c, n) => n === 0 || c.share > 0.005)
        .map((c) => `${c.words} (${percent(c.share)})`)
        .join("; ")
    : "nothing could be told";

function Guessing({ done, hand, onHand, onDeal }: Hands & { onDeal: () => void }) {
  const [chosen, setChosen] = useState("");
  const { answer } = done;
  return (
    <section>
      <h2 className="mb-1">What is it?</h2>
      {answer && hand.guess ? (
        <div className="drill-answer" role="status">
          <p>
            <Mark kind={answer.right ? "holds" : "stop"} /> <strong>{answer.right ? "Found" : "Not that"}</strong>:{" "}
            {answer.words}. {counted(hand.probes.length)}.
          </p>
          <p className="faint">By the test alone it was likeliest: {likely(done.at_first)}.</p>
          <button type="button" className="btn btn-primary" onClick={onDeal}>
            Deal another
          </button>
        </div>
      ) : (
        <div className="drill-line">
          <select
            className="form-select"
            aria-label="The fault"
            value={chosen}
            onChange={(event) => setChosen(event.target.value)}
          >
            <option value="">choose a fault</option>
            {done.faults.map((f) => (
              <option key={f.key} value={f.key}>
                {f.words}
              </option>
            ))}
          </select>
          <button
            type="button"
            className="btn btn-quiet"
            disabled={!chosen}
            onClick={() => onHand({ ...hand, guess: chosen })}
          >
            That is it
          </button>
        </div>
      )}
    </section>
  );
}

const counted = (n: number) =>
  n === 0 ? "No measurement was needed" : n === 1 ? "One measurement" : `${n} measurements`;
