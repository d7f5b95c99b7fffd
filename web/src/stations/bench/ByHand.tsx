import { useMutation } from "@tanstack/react-query";
import { useId } from "react";
import Button from "react-bootstrap/Button";
import { api, take } from "../../api/client";
import { useDraft } from "../../design/browser";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { useShown } from "../../figures/units";

type Kind = "joints" | "rise" | "sag";
interface Asked {
  kind: Kind;
  title: string;
  how: string;
  fields: [name: string, label: string, unit: string][];
}

const ASKED: Asked[] = [
  {
    kind: "joints",
    title: "Joints of one kind",
    how: "Under 50 A or more, millivolts from bolt to bar, probes beside the lug, not on it. A joint is bad by its like: more than twice their median.",
    fields: [
      ["amps", "current", "A"],
      ["drops", "each joint, apart by spaces", "mV"],
    ],
  },
  {
    kind: "rise",
    title: "Where a temperature settles",
    how: "One load held, three readings at equal intervals; leave out the first two minutes, which are the thermometer’s own.",
    fields: [
      ["around", "around it", "°C"],
      ["first", "first", "°C"],
      ["second", "second", "°C"],
      ["third", "third", "°C"],
      ["every", "interval", "min"],
      ["watts", "heat in it, if known", "W"],
    ],
  },
  {
    kind: "sag",
    title: "The parts of the pack’s resistance",
    how: "From rest one step of current, at the posts: volts before it, then one second, one minute and five minutes after.",
    fields: [
      ["amps", "step", "A"],
      ["rested", "rested", "V"],
      ["early", "after 1 s", "V"],
      ["middle", "after 60 s", "V"],
      ["late", "after 300 s", "V"],
    ],
  },
];

/** What a few readings with one meter and a watch say. */
export function ByHand() {
  return (
    <>
      <h2 className="form-group-title">With one meter and a watch</h2>
      {ASKED.map((asked) => (
        <OneKind key={asked.kind} asked={asked} />
      ))}
    </>
  );
}

function OneKind({ asked }: { asked: Asked }) {
  const { design } = useDesign();
  const degrees = useShown("°C");
  const [kept, keep] = useDraft(`by-hand.${asked.kind}.${design.id}`);
  const typed: Record<string, string> = kept ? (JSON.parse(kept) as Record<string, string>) : {};
  const id = useId();
  const said = useMutation({
    mutationFn: () => {
      const { drops = "", ...others } = typed;
      const degreesOf = Object.fromEntries(asked.fields.map(([name, , unit]) => [name, unit === "°C"]));
      const values = Object.entries(others).map(([name, text]) => [name, degreesOf[name] ? degrees.sent(text) : text]);
      return take(
        api.POST("/api/designs/{design_id}/by-hand", {
          params: { path: { design_id: design.id } },
          body: {
            kind: asked.kind,
            values: Object.fromEntries(values) as Record<string, string>,
            drops: drops.split(/[\s;]+/).filter((drop) => /\d/.test(drop)),
          },
        }),
      );
    },
  });
  return (
    <form
      className="with-a-meter"
      aria-labelledby={id}
      onSubmit={(event) => {
        event.preventDefault();
        said.mutate();
      }}
    >
      <h3 id={id}>{asked.title}</h3>
      <p className="faint">{asked.how}</p>
      <div className="with-a-meter-fields">
        {asked.fields.map(([name, label, unit]) => (
          <label key={name} className={name === "drops" ? "wide" : ""}>
            <span>{label}</span>
            <input
              className="form-control form-control-sm"
              placeholder={unit === "°C" ? degrees.unit : unit}
              value={typed[name] ?? ""}
              onChange={(event) => {
                said.reset();
                keep(JSON.stringify({ ...typed, [name]: event.target.value }));
              }}
            />
          </label>
        ))}
        <Button type="submit" size="sm" variant="quiet" disabled={said.isPending}>
          What does it say?
        </Button>
      </div>
      {said.error && (
        <p className="problem" role="alert">
          {said.error.message}
        </p>
      )}
      {said.data && (
        <dl className="with-a-meter-said" role="status">
          {said.data.figures.map((figure) => (
            <div key={figure.label}>
              <dt>{figure.label}</dt>
              <dd>
                <Fig figure={figure} />
              </dd>
            </div>
          ))}
          {said.data.joints.map((joint, n) => (
            <div key={n} className={joint.bad ? "off" : ""}>
              <dt>joint {n + 1}</dt>
              <dd>
                <Fig figure={joint.ohm} />, <Fig figure={joint.heat} /> of heat
                {joint.bad && ": bad, clean it and make it anew"}
              </dd>
            </div>
          ))}
        </dl>
      )}
    </form>
  );
}
