/**
 * A drawing that the core made of primitives, on the screen: each role by the theme, each area to be picked.
 * What is drawn, and where, is the core's; picks, marks and folds are added here.
 */
import type { CSSProperties, KeyboardEvent } from "react";
import type { Drawing, DrawingArea, DrawingItem, Severity } from "../api/client";
import { belongsTo, useMargin } from "../design/selection";
import { useDesign } from "../design/store";
import { MarkShape } from "../figures/Mark";

interface Props {
  drawing: Drawing;
  label: string;
  selected?: string;
  onSelect?: (pointer: string) => void;
  onFold?: (key: string) => void;
  /** The worst finding of an area, to be marked on it. */
  worst?: (pointer: string) => Severity | undefined;
  style?: CSSProperties;
  /** How large at least what is to be hit is, in units of the drawing. */
  reach?: number;
}

const press = (act: () => void) => (event: KeyboardEvent) => {
  if (event.key !== "Enter" && event.key !== " ") return;
  event.preventDefault();
  event.stopPropagation();
  act();
};

export function Drawn({ drawing, label, selected = "", onSelect, onFold, worst, style, reach = 0 }: Props) {
  return (
    <svg
      className="drawing"
      viewBox={`0 0 ${drawing.width} ${drawing.height}`}
      style={style}
      role="group"
      aria-label={label}
    >
      {drawing.areas.map((area) => (
        <Halo
          key={`${area.pointer} ${area.x}`}
          area={area}
          mark={worst?.(area.pointer)}
          selected={selected === area.pointer || belongsTo(selected, area.pointer)}
          onPick={() => onSelect?.(area.pointer)}
          reach={reach}
        />
      ))}
      <Items items={drawing.items} selected={selected} onPick={onSelect} />
      {drawing.areas.map((area) => (
        <g key={`${area.pointer} ${area.x}`}>
          {onFold && area.fold !== "" && <Fold area={area} onFold={() => onFold(area.fold)} />}
          <AreaMark area={area} mark={worst?.(area.pointer)} />
        </g>
      ))}
    </svg>
  );
}

/** The control of an area. It lies beside what it shows, so that its name is the part's and not all the figures around it. */
function Halo(props: { area: DrawingArea; mark?: Severity; selected: boolean; onPick: () => void; reach: number }) {
  const { area, mark } = props;
  const [w, h] = [Math.max(area.w, props.reach), Math.max(area.h, props.reach)];
  return (
    <g
      className={`pickable ${props.selected ? "selected" : ""}`}
      data-key={area.pointer.split("/").at(-1)}
      onClick={props.onPick}
    >
      <rect x={area.x + (area.w - w) / 2} y={area.y + (area.h - h) / 2} width={w} height={h} fill="transparent" />
      <rect
        className="halo"
        role="button"
        tabIndex={0}
        aria-pressed={props.selected}
        aria-label={`${area.name}${mark ? `, ${mark}` : ""}`}
        onKeyDown={press(props.onPick)}
        x={area.x - 2}
        y={area.y - 3}
        width={area.w + 4}
        height={area.h + 6}
        rx="5"
      />
      {area.hits.map(([left, top, w, h]) => (
        <rect key={`${left} ${top}`} x={left} y={top} width={w} height={h} fill="transparent" />
      ))}
    </g>
  );
}

function AreaMark({ area, mark }: { area: DrawingArea; mark?: Severity }) {
  const [x = 0, y = 0] = area.mark;
  if (!mark) return null;
  return (
    <svg x={x - 7.5} y={y - 7.5} width="15" height="15" viewBox="0 0 16 16" className={`area-mark mark-${mark}`}>
      <circle cx="8" cy="8" r="9" fill="var(--sheet)" />
      <MarkShape kind={mark} />
    </svg>
  );
}

/** Opens or folds what hangs on a block: on the corner where nothing else stands. */
function Fold({ area, onFold }: { area: DrawingArea; onFold: () => void }) {
  const label = area.behind ? `show ${area.behind} behind` : "fold";
  const sign = area.behind ? `+${area.behind}` : "−";
  const wide = sign.length * 7 + 8;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={`${label} ${area.fold}`}
      className="fold"
      onClick={(event) => {
        event.stopPropagation();
        onFold();
      }}
      onKeyDown={press(onFold)}
    >
      <title>{label}</title>
      <rect className="reach" x={area.x + area.w - wide} y={area.y + area.h - 18} width={wide + 10} height="30" />
      <rect x={area.x + area.w + 4 - wide} y={area.y + area.h - 8} width={wide} height="15" rx="7.500" />
      <text x={area.x + area.w + 4 - wide / 2} y={area.y + area.h + 4} textAnchor="middle" fontSize="12">
        {sign}
      </text>
    </g>
  );
}

interface ItemsProps {
  items: DrawingItem[];
  selected?: string;
  onPick?: (pointer: string) => void;
}

/** The items in the core's order: what comes later lies on top. */
export function Items({ items, selected = "", onPick }: ItemsProps) {
  return (
    <>
      {items.map((item, i) => (
        <Item key={i} item={item} chosen={item.of !== undefined && item.of === selected} onPick={onPick} />
      ))}
    </>
  );
}

function Item({ item, chosen, onPick }: { item: DrawingItem; chosen: boolean; onPick?: (pointer: string) => void }) {
  const className = `role-${item.role} ${chosen ? "chosen" : ""}`;
  // What has a name of its own is pointed at itself; all else lets the pointer through to the area beneath.
  const pick = "title" in item && item.title && item.of ? () => onPick?.(item.of ?? "") : undefined;
  switch (item.kind) {
    case "line":
      return (
        <polyline
          className={`${className} stroke`}
          points={item.points.map((p) => p.join(",")).join(" ")}
          strokeWidth={item.width}
        />
      );
    case "box":
      return (
        <rect
          className={`${className} ${item.title ? "titled" : ""}`}
          x={item.x}
          y={item.y}
          width={item.w}
          height={item.h}
          rx={item.radius}
          strokeWidth={item.width}
          onClick={pick}
        >
          {item.title && <title>{item.title}</title>}
        </rect>
      );
    case "circle":
      return (
        <circle
          className={`${className} ${item.title ? "titled" : ""}`}
          cx={item.x}
          cy={item.y}
          r={item.r}
          strokeWidth={item.width}
          onClick={pick}
        >
          {item.title && <title>{item.title}</title>}
        </circle>
      );
    case "text":
      return <Words item={item} />;
  }
}

/** Words of a drawing; those that say a figure pin its working when they are clicked. */
function Words({ item }: { item: Extract<DrawingItem, { kind: "text" }> }) {
  const { design } = useDesign();
  const { pin } = useMargin();
  const path = item.figure ?? "";
  const figure = design.assessment.figures[path];
  const title = figure ? `${figure.label}: click for its working` : item.whole !== item.words ? item.whole : undefined;
  return (
    <text
      className={`role-${item.role} words ${item.bold ? "bold" : ""} ${figure ? "svg-figure" : ""}`}
      x={item.x}
      y={item.y}
      fontSize={item.size}
      textAnchor={item.anchor}
      onClick={
        figure &&
        ((event) => {
          event.stopPropagation();
          pin({ ...figure, path });
        })
      }
    >
      {title && <title>{title}</title>}
      {item.words}
    </text>
  );
}
