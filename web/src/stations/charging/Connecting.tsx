import { useDesign } from "../../design/store";

interface Way {
  on: [string, string][];
  off: [string, string][];
}

/** The order of connecting and taking off, each step with its reason, by kind of source. */
const WAYS: Record<string, Way> = {
  mains: {
    on: [
      ["The pack's side first, at the charge inlet.", "A charger that is live with no battery sparks at the plug."],
      ["Then its plug into the wall.", "It finds the battery, and begins gently."],
      ["Stay with it, or have it where a fire reaches nothing.", "No lithium chemistry is safe when overcharged."],
    ],
    off: [
      ["The wall plug first.", "Whatever arcs then does so at no current."],
      ["Then the pack's side.", "Its contacts carry nothing any more."],
    ],
  },
  solar: {
    on: [
      [
        "Controller to the battery, with its fuse in.",
        "It takes its voltage from the battery, and must see that first.",
      ],
      ["Check what it says of the battery.", "A wrong class charges to a wrong voltage."],
      [
        "Then the array, its switch last.",
        "By day the plugs of an array are live, and a DC arc does not go out by itself.",
      ],
    ],
    off: [
      ["The array's switch, then its plugs.", "Pulled under load they draw an arc."],
      ["Then the battery.", "A controller that keeps only its array may put out its open voltage."],
    ],
  },
  vehicle: {
    on: [
      ["The station's end first, its fuse in.", "The vehicle's battery gives thousands of ampere into a short."],
      ["Then the fuse at the vehicle's battery.", "Until then the long cable is dead."],
      ["Start the engine, and clamp the current.", "What is calculated is held against what flows."],
    ],
    off: [
      ["Engine off, the converter stops.", "The plug then carries nothing."],
      ["The fuse at the vehicle's battery out, before the cable is taken away.", "A loose live end finds metal."],
    ],
  },
  other: {
    on: [
      ["Set its voltage with nothing connected, by a meter.", "A module fresh from its bag may stand anywhere."],
      ["Then the pack, with its fuse in.", "The diode or its own switch keeps the pack from feeding back."],
      ["Then what feeds it.", "It begins from nothing, at its current limit."],
    ],
    off: [
      ["What feeds it first.", "So it is the pack that is left, with nothing to give into."],
      ["Then the pack.", "No current, no arc."],
    ],
  },
};

/** How each source is connected and taken off, where the act happens. */
export function Connecting() {
  const { design } = useDesign();
  const { sources } = design.document.charging;
  return (
    <div className="connecting">
      {design.assessment.charging.map(({ key, kind }) => {
        const way = WAYS[kind] ?? WAYS.other!;
        return (
          <section key={key} aria-label={`Connecting ${sources[key]?.name}`}>
            <h2>{sources[key]?.name}</h2>
            <div className="two-ways">
              {(["on", "off"] as const).map((which) => (
                <div key={which}>
                  <h3>{which === "on" ? "Connecting" : "Taking off"}</h3>
                  <ol>
                    {way[which].map(([what, why]) => (
                      <li key={what}>
                        {what} <span className="faint">{why}</span>
                      </li>
                    ))}
                  </ol>
                </div>
              ))}
            </div>
          </section>
        );
      })}
    </div>
  );
}
