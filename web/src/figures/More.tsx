import type { ReactNode } from "react";

/** What is seldom decided, out of the way until it is asked for. */
export function More({ label = "more", children }: { label?: ReactNode; children: ReactNode }) {
  return (
    <details className="more">
      <summary>{label}</summary>
      {children}
    </details>
  );
}
