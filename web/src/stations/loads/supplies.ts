import type { Load, NewLoad } from "../../api/client";
import { useDesign } from "../../design/store";
import { useReference } from "../../figures/reference";

type Supply = NonNullable<Load["supply"]>;

/** The supplies that a load can be put on, each with what it is in this build; no AC where the brief has no mains. */
export function useSupplies() {
  const { design } = useDesign();
  const supplies = useReference()?.supplies ?? [];
  return (load: Load) => {
    const bank = bankOf(load);
    const volts = design.assessment.figures[`${bank ? `power/banks/${bank}` : "pack"}/v_nom`]?.text;
    return supplies
      .filter((s) => s.key !== "ac" || design.document.brief.mains !== "none" || load.supply === "ac")
      .map((s) => ({
        value: s.key,
        label: s.key === "pack" && volts ? `${bank ? "bank" : s.short}, ${volts}` : s.short,
      }));
  };
}

/** The further bank that a load is said to hang on. */
const bankOf = (load: Load) => (load.bank && load.bank !== "pack" ? load.bank : undefined);

/** What a supply means for a load of this build, in a sentence. */
export function useSupplyMeaning() {
  const { design } = useDesign();
  const supplies = useReference()?.supplies ?? [];
  const { figures, suits_12v } = design.assessment;
  return (load: Load) => {
    const facts = supplies.find((s) => s.key === load.supply);
    if (!facts) return "";
    if (load.supply !== "pack") return `${facts.means}.`;
    const bank = bankOf(load);
    const at = bank ? `power/banks/${bank}` : "pack";
    const means = facts.means.replace("{source}", (bank && design.document.power.banks[bank]?.name) || "the pack");
    const said = `${means}: ${figures[`${at}/v_low`]?.text} to ${figures[`${at}/v_max`]?.text}.`;
    return suits_12v.includes(bank ?? "pack")
      ? `${said} What is made for 12 V in vehicles stands that.`
      : `${said} Only for what is made for that voltage, never for 12 V.`;
  };
}

/** The supply that a new load begins with: AC where there is an inverter to be, else 12 V, straight where the pack suits it. */
export function useUsualSupply() {
  const { design } = useDesign();
  const kinds = useReference()?.kinds;
  return (load: Pick<NewLoad, "kind">): Supply => {
    if (design.document.brief.mains !== "none") return "ac";
    return straightIfItMay("dc_12v", load.kind, design.assessment.suits_12v, kinds);
  };
}

/** 12 V goes straight from a 12 V pack, unless a load of that kind usually wants it steady. */
export function straightIfItMay(
  supply: Supply,
  kind: NewLoad["kind"],
  suits: string[],
  kinds: { key: string; steady: boolean }[] | undefined,
): Supply {
  const steady = kind !== undefined && kinds?.find((k) => k.key === kind)?.steady;
  return supply === "dc_12v" && suits.includes("pack") && !steady ? "pack" : supply;
}
