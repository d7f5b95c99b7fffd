import { useQuery, useQueryClient } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { askAnew } from "../../api/anew";
import { api, take } from "../../api/client";
import { useDesign, useStore } from "../../design/store";
import { NotYet } from "../../figures/NotYet";
import { useShown } from "../../figures/units";
import { useOptions } from "../../figures/reference";

/** The boxes there are, the builder's own first, each with what one must know of it. */
export function ChooseCase({ onDone }: { onDone?: () => void }) {
  const store = useStore();
  const { design } = useDesign();
  const shown = { mm: useShown("mm"), kg: useShown("kg") };
  const sealings = useOptions("Case.sealing");
  const { data, error } = useQuery({ queryKey: ["cases"], queryFn: () => take(api.GET("/api/box/cases")) });
  if (!data) return <NotYet error={error} doing="Fetching the boxes…" />;
  const mm = (value: unknown) => Math.round(shown.mm.to(Number(value)) * 10) / 10;
  const kg = (value: unknown) => (value === null ? "" : Number(shown.kg.to(Number(value)).toPrecision(3)));
  return (
    <div className="table-scroll">
      <table className="sheet-table">
        <thead>
          <tr>
            <th>box</th>
            <th className="num">inside, {shown.mm.unit}</th>
            <th className="num">weighs, {shown.kg.unit}</th>
            <th className="num">holds, {shown.kg.unit}</th>
            <th>sealed</th>
            <th className="num">about</th>
            <th>
              <span className="visually-hidden">take it</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {data.map(({ key, label, figures, price, own }) => (
            <tr key={key}>
              <td>
                {String(figures.name)}
                {own !== null && <span className="faint">, your own</span>}
              </td>
              <td className="num">
                {mm(figures.length_mm)} × {mm(figures.width_mm)} × {mm(figures.height_mm)}
              </td>
              <td className="num">{kg(figures.mass_kg)}</td>
              <td className="num">{kg(figures.rated_kg)}</td>
              <td>{sealings.find((o) => o.value === figures.sealing)?.label}</td>
              <td className="num text-nowrap">{price ? `${price} ${design.document.brief.currency}` : ""}</td>
              <td>
                <Button
                  size="sm"
                  variant="quiet"
                  aria-label={`Take ${label}`}
                  onClick={() => {
                    store.put("/box/case", figures, `Box: ${label}`);
                    onDone?.();
                  }}
                >
                  take
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Keeps the box as it is decided for all builds. */
export function KeepCase() {
  const store = useStore();
  const queries = useQueryClient();
  const { design } = useDesign();
  const { case: own } = design.document.box;
  if (!own) return null;
  const keep = async () => {
    try {
      await take(api.POST("/api/box/cases", { body: { case: own } }));
    } catch (error) {
      store.say(`Not kept: ${(error as Error).message}`);
      return;
    }
    await askAnew(queries, "cases");
    store.say(`Kept for all builds: ${own.name}.`);
  };
  return (
    <Button variant="bare" size="sm" className="ps-0" onClick={() => void store.prepare(keep)}>
      keep it for all builds
    </Button>
  );
}
