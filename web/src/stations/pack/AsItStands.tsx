import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { askAnew } from "../../api/anew";
import { api, take, type Pack, type PackPart } from "../../api/client";
import { useSelection } from "../../design/selection";
import { same, useDesign, useStore } from "../../design/store";
import { PackDrawing } from "../../drawings/PackDrawing";
import { Waterfall } from "../../drawings/Waterfall";
import { otherCells, useOptions, useReference } from "../../figures/reference";
import { SelectField } from "../../figures/fields";
import { percent, QuantityInput } from "../../figures/QuantityInput";
import { BatteryFields, BoardFields, CellFields, LinkFields } from "./fields";
import { Strings } from "./Strings";
import { CurveDialog } from "./CurveDialog";

const GAS_OPENING = "/pack/gas_opening_cm2";

/** The drawing, then what it is made of, then where its energy goes. */
export function AsItStands() {
  const store = useStore();
  const { design, ahead } = useDesign();
  const { pack } = ahead;
  const [selected, select] = useSelection();
  const [curve, setCurve] = useState(false);
  const forms = useOptions("pack-form");
  const cells = useReference()?.cells_12v;
  const change = (form: Pack["form"]) => {
    if (form === pack.form) return;
    const shared = { chemistry: pack.chemistry, depth: pack.depth, age_factor: pack.age_factor };
    const series = cells?.[pack.chemistry] ?? 4;
    const battery = "battery" in pack ? pack.battery : { series, capacity_ah: 100, continuous_a: 100 };
    store.put(
      "/pack",
      form === "cells" ? { form, ...shared } : { form, ...shared, battery },
      `Pack of ${forms.find((f) => f.value === form)?.label}`,
    );
  };
  return (
    <>
      <PackDrawing selected={selected} onSelect={select} />
      <div className="form-grid mb-2">
        <label className="field" htmlFor="pack-form">
          <span className="name">Made of</span>
          <select
            id="pack-form"
            className="form-select form-select-sm"
            value={pack.form}
            onChange={(event) => change(event.target.value as Pack["form"])}
          >
            {forms.map((f) => (
              <option key={String(f.value)} value={String(f.value)}>
                {f.label}
              </option>
            ))}
          </select>
        </label>
        <SelectField
          pointer="/pack/chemistry"
          label="Chemistry"
          list={pack.form === "cells" ? "cell-chemistry" : "chemistry"}
          along={(value) => ("battery" in pack ? otherCells(cells, pack.chemistry, value, "/pack/battery/series") : [])}
        />
        <PartPicker pack={pack} />
      </div>
      {pack.form === "cells" ? (
        <>
          <CellFields />
          <BoardFields />
          <LinkFields />
        </>
      ) : (
        <>
          <BatteryFields what={pack.form === "modules" ? "module" : "battery"} />
          {pack.form !== "battery" && <Strings bank={pack} />}
        </>
      )}
      <h2 className="form-group-title">Planning</h2>
      <div className="form-grid mb-3">
        <QuantityInput
          pointer="/pack/depth"
          label="Planned depth of discharge"
          show={percent}
          optional
          placeholder="daily window"
        />
        <QuantityInput
          pointer="/pack/age_factor"
          label="Capacity kept with age"
          show={percent}
          optional
          placeholder="typical: 90 %"
        />
        {design.assessment.checks.some((check) => check.place === GAS_OPENING) && (
          <QuantityInput
            pointer={GAS_OPENING}
            label="Openings for its gas, each of two"
            unit="cm²"
            optional
            placeholder="none"
          />
        )}
        <div className="field">
          <span className="name">Discharge curve</span>
          <div className="d-flex gap-2">
            <Button variant="quiet" size="sm" onClick={() => setCurve(true)}>
              {pack.curve ? `own, ${pack.curve.points.length} points` : "typical; put in your own…"}
            </Button>
            {pack.curve && (
              <Button
                variant="bare"
                size="sm"
                onClick={() => store.put("/pack/curve", null, "Typical discharge curve")}
              >
                back to typical
              </Button>
            )}
          </div>
        </div>
      </div>
      <h2 className="mb-1">Where the energy goes</h2>
      <Waterfall />
      {curve && <CurveDialog onHide={() => setCurve(false)} />}
    </>
  );
}

/** Generic cells, batteries and modules, and the builder's own: choosing one fills in its figures. */
function PartPicker({ pack }: { pack: Pack }) {
  const store = useStore();
  const { design } = useDesign();
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: ["pack-parts"],
    queryFn: () => take(api.GET("/api/pack/parts")),
  });
  const kind = pack.form === "cells" ? "cell" : pack.form === "modules" ? "module" : "battery";
  const fitting = (data ?? []).filter((p) => p.kind === kind);
  const groups: [string, PackPart[]][] = [
    ["your own", fitting.filter((p) => p.own !== null)],
    ["measured in your builds", fitting.filter((p) => p.measured)],
    ["generic", fitting.filter((p) => p.own === null && !p.measured)],
  ];
  const at = kind === "cell" ? "/pack/cell" : "/pack/battery";
  const figures = pack.form === "cells" ? pack.cell : pack.battery;
  /** What was picked stays shown for as long as its figures stand. */
  const now = fitting.find(
    (part) =>
      part.chemistry === pack.chemistry &&
      Object.entries(part.figures).every(
        ([name, value]) => value === null || same((figures as Record<string, unknown> | undefined)?.[name], value),
      ),
  );
  const choose = (part: PackPart) =>
    store.change(
      [
        { op: "replace", path: "/pack/chemistry", value: part.chemistry },
        { op: "replace", path: at, value: part.figures },
      ],
      part.label,
    );
  const keep = async () => {
    if (!figures) return;
    const chemistry = pack.chemistry.toUpperCase();
    const name = `${kind}, ${chemistry} ${figures?.capacity_ah} Ah, of ${design.document.name}`.slice(0, 80);
    try {
      await take(
        api.POST("/api/pack/parts", {
          body: { kind, name, chemistry: pack.chemistry, figures: figures },
        }),
      );
    } catch (error) {
      store.say(`Not kept: ${(error as Error).message}`);
      return;
    }
    await askAnew(queries, "pack-parts");
    store.say(`Kept for all builds: ${name}.`);
  };
  return (
    <label className="field wide" htmlFor="pack-part">
      <span className="name">Figures of</span>
      <span className="with-unit">
        <select
          id="pack-part"
          className="form-select form-select-sm"
          value={now?.key ?? ""}
          onChange={(event) => {
            const part = fitting.find((p) => p.key === event.target.value);
            if (part) choose(part);
          }}
        >
          <option value="">a generic or own {kind}…</option>
          {groups.map(
            ([title, parts]) =>
              parts.length > 0 && (
                <optgroup key={title} label={title}>
                  {parts.map((p) => (
                    <option key={p.key} value={p.key} title={p.measured ? p.source : undefined}>
                      {p.label}
                    </option>
                  ))}
                </optgroup>
              ),
          )}
        </select>
        <Button variant="bare" size="sm" onClick={() => void keep()} title="Keep these figures for all builds">
          keep
        </Button>
      </span>
    </label>
  );
}
