import { useState } from "react";
import { useDesign } from "../../design/store";
import { ChargingYear, MONTHS, usePoorest } from "../../drawings/ChargingYear";
import { SelectField } from "../../figures/fields";
import { Fig } from "../../figures/Figure";
import { NumbersInput } from "../../figures/NumbersInput";
import { QuantityInput } from "../../figures/QuantityInput";

/** The year of a bank that panels charge, and what is to be said of one month of it. */
export function OverTheYear({ banks }: { banks: string[] }) {
  const { design } = useDesign();
  const [chosen, choose] = useState("");
  const bank = banks.includes(chosen) ? chosen : (banks[0] ?? "pack");
  const poorest = usePoorest(bank);
  const [picked, pick] = useState<number>();
  const month = picked ?? poorest;
  const at = (name: string) => `charging/year/${bank}/${name}`;
  const { figures, charging } = design.assessment;
  const arrays = charging.filter((s) => s.kind === "solar" && s.bank === bank);
  const named = (key: string) => design.document.charging.sources[key]?.name;
  return (
    <>
      {banks.length > 1 && (
        <label className="field inline mb-1" htmlFor="year-bank">
          <span className="name">of</span>
          <select
            id="year-bank"
            className="form-select form-select-sm w-auto"
            value={bank}
            onChange={(event) => choose(event.target.value)}
          >
            {banks.map((key) => (
              <option key={key} value={key}>
                {key === "pack" ? "the pack" : design.document.power.banks[key]?.name}
              </option>
            ))}
          </select>
        </label>
      )}
      <ChargingYear bank={bank} month={month} onMonth={pick} />
      <p className="legend">
        <strong>{MONTHS[month - 1]}:</strong>{" "}
        {arrays.map(({ key }, n) => (
          <span key={key}>
            {n > 0 && " "}
            {arrays.length > 1 ? `${named(key)}: ` : ""}
            <Fig path={`charging/${key}/sun/${month}`} /> of full sun bring{" "}
            <Fig path={`charging/${key}/yield/${month}`} /> a day.
          </span>
        ))}{" "}
        <Fig path={at("needed")} /> must come in
        {figures[at(`${month}/rest`)] ? (
          <>
            ; <Fig path={at(`${month}/rest`)} /> are left to the other sources
            {figures[at("others")]?.value ? (
              <>
                , which can bring <Fig path={at("others")} />
              </>
            ) : (
              ", of which there are none"
            )}
          </>
        ) : (
          ": the sun alone is enough"
        )}
        .{" "}
        {figures[at(`${month}/watts`)] && (
          <>
            Panels of <Fig path={at(`${month}/watts`)} /> in all would do it alone.{" "}
          </>
        )}
        {arrays.map(({ key }) => (
          <span key={key}>
            {arrays.length > 1 ? `${named(key)}: ` : ""}
            {["poor", "rich"].map((name) => (
              <span key={name}>
                {name === "rich" ? "in " : ""}
                {figures[`charging/${key}/best_tilt_${name}`]?.label?.replace(
                  name === "rich" ? "Best tilt in " : "",
                  "",
                )}{" "}
                <Fig path={`charging/${key}/best_tilt_${name}`} />
                {name === "poor" ? ", " : ". "}
              </span>
            ))}
          </span>
        ))}
        {figures[at("bridged")] && (
          <>
            Full, it lasts <Fig path={at("bridged")} /> without any sun.
          </>
        )}
      </p>
    </>
  );
}

/** How much sun there is where the panels stand. */
export function SunFields() {
  return (
    <>
      <SelectField pointer="/charging/sun/climate" label="Climate" list="Sunshine.climate" />
      <QuantityInput
        pointer="/charging/sun/latitude_deg"
        label="Latitude, south negative"
        unit="°"
        optional
        placeholder="of the climate"
      />
      <NumbersInput
        pointer="/charging/sun/sun_hours"
        label="Full sun a day on a level plane, by month"
        unit="h"
        placeholder="of the climate; or twelve figures from January"
      />
    </>
  );
}
