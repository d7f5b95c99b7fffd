import { useState } from "react";
import type { Build, BuildStep } from "../../api/client";
import { QuantityInput } from "../../figures/QuantityInput";
import { SelectField } from "../../figures/fields";
import { Tabs } from "../../figures/Tabs";
import { AT_STEP, isFor, spell, stepOf, sum } from "./build";

interface Props {
  build: Build;
  selected: string;
  onSelect: (pointer: string) => void;
}

const BY = { stage: "by stage", evening: "by evening" } as const;

interface Group {
  key: string;
  name: string;
  why: string;
  steps: BuildStep[];
}

/** The steps in their order: every one as a bolt, those of the open group with their titles. */
export function Order({ build, selected, onSelect }: Props) {
  const [by, setBy] = useState<keyof typeof BY>("stage");
  const step = stepOf(build, selected);
  const groups = grouped(build, by);
  const at = step && groups.find((g) => g.steps.includes(step))?.key;
  const [opened, setOpened] = useState<{ at: string | undefined; key: string }>({
    at,
    key: at ?? groups[0]?.key ?? "",
  });
  // The group of what is selected is open, until another is opened.
  const open = opened.at === at ? opened.key : (at ?? opened.key);
  return (
    <>
      <div className="order-head">
        <div className="tabs mb-0" role="group" aria-label="Grouped">
          <Tabs views={BY} view={by} onView={setBy} />
        </div>
        <div className="order-decisions">
          <SelectField pointer="/assembly/pole_first" label="At the posts" list="Assembly.pole_first" />
          <QuantityInput pointer="/assembly/evening_h" label="An evening" unit="h" />
        </div>
      </div>
      {build.circles.length > 0 && (
        <p className="problem" role="alert">
          It cannot be built in any order: what waits in a circle is among the findings.
        </p>
      )}
      <ol className="order squared" aria-label="Steps in their order">
        {groups.map((group) => (
          <li key={group.key} className={group.key === open ? "open" : ""}>
            <button
              type="button"
              className="order-group"
              aria-expanded={group.key === open}
              onClick={() => setOpened({ at, key: group.key })}
            >
              <span className="order-name">{group.name}</span>
              <span className="faint">
                {group.steps.length} {group.steps.length === 1 ? "step" : "steps"},{" "}
                {spell(sum(group.steps.map((s) => s.minutes)))}
              </span>
            </button>
            {group.key === open ? (
              <>
                <p className="faint order-why">{group.why}</p>
                <ol className="order-steps">
                  {group.steps.map((s) => (
                    <StepLine
                      key={s.key}
                      step={s}
                      chosen={s === step}
                      of={isFor(s.places, selected)}
                      onSelect={onSelect}
                    />
                  ))}
                </ol>
              </>
            ) : (
              <div className="order-bolts">
                {group.steps.map((s) => (
                  <button
                    key={s.key}
                    type="button"
                    className={`order-bolt ${isFor(s.places, selected) ? "of" : ""}`}
                    title={s.title}
                    aria-label={`Step ${s.number}: ${s.title}`}
                    onClick={() => onSelect(AT_STEP + s.key)}
                  >
                    {s.number}
                  </button>
                ))}
              </div>
            )}
          </li>
        ))}
      </ol>
    </>
  );
}

function StepLine(props: { step: BuildStep; chosen: boolean; of: boolean; onSelect: (pointer: string) => void }) {
  const { step, chosen, of, onSelect } = props;
  const checks = step.measures.length;
  return (
    <li>
      <button
        type="button"
        className={`order-step ${chosen ? "selected" : ""} ${of ? "of" : ""}`}
        aria-pressed={chosen}
        onClick={() => onSelect(AT_STEP + step.key)}
      >
        <span className="order-number">{step.number}</span>
        <span className="order-title">{step.title}</span>
        {checks > 0 && <span className="order-check">{checks === 1 ? "check" : `${checks} checks`}</span>}
        {step.caution && (
          <svg className="order-caution" viewBox="0 0 12 12" role="img" aria-label="with a caution">
            <path d="M6 1.200 11.200 10.500H.8z" fill="none" stroke="currentColor" strokeWidth="1.300" />
            <path d="M6 4.300v3M6 8.300v1" stroke="currentColor" strokeWidth="1.300" />
          </svg>
        )}
      </button>
    </li>
  );
}

/** The steps in groups, as they follow one another. */
function grouped(build: Build, by: keyof typeof BY): Group[] {
  if (by === "stage")
    return build.stages
      .map(({ key, name, why }) => ({ key, name, why, steps: build.steps.filter((s) => s.stage === key) }))
      .filter((g) => g.steps.length);
  const evenings = [...new Set(build.steps.map((s) => s.evening))];
  return evenings.map((evening) => {
    const steps = build.steps.filter((s) => s.evening === evening);
    const stages = [...new Set(steps.map((s) => build.stages.find((g) => g.key === s.stage)?.name ?? ""))];
    return { key: String(evening), name: `Evening ${evening}`, why: stages.join(", "), steps };
  });
}
