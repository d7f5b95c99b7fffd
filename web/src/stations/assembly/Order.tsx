import { useState } from "react";
import type { Build, BuildStep, StepStanding } from "../../api/client";
import { QuantityInput } from "../../figures/QuantityInput";
import { SelectField } from "../../figures/fields";
import { Tabs } from "../../figures/Tabs";
import { AT_STEP, isFor, spell, stepOf, sum } from "./build";
import { TO_DO, useStandings, WORDS } from "./standing";
import { StepMark } from "./StepMark";

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
  const standing = useStandings();
  const groups = grouped(build, by);
  const next = build.steps.find((s) => TO_DO.includes(standing(s.key).state));
  const at = step && groups.find((g) => g.steps.includes(step))?.key;
  const first = groups.find((g) => next && g.steps.includes(next)) ?? groups[0];
  const [opened, setOpened] = useState<{ at: string | undefined; key: string | undefined }>({ at, key: at });
  // The group of what is selected is open, until another is opened; without either that of the next step.
  const open = (opened.at === at ? opened.key : (at ?? opened.key)) ?? first?.key;
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
                {counted(group.steps.length, group.steps.filter((s) => standing(s.key).state === "done").length)},{" "}
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
                      state={standing(s.key).state}
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
                    className={`order-bolt ${standing(s.key).state} ${isFor(s.places, selected) ? "of" : ""}`}
                    title={s.title}
                    aria-label={`Step ${s.number}: ${s.title}, ${WORDS[standing(s.key).state]}`}
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

/** How many steps there are, and how many of them are done. */
const counted = (steps: number, done: number) =>
  done ? `${done} of ${steps} done` : steps === 1 ? "1 step" : `${steps} steps`;

interface LineProps {
  step: BuildStep;
  chosen: boolean;
  of: boolean;
  state: StepStanding["state"];
  onSelect: (pointer: string) => void;
}

function StepLine({ step, chosen, of, state, onSelect }: LineProps) {
  const checks = step.measures.length;
  return (
    <li>
      <button
        type="button"
        className={`order-step ${state} ${chosen ? "selected" : ""} ${of ? "of" : ""}`}
        aria-pressed={chosen}
        onClick={() => onSelect(AT_STEP + step.key)}
      >
        <StepMark state={state} />
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
