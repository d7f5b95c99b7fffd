import type { Load } from "../../api/client";
import { useDesign, useStore } from "../../design/store";
import { SelectField } from "../../figures/fields";
import { percent, QuantityInput } from "../../figures/QuantityInput";
import { useOptions } from "../../figures/reference";
import { usePending } from "../../figures/typed";

type Way = "watts" | NonNullable<Load["measured"]>["by"];

/** Where the running power comes from: typed, or worked out from what was read or measured. */
export function PowerEntry({ at, load }: { at: string; load: Load }) {
  const store = useStore();
  const { design } = useDesign();
  const id = at.split("/").at(-1)!;
  const watts = Number(design.assessment.figures[`loads/${id}/watts`]?.value ?? load.watts ?? 0);
  const measured = usePending(`${at}/measured`).value as Load["measured"];
  const way: Way = measured?.by ?? "watts";
  const straight = load.supply === "pack";
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
  const ways = [{ value: "watts", label: "watts, as on its plate" }, ...useOptions("Load.measured")];
  const choose = (next: Way) => {
    const label = `${load.name}: power from ${ways.find((w) => w.value === next)?.label}`;
    const typed = next === "watts" ? Number(watts.toFixed(3)) : null;
    store.change(
      [
        { op: "replace", path: `${at}/watts`, value: typed },
        { op: "replace", path: `${at}/measured`, value: begin[next] },
      ],
      label,
    );
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
          {ways.map((w) => (
            <option key={String(w.value)} value={String(w.value)}>
              {w.label}
            </option>
          ))}
        </select>
      </label>
      <div className="form-grid mt-1">
        {way === "volts_amps" && (
          <>
            <QuantityInput pointer={`${at}/measured/volts`} label="Volts" unit="V" />
            <QuantityInput pointer={`${at}/measured/amps`} label="Amps" unit="A" />
            {straight && (
              <SelectField
                pointer={`${at}/measured/law`}
                label="At another voltage it keeps"
                list="VoltsAmps.law"
                empty="as its kind does"
              />
            )}
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
            <QuantityInput
              pointer={`${at}/measured/efficiency`}
              label="Efficiency of its charger"
              show={percent}
              optional
              placeholder="typical"
            />
          </>
        )}
      </div>
    </div>
  );
}
