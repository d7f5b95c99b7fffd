import type { Diagram } from "../api/client";

const POLES: Record<string, string> = { "+": "var(--positive)", "-": "var(--negative)", "~": "var(--ac)" };

/** The single-line diagram without words, small. */
export function Sketch({ diagram }: { diagram: Diagram }) {
  const bars = new Set(["busbar", "negative", "posts"]);
  return (
    <svg
      viewBox={`0 0 ${Math.max(diagram.width, 480)} ${Math.max(diagram.height, 320)}`}
      preserveAspectRatio="xMidYMid meet"
      aria-hidden
    >
      {diagram.lines.map((line, i) => (
        <polyline
          key={i}
          points={line.points.map((p) => p.join(",")).join(" ")}
          fill="none"
          stroke={POLES[line.pole]}
          strokeWidth="3.500"
        />
      ))}
      {diagram.boxes
        .filter((box) => box.what === "symbol")
        .map((box) =>
          box.part === "outlet" ? (
            <circle
              key={box.key}
              cx={box.x + box.w / 2}
              cy={box.y + 12}
              r="10"
              fill="var(--sheet)"
              stroke="var(--ink)"
              strokeWidth="2.500"
            />
          ) : (
            <rect
              key={box.key}
              x={box.x}
              y={box.y}
              width={box.w}
              height={box.h}
              rx="4"
              fill={bars.has(box.part) ? "var(--copper)" : box.part === "pack" ? "var(--holds-wash)" : "var(--sheet)"}
              stroke={bars.has(box.part) ? "var(--copper-dark)" : "var(--ink)"}
              strokeWidth="2.500"
            />
          ),
        )}
    </svg>
  );
}
