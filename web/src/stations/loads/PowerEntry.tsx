import type { Load } from "../../api/client";
import { useDesign, useStore } from "../../design/store";
import { QuantityInput } from "../../figures/QuantityInput";

const WAYS = {
  watts: "watts, as on its plate",
  volts_amps: "volts and amps",
  meter: "a plug-in meter",
  charging: "its battery, and how often it is charged",
} as const;
type Way = keyof typeof WAYS;

/** Where the running power comes from: typed, or worked out from what was read or measured. */
export function PowerEntry({ at, load }: { at: string; load: Load }) {
  const store = useStore();
  const { design } = useDesign();
  const id = at.split("/").at(-1)!;
  const watts = Number(design.assessment.figures[`loads/${id}/watts`]?.value ?? load.watts ?? 0);
  const way: Way = load.measured?.by ?? "watts";
  const begin: Record<Way, unknown> = {
    watts: null,
    volts_amps: {
      by: "volts_amps",
      volts: load.supply === "ac" ? 230 : 12,
      amps: Math.max(0.001, Number((watts / (load.supply === "ac" ? 230 : 12)).toPrecision(3))),
    },
    meter: { by: "meter", wh: Number((watts * 24).toPrecision(3)), hours: 24 },
    charging: { by: "charging", battery_wh: Math.max(1, Number(watts.toPrecision(3))), charges: 1 },
  };
  const choose = (next: Way) => {
    const label = `${load.name}: power from ${WAYS[next]}`;
    const typed = next === "watts" ? Number(watts.toFixed(3)) : null;
    store.put(at, { ...load, watts: typed, measured: begin[next] }, label);
  };
  return (
    <div className="mt-2">
      <label className="field" htmlFor={`${id}-power`}>
        <span className="name">Its power is known from</span>
        <select
          id={`${id}-power`}
          className="form-select form-select-sm"
          value={way}
          onChange={(event) => choose(event.target.value as Way)}
        >
          {Object.entries(WAYS).map(([key, label]) => (
            <option key={key} value={key}>
              {label}
            </option>
          ))}
        </select>
      </label>
      <div className="form-grid mt-1">
        {way === "volts_amps" && (
          <>
            <QuantityInput pointer={`${at}/measured/volts`} label="Volts" unit="V" />
            <QuantityInput pointer={`${at}/measured/amps`} label="Amps" unit="A" />
          </>
        )}
        {way === "meter" && (
          <>
            <QuantityInput pointer={`${at}/measured/wh`} label="The meter counted" unit="Wh" />
            <QuantityInput pointer={`${at}/measured/hours`} label="In" unit="h" />
          </>
        )}
        {way === "charging" && (
          <>
            <QuantityInput pointer={`${at}/measured/battery_wh`} label="Its battery" unit="Wh" />
            <QuantityInput pointer={`${at}/measured/charges`} label="Charged, times a day" />
          </>
        )}
      </div>
    </div>
  );
}
