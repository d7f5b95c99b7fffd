/** The single-line diagram: geometry from the core in, SVG out. Each part and each cable can be picked. */
import type { KeyboardEvent, ReactNode } from "react";
import type { Box, Diagram, Figure, Finding, Severity } from "../api/client";
import { useDesign } from "../app/store";
import { belongsTo } from "../app/selection";
import { MarkShape } from "../figures/Mark";
import { fit, SvgFigure, wrap } from "./SvgFigure";

const POLES: Record<string, string> = { "+": "var(--positive)", "-": "var(--negative)", "~": "var(--ac)" };
const WORST: Severity[] = ["stop", "mend", "note"];

interface Props {
  selected: string;
  onSelect: (pointer: string) => void;
  /** The diagram as folded by hand; the one that came with the design where there is none. */
  laid?: Diagram;
  onFold: (key: string) => void;
  /** Current of each part at the moment shown, A; the greatest of the schedule where there is none. */
  now?: Record<string, number>;
}

export function PowerDiagram({ selected, onSelect, laid, onFold, now }: Props) {
  const { design } = useDesign();
  const { document } = design;
  const diagram = laid ?? design.diagram;
  const network = document.power.network;
  const figures = design.assessment.figures as Record<string, Figure>;
  const value = (path: string) => Number(figures[path]?.value ?? 0);
  const biggest = Math.max(value("power/current"), 1);
  const weight = (key: string, pole: string) => {
    if (pole === "~") return 1.8;
    const most = key in network ? value(`power/${key}/current`) : biggest;
    const amps = now ? (now[key] ?? 0) : most;
    return 1.6 + 5 * Math.sqrt(Math.min(1, amps / biggest));
  };
  const pointer = (key: string) =>
    key === "pack"
      ? "/pack"
      : key === "shunt"
        ? "/power/shunt"
        : key in document.power.banks
          ? `/power/banks/${key}`
          : `/power/network/${key}`;
  const worst = (key: string): Severity | undefined => {
    const place = pointer(key);
    const own = design.assessment.findings.filter((f: Finding) => belongsTo(f.place, place));
    return WORST.find((s) => own.some((f) => f.severity === s));
  };
  const width = Math.max(diagram.width, 640);
  const parts = diagram.boxes.filter((box) => box.what === "symbol" && box.part !== "negative" && box.part !== "posts");
  return (
    <div className="squared">
      <svg
        className="drawing"
        viewBox={`0 0 ${width} ${diagram.height}`}
        style={{ minWidth: Math.min(width, 1400) * 0.72, maxHeight: "62vh" }}
        role="group"
        aria-label="Single-line diagram of the power path"
      >
        {diagram.lines.map((line, i) => (
          <polyline
            key={i}
            points={line.points.map((p) => p.join(",")).join(" ")}
            fill="none"
            stroke={line.bypass ? "var(--mend-fill)" : POLES[line.pole]}
            strokeWidth={weight(line.key, line.pole)}
            strokeDasharray={line.bypass ? "7 4" : undefined}
            strokeLinejoin="round"
          />
        ))}
        {diagram.boxes
          .filter((box) => box.part === "negative" || box.part === "posts")
          .map((box) => (
            <Bar key={box.key} box={box} />
          ))}
        {document.power.chassis_bond && <ChassisBond bar={diagram.boxes.find((b) => b.key === "negative")} />}
        {parts.map((box) => {
          const text = diagram.boxes.find((b) => b.key === box.key && b.what === "text");
          const run = diagram.boxes.find((b) => b.key === box.key && b.what === "run");
          const name =
            box.key === "pack"
              ? "Pack"
              : box.key === "shunt"
                ? "Shunt"
                : (network[box.key]?.name ?? document.power.banks[box.key]?.name ?? box.key);
          const at = pointer(box.key);
          const mark = worst(box.key);
          // Beside a fuse or an outlet the label stands to the right, so the mark stands to the left.
          const slim = ["protection", "outlet", "input", "selector", "plug"].includes(box.part) && box.h >= box.w;
          return (
            <Pick
              key={box.key}
              box={box}
              name={name}
              mark={mark}
              selected={belongsTo(selected, at) || selected === at}
              onPick={() => onSelect(at)}
            >
              {[text, run].map(
                (area) =>
                  area && (
                    <rect key={area.what} x={area.x} y={area.y} width={area.w} height={area.h} fill="transparent" />
                  ),
              )}
              <Symbol box={box} name={name} />
              {text && <Words box={text} name={name} />}
              {run && <RunLabel box={run} amps={now?.[box.key]} />}
              {(box.folded > 0 || (box.part === "fuse_block" && box.h > 18)) && (
                <Fold box={box} onFold={() => onFold(box.key)} />
              )}
              {mark && (
                <svg
                  x={slim ? box.x - 15 : box.x + box.w - 9}
                  y={slim ? box.y + 4 : box.y - 8}
                  width="15"
                  height="15"
                  viewBox="0 0 16 16"
                  className={`mark-${mark}`}
                >
                  <circle cx="8" cy="8" r="9" fill="var(--sheet)" />
                  <MarkShape kind={mark} />
                </svg>
              )}
            </Pick>
          );
        })}
      </svg>
    </div>
  );
}

function Pick(props: {
  box: Box;
  name: string;
  mark?: Severity;
  selected: boolean;
  onPick: () => void;
  children: ReactNode;
}) {
  const press = (event: KeyboardEvent) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    event.preventDefault();
    props.onPick();
  };
  // The control lies beside what it shows, so that its name is the part's and not all the figures around it.
  return (
    <g className={`pickable ${props.selected ? "selected" : ""}`} data-key={props.box.key} onClick={props.onPick}>
      <rect
        className="halo"
        role="button"
        tabIndex={0}
        aria-pressed={props.selected}
        aria-label={`${props.name}${props.mark ? `, ${props.mark}` : ""}`}
        onKeyDown={press}
        x={props.box.x - 4}
        y={props.box.y - 3}
        width={props.box.w + 8}
        height={props.box.h + 6}
        rx="5"
      />
      {props.children}
    </g>
  );
}

function Bar({ box }: { box: Box }) {
  return (
    <g>
      <rect x={box.x} y={box.y} width={box.w} height={box.h} rx="2" fill="var(--copper)" stroke="var(--copper-dark)" />
      {Array.from({ length: Math.floor(box.w / 54) }, (_, i) => (
        <circle
          key={i}
          cx={box.x + 20 + i * 54}
          cy={box.y + box.h / 2}
          r="2.800"
          fill="var(--sheet)"
          stroke="var(--ink)"
          strokeWidth=".7"
        />
      ))}
    </g>
  );
}

/** The standard symbol of a bond to the chassis, below the negative bar's left end. */
function ChassisBond({ bar }: { bar?: Box }) {
  if (!bar) return null;
  const x = bar.x + 6;
  const y = bar.y + bar.h;
  return (
    <g stroke="var(--ink)" strokeWidth="1.600" fill="none">
      <title>The negative is bonded to the chassis here, at one point</title>
      <path
        d={`M${x},${y} v6 M${x - 7},${y + 6} h14 M${x - 7},${y + 6} l-3,6 M${x},${y + 6} l-3,6 M${x + 7},${y + 6} l-3,6`}
      />
    </g>
  );
}

function Symbol({ box, name }: { box: Box; name: string }) {
  const { x, y, w, h } = box;
  const middle = x + w / 2;
  switch (box.part) {
    case "protection":
      return (
        <>
          <rect
            x={middle - 6}
            y={y + 4}
            width="12"
            height={h - 8}
            fill="var(--sheet)"
            stroke="var(--ink)"
            strokeWidth="1.400"
          />
          <line x1={middle} x2={middle} y1={y - 1} y2={y + h + 1} stroke="var(--positive)" strokeWidth="2" />
        </>
      );
    case "switch":
      return w > h ? (
        <>
          <rect x={x} y={y + h / 2 - 5} width={w} height="10" fill="var(--sheet)" />
          <line
            x1={x + 3}
            x2={x + w - 7}
            y1={y + h / 2 + 1}
            y2={y + 3}
            stroke="var(--ink)"
            strokeWidth="2"
            strokeLinecap="round"
          />
          <circle cx={x + 3} cy={y + h / 2 + 2} r="3.500" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.400" />
          <circle
            cx={x + w - 3}
            cy={y + h / 2 + 2}
            r="3.500"
            fill="var(--sheet)"
            stroke="var(--ink)"
            strokeWidth="1.400"
          />
        </>
      ) : (
        <>
          <rect x={middle - 6} y={y} width="12" height={h} fill="var(--sheet)" />
          <line
            x1={middle}
            x2={middle + 10}
            y1={y + h - 3}
            y2={y + 5}
            stroke="var(--ink)"
            strokeWidth="2"
            strokeLinecap="round"
          />
          <circle cx={middle} cy={y + 3} r="3" fill="var(--sheet)" stroke="var(--ink)" />
          <circle cx={middle} cy={y + h - 3} r="3" fill="var(--sheet)" stroke="var(--ink)" />
        </>
      );
    case "selector":
      return (
        <>
          <rect x={middle - 6} y={y} width="12" height={h} fill="var(--sheet)" />
          <line
            x1={middle}
            x2={middle - 7}
            y1={y + h - 3}
            y2={y + 5}
            stroke="var(--ink)"
            strokeWidth="2"
            strokeLinecap="round"
          />
          {[middle - 7, middle + 7].map((cx) => (
            <circle key={cx} cx={cx} cy={y + 4} r="3" fill="var(--sheet)" stroke="var(--ink)" />
          ))}
          <circle cx={middle} cy={y + h - 3} r="3" fill="var(--sheet)" stroke="var(--ink)" />
        </>
      );
    case "plug":
      return (
        <>
          <rect x={middle - 6} y={y} width="12" height={h} fill="var(--sheet)" />
          <path
            d={`M${middle - 6},${y + 4} v6 a6,6 0 0 0 12,0 v-6`}
            stroke="var(--ink)"
            strokeWidth="1.600"
            fill="none"
          />
          <line x1={middle} x2={middle} y1={y + 9} y2={y + h} stroke="var(--ink)" strokeWidth="2.400" />
        </>
      );
    case "input":
      return (
        <>
          <circle cx={middle} cy={y + 12} r="9" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.400" />
          <path
            d={`M${middle - 4},${y + 11} L${middle},${y + 6} L${middle + 4},${y + 11} M${middle},${y + 6} V${y + 18}`}
            stroke="var(--holds)"
            strokeWidth="1.800"
            fill="none"
          />
        </>
      );
    case "outlet":
      return (
        <>
          <circle cx={middle} cy={y + 12} r="9" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.400" />
          <path d={`M${middle - 4},${y + 15.5} a4,4 0 0 1 8,0`} stroke="var(--ink)" strokeWidth="1.600" fill="none" />
          <line x1={middle} x2={middle} y1={y + 6} y2={y + 11} stroke="var(--ink)" strokeWidth="1.600" />
        </>
      );
    case "busbar":
      return (
        <>
          <Bar box={box} />
        </>
      );
    case "shunt":
      return (
        <>
          <rect x={x} y={y} width={w} height={h} fill="var(--copper-wash)" stroke="var(--ink)" strokeWidth="1.400" />
          <text x={middle} y={y + 15} textAnchor="middle" className="small" style={{ fontWeight: 600 }}>
            shunt
          </text>
        </>
      );
    case "pack":
      return (
        <>
          <rect x={x} y={y} width={w} height={h} rx="5" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.500" />
          <text x={middle} y={y + 20} textAnchor="middle" className="head">
            {fit(name, w - 12, 13)}
          </text>
          {box.key === "pack" ? (
            <>
              <SvgFigure path="pack/v_nom" x={middle - 6} y={y + 37} textAnchor="end" />
              <SvgFigure path="pack/nominal" x={middle + 4} y={y + 37} />
            </>
          ) : (
            <SvgFigure path={`power/banks/${box.key}/v_nom`} x={middle} y={y + 37} textAnchor="middle" />
          )}
          {Array.from({ length: 6 }, (_, i) => (
            <rect
              key={i}
              x={x + 13 + i * 15}
              y={y + 48}
              width="11"
              height="32"
              rx="2"
              fill="var(--holds-wash)"
              stroke="var(--ink)"
              strokeWidth=".8"
            />
          ))}
          <text x={x + 24} y={y + 12} className="small" style={{ fill: "var(--positive)", fontWeight: 600 }}>
            +
          </text>
          <text x={x + w - 38} y={y + h - 3} className="small" style={{ fontWeight: 600 }}>
            −
          </text>
        </>
      );
    case "fuse_block":
      return (
        <>
          <rect x={x} y={y} width={w} height={h} rx="3" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="1.400" />
          {h > 18 && (
            <>
              <text x={x + 28} y={y + 17} className="head">
                <title>{name}</title>
                {fit(name, w - 90, 13)}
              </text>
              <SvgFigure path={`power/${box.key}/rating`} x={x + w - 8} y={y + 17} textAnchor="end" />
            </>
          )}
        </>
      );
    default:
      return (
        <>
          <rect
            x={x}
            y={y}
            width={w}
            height={h}
            rx="4"
            fill="var(--sheet)"
            stroke={box.part === "inverter" ? "var(--ac)" : "var(--ink)"}
            strokeWidth="1.500"
          />
          <text x={x + 28} y={y + 18} className="head">
            <title>{name}</title>
            {fit(name, w - 34, 12.5)}
          </text>
          <SvgFigure path={`power/${box.key}/rating`} x={x + 28} y={y + 34} />
          <SvgFigure path={`power/${box.key}/current`} x={x + 28} y={y + 47} className="small pale" />
        </>
      );
  }
}

function Words({ box, name }: { box: Box; name: string }) {
  const { key, x, y, w, part } = box;
  if (part === "shunt") return <SvgFigure path="power/shunt/rating" x={x + w / 2} y={y + 12} textAnchor="middle" />;
  if (part === "busbar" || part === "fuse_block") {
    const wide = Math.min(name.length * 5.6, w - 110);
    return (
      <>
        <text x={x} y={y + 13} className="name">
          {fit(name, w - 110, 13.5)}
        </text>
        <SvgFigure
          path={`power/${key}/${part === "busbar" ? "section" : "rating"}`}
          x={x + wide + 12}
          y={y + 13}
          className="label strong"
        />
        <SvgFigure path={`power/${key}/current`} x={x + wide + 58} y={y + 13} className="name pale" />
      </>
    );
  }
  if (part === "outlet" || part === "input") {
    return (
      <>
        <text x={x} y={y + 9} className="name">
          <title>{name}</title>
          {fit(name, w + 6, 13.5)}
        </text>
        <SvgFigure path={`power/${key}/current`} x={x} y={y + 23} className="strong" />
        <Kind path={`power/${key}/connector`} x={x} y={y + 36} w={w + 4} />
      </>
    );
  }
  return (
    <>
      <SvgFigure path={`power/${key}/rating`} x={x} y={y + 11} className="strong" />
      {part === "protection" ? (
        <Kind path={`power/${key}/family`} x={x} y={y + 24} w={w + 4} />
      ) : (
        <text x={x} y={y + 26} className="small pale">
          {fit(name, w)}
        </text>
      )}
    </>
  );
}

/** What kind of fuse or connector it is, in two lines at most. */
function Kind({ path, x, y, w }: { path: string; x: number; y: number; w: number }) {
  const { design } = useDesign();
  const figure = design.assessment.figures[path] as Figure | undefined;
  return (
    <text x={x} y={y} className="small pale">
      <title>{figure?.text}</title>
      {wrap(figure?.text ?? "", w).map((line, i) => (
        <tspan key={i} x={x} dy={i ? 12 : 0}>
          {line}
        </tspan>
      ))}
    </text>
  );
}

/** Opens or folds what hangs on a block. */
function Fold({ box, onFold }: { box: Box; onFold: () => void }) {
  const label = box.folded ? `show ${box.folded} behind` : "fold";
  const wide = label.length * 5.6 + 12;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`${label} ${box.key}`}
      className="fold"
      onClick={(event) => {
        event.stopPropagation();
        onFold();
      }}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        event.stopPropagation();
        onFold();
      }}
    >
      <rect x={box.x + box.w - wide - 46} y={box.y + 5} width={wide} height="16" rx="8" />
      <text x={box.x + box.w - 46 - wide / 2} y={box.y + 17} textAnchor="middle" className="small">
        {label}
      </text>
    </g>
  );
}

function RunLabel({ box, amps }: { box: Box; amps?: number }) {
  const { design } = useDesign();
  const at = `power/${box.key}/run`;
  const able = Number(design.assessment.figures[`${at}/ampacity`]?.value ?? 0);
  const worst = Number(design.assessment.figures[`${at}/loading`]?.value ?? 0);
  const loading = Math.min(1.2, amps === undefined || !able ? worst : amps / able);
  const colour = loading >= 1 ? "var(--stop)" : loading > 0.8 ? "var(--mend-fill)" : "var(--holds)";
  const wide = Math.min(box.w - 30, 46);
  const gauge = String(design.assessment.figures[`${at}/gauge`]?.text ?? "");
  return (
    <>
      <SvgFigure path={`${at}/gauge`} x={box.x} y={box.y + 11} />
      <text x={box.x + gauge.length * 5.2 + 4} y={box.y + 11} className="small pale">
        ·
      </text>
      <SvgFigure path={`${at}/length`} x={box.x + gauge.length * 5.2 + 9} y={box.y + 11} className="small pale" />
      <rect x={box.x} y={box.y + 17} width={wide} height="4" rx="1" fill="var(--rule-soft)" />
      <rect x={box.x} y={box.y + 17} width={wide * Math.min(1, loading)} height="4" rx="1" fill={colour} />
      {amps === undefined ? (
        <SvgFigure path={`${at}/loading`} x={box.x + wide + 5} y={box.y + 23} className="small pale" />
      ) : (
        <text x={box.x + wide + 5} y={box.y + 23} className="small">
          {Number(amps.toPrecision(3))} A
        </text>
      )}
    </>
  );
}
