import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import Button from "react-bootstrap/Button";
import type { NewLoad } from "../../api/client";
import { leaveDraft, useDraft } from "../../design/browser";
import { useSelection } from "../../design/selection";
import { StationFrame } from "../StationFrame";
import { useDesign, useStore } from "../../design/store";
import { Ribbons } from "../../drawings/Ribbons";
import { useReference } from "../../figures/reference";
import { SelectField } from "../../figures/fields";
import { Fig } from "../../figures/Figure";
import { HoursInput } from "../../figures/HoursInput";
import { Mark } from "../../figures/Mark";
import { QuantityInput } from "../../figures/QuantityInput";
import { ApplianceShelf, useAppliances, useAsLoad } from "./ApplianceShelf";
import { dayName } from "../../figures/DaysOn";
import { DaysOfPattern } from "./DaysOfPattern";
import { LoadDetails } from "./LoadDetails";
import { freshId } from "../../design/ids";
import { DutyInput } from "./DutyInput";
import { PASTED_LOADS, PasteLoads } from "./PasteLoads";
import { useSupplies, useUsualSupply } from "./supplies";
import { WhatIfGrown } from "./WhatIfGrown";

const EXAMPLES: NewLoad[] = [
  {
    name: "Work lamps, LED",
    kind: "led",
    count: 2,
    supply: "ac",
    watts: 30,
    windows: { w1: { from_h: 18, to_h: 22 } },
  },
  {
    name: "Cooler",
    kind: "compressor",
    supply: "dc_12v",
    watts: 45,
    cycle: { on_min: 8, off_min: 16 },
    windows: { w1: { from_h: 0, to_h: 24 } },
  },
];

/** The way of Enter through a row that was just typed in. */
const FLOW = ["supply", "watts", "hours"] as const;

const GLANCE: [string, string][] = [
  ["Running peak", "loads/peak"],
  ["Worst surge", "loads/surge"],
  ["Taken from the pack a day", "power/drawn_day"],
  ["Between charges", "power/drawn_away"],
  ["Of the usable energy", "power/energy_share"],
];

export default function Loads() {
  const store = useStore();
  const { design } = useDesign();
  const [selected, select] = useSelection();
  const loads = design.document.loads.items;
  const kinds = useReference()?.kinds;
  const typicalSurge = (kind?: string) => kinds?.find((k) => k.key === kind)?.surge;
  const keys = Object.keys(loads);
  const selectedKey = keys.find(
    (key) => selected === `/loads/items/${key}` || selected.startsWith(`/loads/items/${key}/`),
  );

  const known = useReference()?.supplies ?? [];
  const suppliesOf = useSupplies();
  const usual = useUsualSupply();
  const energies = known.map((s): [string, string] => [
    s.label[0]!.toUpperCase() + s.label.slice(1),
    `loads/energy_${s.key}`,
  ]);
  const [dialog, setDialog] = useState<"" | "shelf" | "paste" | "grown">("");
  const [dayShown, setDayShown] = useState(0);
  const days = design.document.loads.days;
  const day = Math.min(dayShown, days - 1);

  const add = (load: NewLoad) => {
    const key = freshId(load.name, store.get().ahead.loads.items);
    const value = load.measured ? load : { kind: "electronics", supply: usual(load), watts: 0, ...load };
    store.change([{ op: "add", path: `/loads/items/${key}`, value }], `Load added: ${load.name}`);
    return key;
  };
  /** Several at once are one step of undo. */
  const addAll = (all: NewLoad[]) => {
    const used: Record<string, unknown> = store.get().ahead.loads.items;
    const patch = all.map((value) => {
      const key = freshId(value.name, used);
      used[key] = value;
      return { op: "add" as const, path: `/loads/items/${key}`, value };
    });
    store.change(patch, `${all.length} loads added`);
    store.say(`${all.length} loads added.`, true);
  };
  const remove = (key: string) => {
    store.change([{ op: "remove", path: `/loads/items/${key}` }], `Load taken away: ${loads[key]?.name}`);
    store.say(`Taken away: ${loads[key]?.name}.`, true);
    select("");
  };
  const table = useRef<HTMLTableElement>(null);
  /** The row that was just typed in: Enter goes on in it, from its supply to its watts, its hours, and to the next new one. */
  const [fresh, setFresh] = useState("");
  const inRow = (key: string, what: (typeof FLOW)[number]) =>
    table.current?.querySelector<HTMLElement>(`[data-row="${key}"] [data-flow="${what}"] :is(input, select)`);
  const isShown = keys.includes(fresh);
  useEffect(() => {
    if (fresh && isShown) inRow(fresh, "supply")?.focus();
  }, [fresh, isShown]);
  const goOn = (event: KeyboardEvent, key: string) => {
    const at = event.target instanceof HTMLElement && event.target.closest<HTMLElement>("[data-flow]")?.dataset.flow;
    const place = FLOW.findIndex((what) => what === at);
    if (event.key !== "Enter" || event.shiftKey || key !== fresh || place < 0) return;
    event.preventDefault();
    const next = FLOW.slice(place + 1).map((what) => inRow(key, what));
    const field = next.find(Boolean) ?? table.current?.querySelector<HTMLElement>("[data-new]");
    field?.focus();
    if (field instanceof HTMLInputElement) field.select();
  };
  const duplicate = (key: string) => add({ ...loads[key]!, name: `${loads[key]!.name.slice(0, 70)}, 2` });

  const keyInRow = (event: KeyboardEvent, key: string) => {
    if (!event.ctrlKey && !event.metaKey) return;
    if (event.key === "d") {
      event.preventDefault();
      duplicate(key);
    } else if (event.key === "Backspace") {
      event.preventDefault();
      remove(key);
    }
  };

  return (
    <StationFrame
      station="loads"
      title="Loads"
      lead={
        keys.length ? (
          <>
            <Fig path="loads/energy_day" /> a day at the sockets
            {Object.values(loads).some((load) => load.supply === "ac") && (
              <>
                , <Fig path="loads/energy_ac" /> of it through the inverter
              </>
            )}
            . Between charges the pack gives <Fig path="power/drawn_away" /> of <Fig path="power/available" />.
          </>
        ) : (
          "What is to run, when, and from which supply."
        )
      }
      details={
        selectedKey ? (
          <LoadDetails
            id={selectedKey}
            onDuplicate={() => duplicate(selectedKey)}
            onRemove={() => remove(selectedKey)}
          />
        ) : undefined
      }
      glance={[...energies, ...GLANCE]}
      tools={
        <>
          <Button variant="quiet" size="sm" onClick={() => setDialog("shelf")}>
            Appliances…
          </Button>
          <Button variant="quiet" size="sm" onClick={() => setDialog("paste")}>
            Paste…
          </Button>
          <a className="btn btn-quiet btn-sm" href={`/api/designs/${design.id}/loads.csv`}>
            CSV
          </a>
          <Button variant="quiet" size="sm" onClick={() => setDialog("grown")}>
            What if…
          </Button>
        </>
      }
      caution="Take the watts from the plate or a plug-in meter, not from the name: a 20 W difference that runs all day is half a kilowatt-hour."
    >
      <DaysOfPattern day={day} onDay={setDayShown} />
      {keys.length ? (
        <Ribbons selected={selected} onSelect={select} shownDay={day} />
      ) : (
        <div className="empty-state">
          <h2>Begin with what must run</h2>
          <p>
            One row for each kind of device: its watts, how many, from which supply, and the hours it is on. Energy,
            peak and surge follow, and every later station sizes itself by them.
          </p>
          <Button size="sm" onClick={() => setDialog("shelf")}>
            Choose from typical appliances
          </Button>{" "}
          <Button variant="quiet" size="sm" onClick={() => addAll(EXAMPLES)}>
            Put in two examples
          </Button>
        </div>
      )}
      <div className="table-scroll">
        <table className="sheet-table loads" ref={table}>
          <thead>
            <tr>
              <th className="load-name">load</th>
              <th className="load-supply">fed by</th>
              <th className="num" style={{ width: 42 }}>
                count
              </th>
              <th className="num" style={{ width: 70 }}>
                watts, one
              </th>
              <th className="num" style={{ width: 56 }}>
                surge ×
              </th>
              <th className="num load-duty" title="share of the time it is on, while it is switched on">
                duty
              </th>
              <th className="load-hours">hours</th>
              <th className="num" style={{ width: 62 }}>
                a day
              </th>
              <th style={{ width: 26 }}>
                <span className="visually-hidden">worst finding</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {keys.map((key) => {
              const at = `/loads/items/${key}`;
              const worst = design.assessment.findings.find((f) => f.place === at || f.place.startsWith(`${at}/`));
              return (
                <tr
                  key={key}
                  data-row={key}
                  className={selectedKey === key ? "selected" : ""}
                  onFocus={(event) => event.target instanceof HTMLInputElement && selected !== at && select(at)}
                  onBlur={(event) => {
                    if (!event.currentTarget.contains(event.relatedTarget)) setFresh("");
                  }}
                  onKeyDown={(event) => {
                    goOn(event, key);
                    keyInRow(event, key);
                  }}
                >
                  <td>
                    <QuantityInput cell pointer={`${at}/name`} label={`Name of ${loads[key]!.name}`} />
                  </td>
                  <td data-flow="supply">
                    <SelectField
                      cell
                      pointer={`${at}/supply`}
                      label={`Supply of ${loads[key]!.name}`}
                      options={suppliesOf(loads[key]!)}
                    />
                  </td>
                  <td className="num">
                    <QuantityInput cell pointer={`${at}/count`} label={`Count of ${loads[key]!.name}`} />
                  </td>
                  <td className="num" data-flow="watts">
                    {loads[key]!.measured ? (
                      <Fig path={`loads/${key}/watts`} />
                    ) : (
                      <QuantityInput cell pointer={`${at}/watts`} label={`Watts of one ${loads[key]!.name}`} />
                    )}
                  </td>
                  <td className="num">
                    <QuantityInput
                      cell
                      optional
                      pointer={`${at}/surge`}
                      label={`Surge of ${loads[key]!.name}`}
                      placeholder={String(typicalSurge(loads[key]!.kind) ?? "typical")}
                    />
                  </td>
                  <td className="num">
                    <DutyInput id={key} load={loads[key]!} cell />
                  </td>
                  <td data-flow="hours">
                    <HoursInput pointer={`${at}/windows`} of={loads[key]!.name} windows={loads[key]!.windows} />
                    {days > 1 && loads[key]!.days && (
                      <span className="faint small-figure">
                        {loads[key]!.days!.map((d) => dayName(d - 1, design.document.loads.weekdays, true)).join(
                          ", ",
                        ) || "on no day"}
                      </span>
                    )}
                  </td>
                  <td className="num">
                    <Fig path={`loads/${key}/energy`} />
                  </td>
                  <td>{worst && <Mark kind={worst.severity} />}</td>
                </tr>
              );
            })}
            <NewRow
              first={keys.length === 0}
              onAdd={(load) => {
                const key = add(load);
                select(`/loads/items/${key}`);
                setFresh(key);
              }}
              onTable={(text) => {
                leaveDraft(PASTED_LOADS, text);
                setDialog("paste");
              }}
            />
          </tbody>
        </table>
      </div>
      <ApplianceShelf show={dialog === "shelf"} onHide={() => setDialog("")} onAdd={add} />
      {dialog === "paste" && <PasteLoads onHide={() => setDialog("")} onAdd={addAll} />}
      <WhatIfGrown show={dialog === "grown"} onHide={() => setDialog("")} />
    </StationFrame>
  );
}

/** A new row by name: an appliance of the shelf comes with its typical figures, a pasted table opens as one. */
function NewRow(props: { first: boolean; onAdd: (load: NewLoad) => void; onTable: (text: string) => void }) {
  const { first, onAdd, onTable } = props;
  const { design } = useDesign();
  const [typed, setTyped] = useDraft(`${design.id}/new-load`);
  const appliances = useAppliances();
  const asLoad = useAsLoad();
  const input = useRef<HTMLInputElement>(null);
  return (
    <tr>
      <td colSpan={9}>
        <input
          ref={input}
          data-new
          autoFocus={first}
          className="cell-input"
          aria-label="New load: type its name and press Enter"
          placeholder="type a new load and press Enter…"
          maxLength={80}
          list="appliance-names"
          onPaste={(event) => {
            const text = event.clipboardData.getData("text");
            if (!/[\n\t]/.test(text.trim())) return;
            event.preventDefault();
            onTable(text);
          }}
          value={typed ?? ""}
          onChange={(event) => setTyped(event.target.value || null)}
          onKeyDown={(event) => {
            if (event.key !== "Enter" || !typed?.trim()) return;
            event.stopPropagation();
            const known = appliances?.find((a) => a.label.toLowerCase() === typed.trim().toLowerCase());
            onAdd({ ...(known && asLoad(known)), name: typed.trim() });
            setTyped(null);
          }}
        />
        <datalist id="appliance-names">
          {appliances?.map((a) => (
            <option key={a.key} value={a.label} />
          ))}
        </datalist>
      </td>
    </tr>
  );
}
