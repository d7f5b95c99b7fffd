import { useState } from "react";
import type { Figure, Simulation } from "../../api/client";
import { useDesign } from "../../design/store";
import { said } from "../../design/units";
import { useRun } from "../../drawings/run";
import { StripChart, type Strip } from "../../drawings/StripChart";
import { Fig } from "../../figures/Figure";
import { SelectField } from "../../figures/fields";
import { NotYet } from "../../figures/NotYet";
import { QuantityInput } from "../../figures/QuantityInput";
import { useShown } from "../../figures/units";
import { BarRow } from "./BarRow";

const WARM = "forecast/hottest/warm/";
const DAY = 24;

/** Where the heat of the box comes from, where it goes, and how warm it becomes. */
export function Heat() {
  return (
    <>
      <HeatOfTheDays />
      <div className="heat-sides">
        <WorstHour />
        <Leaves />
      </div>
    </>
  );
}

/** Air inside and pack over the hottest days, or the first of them, against what they must not pass. */
export function HeatOfTheDays({ first = false }: { first?: boolean }) {
  const run = useRun("hottest");
  const { figures } = useDesign().design.assessment;
  if (!run.data) return <NotYet error={run.error} doing="Simulating the heat…" />;
  const value = (path: string) => figures[path]?.value as number | undefined;
  const limits = [
    { value: value("brief/inside"), label: "sizes were chosen for" },
    { value: Number(charging(figures)?.value ?? NaN), label: "charging stops" },
  ];
  const strip: Strip = {
    title: "Temperature",
    unit: "°C",
    height: first ? 118 : 170,
    limits: limits.filter((l): l is { value: number; label: string } => Number.isFinite(l.value)),
    lines: [
      { key: "inside_c", label: "air inside", colour: "--mend-fill" },
      { key: "pack_c", label: "pack", colour: "--holds" },
    ],
  };
  const sun: Strip = {
    title: "Sun",
    unit: "W",
    height: 60,
    lines: [{ key: "sun_w", label: "sun through the top", colour: "--copper" }],
  };
  if (run.data.series.fans_on.some((n) => n > 0)) strip.runs = { key: "fans_on", label: "fan runs", colour: "--note" };
  const shines = run.data.series.sun_w.some((w) => w > 0);
  return (
    <div className="heat-days">
      <h2>{first ? "Heat over the first of the hottest days" : "Heat over the hottest days"}</h2>
      <Days run={run.data} strips={!first && shines ? [strip, sun] : [strip]} first={first} />
    </div>
  );
}

/** The temperature up to which the pack may be charged, as the finding about it has it. */
const charging = (figures: Record<string, Figure>) => figures["forecast/heat/charge_max"];

function Days({ run, strips, first }: { run: Simulation; strips: Strip[]; first: boolean }) {
  const hours = run.series.hour;
  const begin = hours[0] ?? 0;
  const whole: [number, number] = [begin, first ? Math.min(begin + DAY, hours.at(-1) ?? DAY) : (hours.at(-1) ?? DAY)];
  const [zoomed, zoom] = useState<{ of: Simulation; to: [number, number] } | null>(null);
  const hottest = run.series.inside_c.indexOf(Math.max(...run.series.inside_c));
  const [at, setAt] = useState<{ of: Simulation; index: number } | null>(null);
  const range = zoomed?.of === run ? zoomed.to : whole;
  return (
    <>
      <StripChart
        run={run}
        strips={strips}
        range={range}
        onRange={(to) => zoom({ of: run, to })}
        at={at?.of === run ? at.index : hottest}
        onAt={(index) => setAt({ of: run, index })}
      />
      {range !== whole && (
        <button type="button" className="tab tight" onClick={() => zoom(null)}>
          all of it
        </button>
      )}
    </>
  );
}

/** What gives off the heat of the worst hour, the most first, with the sum. */
function WorstHour() {
  const { figures } = useDesign().design.assessment;
  const told = Object.keys(figures).filter((path) => path.startsWith(WARM));
  if (!told.length) return <p className="faint">Nothing gives off heat yet.</p>;
  const number = (path: string) => Number(figures[path]?.value ?? 0);
  const warmest = told.toSorted((a, b) => number(b) - number(a));
  return (
    <section className="masses">
      <h2>
        The worst hour, from <Fig path="forecast/hottest/worst_at" />
      </h2>
      <table className="sheet-table">
        <caption className="visually-hidden">Where the heat comes from</caption>
        <tbody>
          {warmest.map((path) => (
            <BarRow
              key={path}
              name={(figures[path]?.label ?? "").replace(/^./, (c) => c.toUpperCase())}
              figure={{ ...figures[path]!, path }}
              most={Math.max(1e-9, number(warmest[0]!))}
            />
          ))}
          <tr className="sum">
            <td>All of it</td>
            <td />
            <td className="num">
              <Fig path="forecast/hottest/worst" />
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  );
}

/** How the box passes it on, where that ends, and what decides it. */
function Leaves() {
  const { assessment, document } = useDesign().design;
  const { figures } = assessment;
  const over = useShown("K");
  const fans = Object.entries(document.box.fittings).filter(([, f]) => f.kind === "fan");
  const ways: [string, string][] = [
    ["Through the walls", "forecast/heat/still"],
    ...(fans.length ? [["The same, while a fan stirs", "forecast/heat/stirred"] as [string, string]] : []),
    ...fans.map(([key, f]): [string, string] => [f.name, `forecast/heat/fans/${key}`]),
    ...fans.map(([key, f]): [string, string] => [`${f.name} runs`, `forecast/hottest/fan_on/${key}`]),
    [`Through the vents, at ${said(over, 10)}`, "forecast/heat/draught"],
    ["Sun through the top, at noon", "forecast/heat/sun"],
    ["Heat it holds", "forecast/heat/capacity"],
    ["Air inside, hottest", "forecast/hottest/hottest_inside"],
    ["Pack, hottest", "forecast/hottest/hottest_pack"],
    ["Air inside, left running", "forecast/hottest/rest_inside"],
    ["Pack, left running", "forecast/hottest/rest_pack"],
  ];
  return (
    <section>
      <h2>How it leaves</h2>
      <dl className="figure-list">
        {ways.map(
          ([label, path]) =>
            figures[path] && (
              <div key={path}>
                <dt>{label}</dt>
                <dd>
                  <Fig path={path} />
                </dd>
              </div>
            ),
        )}
      </dl>
      <p className="faint">
        Left running: where it would end if the worst hour went on and on. The days are what is judged.
      </p>
      <div className="form-grid mt-2">
        <SelectField pointer="/box/case/in_sun" label="In the sun" list="Case.in_sun" empty="as the brief says" />
        <SelectField pointer="/box/case/colour" label="Colour" list="Case.colour" />
        <QuantityInput pointer="/box/altitude_m" label="Above the sea" unit="m" />
      </div>
    </section>
  );
}
