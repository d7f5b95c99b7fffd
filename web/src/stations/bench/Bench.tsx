import { said } from "../../design/units";
import { useShown } from "../../figures/units";
import { useState } from "react";
import type { Simulation } from "../../api/client";
import { StationFrame } from "../StationFrame";
import { useUnderWay } from "../../design/runs";
import { useDesign } from "../../design/store";
import { useRun, type Season } from "../../drawings/run";
import { SourceBands } from "../../drawings/SourceBands";
import { moment, StripChart, type Strip } from "../../drawings/StripChart";
import { Fig } from "../../figures/Figure";
import { NotYet } from "../../figures/NotYet";
import { percent, QuantityInput } from "../../figures/QuantityInput";
import { Tabs } from "../../figures/Tabs";
import { Drill } from "./Drill";
import { Live } from "./live/Live";
import { Measured } from "./Measured";
import { Plan } from "./Plan";
import { Readings } from "./Readings";
import { WithFault } from "./WithFault";

const STRIPS: Strip[] = [
  {
    title: "Charge",
    unit: "%",
    height: 92,
    whole: [0, 100],
    lines: [{ key: "charge", label: "state of charge", colour: "--copper", scale: 100 }],
  },
  { title: "Voltage", unit: "V", height: 78, lines: [{ key: "voltage_v", label: "voltage", colour: "--positive" }] },
  {
    title: "Current",
    unit: "A",
    height: 78,
    lines: [{ key: "current_a", label: "current from the pack", colour: "--note" }],
  },
  {
    title: "Temperature",
    unit: "°C",
    height: 78,
    lines: [
      { key: "pack_c", label: "pack", colour: "--holds" },
      { key: "inside_c", label: "inside", colour: "--mend-fill" },
    ],
  },
];

const VIEWS = {
  hottest: "its hottest days",
  coldest: "its coldest days",
  fault: "with a fault",
  plan: "test plan",
  live: "live",
  readings: "readings",
  drill: "drill",
} as const;
type View = keyof typeof VIEWS;
/** What stops is told in red, what comes back or is locked in amber. */
const TONES: Record<string, string> = {
  cutoff: "var(--stop)",
  trip: "var(--stop)",
  again: "var(--mend)",
  lock: "var(--mend)",
};

const GLANCE: [string, string][] = [
  ["Asked between charges", "power/drawn_away"],
  ["Usable", "power/available"],
  ["Used", "power/energy_share"],
  ["Pack resistance", "pack/resistance"],
  ["Main path", "power/main_resistance"],
];

export default function Bench() {
  const { design } = useDesign();
  const over = useShown("K");
  const [chosen, setView] = useState<View | null>(null);
  const underWay = useUnderWay(design.id);
  const [wasLive, setWasLive] = useState(false);
  if (underWay && !wasLive) setWasLive(true);
  // A test that was under way stays in view when it is over.
  const view = chosen ?? (wasLive ? "live" : "hottest");
  const [margin, setMargin] = useState<HTMLElement | null>(null);
  const season = view === "hottest" || view === "coldest" ? view : "hottest";
  const simulation = useRun(season);
  const run = simulation.data;
  const drawn = (path: string) => Number(design.assessment.figures[path]?.value ?? 0);
  // What board and meter draw by themselves is no use yet.
  const atRest = drawn("power/drawn_day") <= 24 * drawn("power/standing") + 1e-6;
  const dark = Number(run?.figures.dark?.value ?? 0);
  return (
    <StationFrame
      station="bench"
      title="Bench"
      lead={
        run && !atRest ? (
          <>
            In the {season} days down to <Fig figure={run.figures.lowest_charge} /> charge,{" "}
            <Fig figure={run.figures.lowest_voltage} /> at the least, <Fig figure={run.figures.hottest_inside} /> inside
            at the hottest.{" "}
            {dark > 0 ? (
              <strong style={{ color: "var(--stop)" }}>
                Loads stand without power for <Fig figure={run.figures.dark} />.
              </strong>
            ) : (
              "Every load is fed throughout."
            )}
          </>
        ) : (
          "The station simulated over its days, and its load test planned."
        )
      }
      beside={view === "live" ? <div ref={setMargin} /> : undefined}
      glance={GLANCE}
      caution={`The first power-up is done with meter, clamp and eyes: polarity at every outlet before its fuse goes in. Stop at a cell out of its limits, a joint ${said(over, 40)} over the air, smell, smoke or noise.`}
    >
      <div className="tabs" role="group" aria-label="View">
        <Tabs views={VIEWS} view={view} onView={setView} />
      </div>
      {view === "plan" ? (
        <Plan />
      ) : view === "fault" ? (
        <WithFault />
      ) : view === "live" ? (
        <Live margin={margin} />
      ) : view === "readings" ? (
        <Readings />
      ) : view === "drill" ? (
        <Drill />
      ) : atRest ? (
        <div className="empty-state">
          <h2>Nothing runs yet</h2>
          <p className="mb-0">
            Here the days are played: charge, voltage, current and heat, and what cuts off when. Put in loads and lay
            out their path first.
          </p>
        </div>
      ) : run ? (
        <RunView run={run} season={season} />
      ) : (
        <NotYet error={simulation.error} doing="Simulating…" />
      )}
      {(view === "hottest" || view === "coldest") && <Settings />}
    </StationFrame>
  );
}

/** How the days are played. */
function Settings() {
  return (
    <>
      <h2 className="form-group-title">Settings</h2>
      <div className="form-grid">
        <QuantityInput pointer="/bench/days" label="Days" />
        <QuantityInput pointer="/bench/start_charge" label="Charge at the start" show={percent} />
      </div>
      <Measured />
    </>
  );
}

function RunView({ run, season }: { run: Simulation; season: Season }) {
  const hours = run.series.hour;
  const begin = hours[0] ?? 0;
  const end = hours.at(-1) ?? 24;
  const [range, setRange] = useState<[number, number]>([begin, end]);
  const [at, setAt] = useState(0);
  const [shownFor, setShownFor] = useState(run);
  if (shownFor !== run) {
    setShownFor(run);
    if (range[1] > end || range[0] < begin) setRange([begin, end]);
  }
  const index = Math.min(at, hours.length - 1);
  const days = Math.round((end - begin) / 24);
  const nearest = (hour: number) => {
    let low = 0;
    let high = hours.length - 1;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (hours[middle]! > hour) high = middle;
      else low = middle;
    }
    return low;
  };
  return (
    <>
      <div className="d-flex align-items-center gap-2 flex-wrap mb-1">
        <strong style={{ minWidth: "8rem" }}>{moment(hours[index] ?? begin)}</strong>
        <input
          type="range"
          className="form-range"
          style={{ flex: "1 1 180px", maxWidth: 380 }}
          aria-label="Moment shown"
          aria-valuetext={moment(hours[index] ?? begin)}
          min={range[0]}
          max={range[1]}
          step={0.05}
          value={hours[index] ?? begin}
          onChange={(event) => setAt(nearest(Number(event.target.value)))}
        />
        <span className="ms-auto d-flex gap-1 flex-wrap">
          <button
            type="button"
            className="tab"
            aria-pressed={range[0] === begin && range[1] === end}
            onClick={() => setRange([begin, end])}
          >
            whole run
          </button>
          {days > 1 &&
            days <= 7 &&
            Array.from({ length: days }, (_, i) => (
              <button
                key={i}
                type="button"
                className="tab"
                aria-pressed={range[0] === begin + i * 24 && range[1] === begin + (i + 1) * 24}
                onClick={() => setRange([begin + i * 24, begin + (i + 1) * 24])}
              >
                day {i + 1}
              </button>
            ))}
        </span>
      </div>
      <SourceBands run={run} range={range} />
      <StripChart run={run} strips={STRIPS} range={range} onRange={setRange} at={index} onAt={setAt} />
      <p className="faint" style={{ fontSize: "0.84rem" }}>
        Drag over a chart to zoom in.
      </p>
      <h2 className="mb-1">Where the energy went in the {season} days</h2>
      <dl className="figure-row">
        {(
          ["delivered", "inverter_loss", "converter_loss", "standing", "pack_loss", "wiring_loss", "charged"] as const
        ).map((name) => (
          <div key={name}>
            <dt className="name fw-normal">{run.figures[name]?.label?.replace(/, \w+ days$/, "")}</dt>
            <dd className="big mb-0">
              <Fig figure={run.figures[name]} />
            </dd>
          </div>
        ))}
      </dl>
      <h2 className="mb-1">What happens in the {season} days</h2>
      <ol className="events">
        {run.events.slice(0, 24).map((event, i) => (
          <li key={i}>
            <time>{moment(event.hour)}</time>
            <span style={{ color: TONES[event.kind], fontWeight: event.kind in TONES ? 600 : undefined }}>
              {event.text}
            </span>
          </li>
        ))}
        {run.events.length > 24 && <li className="faint">and {run.events.length - 24} more</li>}
        {run.events.length === 0 && <li className="faint">No cut-off acts in the hours between charges.</li>}
      </ol>
    </>
  );
}
