import type { Learnt } from "../../../api/client";
import { Fig } from "../../../figures/Figure";
import { Mark } from "../../../figures/Mark";
import { Causes } from "../Result";
import type { RunState } from "./feed";
import { HOWS } from "./telling";

const LEARNED_SHOWN = 6;

/** What the readings said when they were last judged: what would explain them, and what was learned. */
export function SaidSoFar({ judged, judging }: { judged: Learnt | null; judging: boolean }) {
  const learned = judged?.learned.filter((item) => !item.refused) ?? [];
  return (
    <section aria-label="What the readings say" aria-busy={judging}>
      {judged && <Causes diagnosis={judged.diagnosis} />}
      {judging ? (
        <p className="faint">What was read {judged ? "since" : "so far"} is being worked out.</p>
      ) : (
        !judged && <p className="faint">What the readings say is worked out at the end of each step.</p>
      )}
      {learned.length > 0 && (
        <>
          <h2>Learned so far</h2>
          <dl className="figure-list">
            {learned.slice(0, LEARNED_SHOWN).map((item) => (
              <div className="run-learned" key={item.key}>
                <dt>{item.label}</dt>
                <dd>
                  <Fig figure={item.figures.combined} /> ± <Fig figure={item.figures.combined_doubt} />
                  <div className="faint">
                    assumed <Fig figure={item.figures.assumed} />
                  </div>
                </dd>
              </div>
            ))}
          </dl>
        </>
      )}
    </section>
  );
}

/** How each instrument is, and how old what is drawn is. */
export function InstrumentsNow({ state, age }: { state: RunState; age: number | null }) {
  return (
    <section aria-label="Instruments">
      <h2>Instruments</h2>
      <ul className="instruments-now">
        {state.instruments.map((one) => (
          <li key={one.name}>
            <Mark kind={HOWS[one.how] ?? "mend"} /> {one.name}
            <span className={HOWS[one.how] === "holds" ? "faint" : "run-off"}>{one.said}</span>
          </li>
        ))}
        {state.instruments.length === 0 && <li className="faint">None: the steps are told by hand.</li>}
      </ul>
      {age !== null && (
        <p className="faint" data-age={age.toFixed(0)}>
          Drawn {age.toFixed(0)} ms after it was read.
        </p>
      )}
      {!state.obeys.includes("load") && <p className="faint">No load obeys: switch it as each step says.</p>}
    </section>
  );
}
