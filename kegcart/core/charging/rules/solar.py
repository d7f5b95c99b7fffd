"""A solar array against its controller, what it charges, and the hand that touches it."""

from collections.abc import Iterator

from kegcart.core.catalogue import MEND, NOTE, STOP, judges
from kegcart.core.charging.kinds import SolarArray
from kegcart.core.charging.kinds.base import SourceSizing
from kegcart.core.check import Check, Fault, at_least, at_most, held, is_so, mend, note, stop
from kegcart.core.figure import Figure
from kegcart.core.finding import Remedy, release, set_value
from kegcart.core.reference import assumption, constant, controller_types


def judge_solar(sizing: SourceSizing, source: SolarArray) -> Iterator[Check]:
    """Every check of an array."""
    yield solar_voc(sizing, source)
    yield solar_vmp(sizing, source)
    yield solar_current(sizing, source)
    yield from pwm_waste(sizing, source)
    yield over_60(sizing, source)
    yield panel_over(sizing, source)
    yield order(sizing, source)
    yield from string_fuses(sizing)


def rechosen(sizing: SourceSizing, source: SolarArray) -> list[Remedy]:
    """Controller and strings left to choice, where they were decided."""
    at = sizing.pointer
    fields = [name for name in ("controller", "in_series") if getattr(source, name) is not None]
    own = [f"controller_sheet/{name}" for name in ("max_v", "amps") if getattr(source.controller_sheet, name) is not None]
    out = (
        [Remedy("Let controller and strings be chosen", [release(f"{at}/{name}") for name in (*fields, *own)])]
        if fields or own
        else []
    )
    if source.in_series is None or source.in_series > 1:
        out.append(Remedy("All panels side by side", [set_value(f"{at}/in_series", 1)]))
    return out


@judges("charging.solar-voc", "open voltage in the cold", STOP)
def solar_voc(sizing: SourceSizing, source: SolarArray) -> Check:
    """The open voltage of a string at dawn on the coldest day stays below what its controller stands.

    Source: V_oc rises in the cold (IEC 61215: β of the sheet); tolerance and margin of 3 % each (assumptions table).
    """
    volts, stands = sizing.extra["voc_cold"], sizing.extra["controller_v"]
    limit = Figure.by("V_most", "V_ctl / k_v", "V", "with its margin", V_ctl=stands, k_v=assumption("voc_margin"))
    return at_most(
        "charging.solar-voc",
        f"{sizing.pointer}/in_series",
        volts,
        limit,
        lambda: stop(
            f"{sizing.name}: open and cold, a string stands at {{V_oc}}; the controller is rated for {{V_ctl}}, with a margin {{V_most}}.",
            "One clear frosty dawn kills the controller, and its failure may put the array straight onto the pack.",
            {"V_oc": volts, "V_ctl": stands, "V_most": limit},
            tuple(rechosen(sizing, source)),
        ),
    )


@judges("charging.solar-vmp", "operating voltage in the heat", MEND)
def solar_vmp(sizing: SourceSizing, source: SolarArray) -> Check:
    """The operating voltage of a string in the heat stays far enough above the charging voltage.

    Source: an MPPT controller needs 5 V over what it charges to (assumptions table); a PWM controller no less than that.
    """
    volts = sizing.extra["vmp_hot"]
    headroom = (
        assumption("buck_headroom")
        if source.type == "mppt"
        else Figure.of("ΔV_h", 0.0, "V", "headroom", how="a PWM controller needs none")
    )
    limit = Figure.by("V_need", "V_set + ΔV_h", "V", "needed to charge to the end", V_set=sizing.set_point, ΔV_h=headroom)

    def fault() -> Fault:
        count = source.panels
        able = [n for n in range(1, count + 1) if count % n == 0]
        ranked = sorted(able, key=lambda n: (n * volts.number / sizing.extra["in_series"].number < limit.number, n))
        remedies = rechosen(sizing, source)[:1] if source.in_series or source.controller else []
        one = volts.number / sizing.extra["in_series"].number
        remedies += [
            Remedy(f"{n} panels in each string", [set_value(f"{sizing.pointer}/in_series", n)])
            for n in ranked[:2]
            if n * one >= limit.number
        ]
        need = -(-limit.number // one)
        remedies.append(
            Remedy(
                f"{need:.0f} panels in a string",
                [
                    set_value(f"{sizing.pointer}/panels", int(need * max(1, count // need))),
                    set_value(f"{sizing.pointer}/in_series", int(need)),
                ],
            )
        )
        return mend(
            f"{sizing.name}: in the heat a string works at {{V_mp}}; to charge to {{V_set}} the controller needs {{V_need}}.",
            "On the hottest, sunniest day the pack then stays half full, and nobody knows why.",
            {"V_mp": volts, "V_set": sizing.set_point, "V_need": limit},
            tuple(remedies),
        )

    return at_least("charging.solar-vmp", f"{sizing.pointer}/in_series", volts, limit, fault)


@judges("charging.solar-current", "current of the controller", STOP, MEND, NOTE)
def solar_current(sizing: SourceSizing, source: SolarArray) -> Check:
    """A controller takes what its array gives: an MPPT controller clips what is too much, a PWM controller must never see it.

    Source: 1.25 × the short-circuit current (IEC 62548); an MPPT controller limits its output (makers' sheets).
    """
    at, stands = f"{sizing.pointer}/controller", sizing.extra["controller_a"]
    pwm = source.type == "pwm"
    given = sizing.extra["isc" if pwm else "output_cold"]

    def fault() -> Fault:
        larger = [
            c for c in controller_types().values()
            if c.type == source.type and c.amps >= given.number and c.max_v >= sizing.extra["voc_cold"].number * assumption("voc_margin").number
        ]  # fmt: skip
        remedies = [Remedy("Let the controller be chosen", [release(at), release(f"{sizing.pointer}/controller_sheet/amps")])]
        remedies += [
            Remedy(f"Controller {c.label}", [set_value(at, c.key), release(f"{sizing.pointer}/controller_sheet/amps")])
            for c in larger[:1]
        ]
        fewer = [n for n in range(source.panels - 1, 0, -1) if given.number * n / source.panels <= stands.number]
        remedies += [Remedy(f"{fewer[0]} panels", [set_value(f"{sizing.pointer}/panels", fewer[0])])] if fewer else []
        if pwm:
            return stop(
                f"{sizing.name}: the array gives up to {{I_array}} at the edge of a cloud; its PWM controller is rated for {{I_ctl}}.",
                "A PWM controller cannot limit: what is too much goes through it, and it burns.",
                {"I_array": given, "I_ctl": stands},
                tuple(remedies),
            )
        lost = Figure.by("I_clip", "I_out − I_ctl", "A", "clipped on a cold clear day", I_out=given, I_ctl=stands)
        days = sizing.extra["clipped_days"]
        said = f"{sizing.name}: on a cold clear day the panels would give {{I_out}}; the controller lets {{I_ctl}} through, {{I_clip}} are lost, on {{n_bright}} of a year."
        figures = {"I_out": given, "I_ctl": stands, "I_clip": lost, "n_bright": days}
        if days.number < constant("clip_days"):
            return note(said, "So few days are not worth a larger one; it harms nothing.", figures, tuple(remedies))
        return mend(
            said, "It harms nothing, but panels that are clipped so often were bought for nothing.", figures, tuple(remedies)
        )

    return at_most("charging.solar-current", at, given, stands, fault)


@judges("charging.solar-vmp")
def pwm_waste(sizing: SourceSizing, source: SolarArray) -> Iterator[Check]:
    """Panels on a PWM controller work near the voltage of what they charge.

    Source: a PWM controller passes the current on at the battery's voltage: from 1.6 × of that an MPPT controller pays (practice).
    """
    if source.type != "pwm":
        return
    volts = sizing.extra["vmp"]
    limit = Figure.by(
        "V_pwm",
        "k_pwm · V_nom",
        "V",
        "from here a PWM controller wastes",
        k_pwm=assumption("pwm_ratio"),
        V_nom=sizing.charged.v_nom,
    )
    lost = Figure.by(
        "P_lost",
        "P − I_out · V_nom",
        "W",
        "lost",
        P=sizing.extra["power"],
        I_out=sizing.extra["output_cold"],
        V_nom=sizing.charged.v_nom,
    )
    yield at_most(
        "charging.solar-vmp",
        f"{sizing.pointer}/type",
        volts,
        limit,
        lambda: mend(
            f"{sizing.name} works at {{V_mp}} on a PWM controller, into {{V_nom}}: {{P_lost}} of {{P}} are lost.",
            "A PWM controller passes the current on and throws the voltage away.",
            {"V_mp": volts, "V_nom": sizing.charged.v_nom, "P_lost": lost, "P": sizing.extra["power"]},
            (
                Remedy(
                    "An MPPT controller", [set_value(f"{sizing.pointer}/type", "mppt"), release(f"{sizing.pointer}/controller")]
                ),
                Remedy("All panels side by side", [set_value(f"{sizing.pointer}/in_series", 1)]),
            ),
        ),
    )


@judges("charging.over-60", "touch voltage of the array", STOP, MEND)
def over_60(sizing: SourceSizing, source: SolarArray) -> Check:
    """An array stays below the voltage at which touching is dangerous, or is made touch-proof with a DC isolator.

    Source: 60 V DC (IEC 60364-4-41); 120 V, the limit of extra-low voltage (IEC 61140).
    """
    volts, at = sizing.extra["voc_cold"], f"{sizing.pointer}/touch_proof"
    touch, most, figures = assumption("touch_voltage"), assumption("array_most"), {"V_oc": volts}
    lower = []
    if source.in_series is not None:
        lower.append(Remedy("Let the strings be chosen", [release(f"{sizing.pointer}/in_series")]))
    if int(sizing.extra["in_series"].number) > 1:
        lower.append(Remedy("All panels side by side", [set_value(f"{sizing.pointer}/in_series", 1)]))
    why = "An array cannot be switched off by day, and a DC arc does not go out by itself. Above 120 V it is work under licence."
    stands = f"{sizing.name}: open and cold, a string stands at {{V_oc}}; "
    if volts.number > most.number:

        def beyond() -> Fault:
            return stop(stands + "above {U} DC is outside what can be planned here.", why, {**figures, "U": most}, tuple(lower))

        return at_most("charging.over-60", at, volts, most, beyond)
    if source.touch_proof:
        return held("charging.over-60", at)

    def bare() -> Fault:
        decided = Remedy("Touch-proof connectors, and a DC isolator for this voltage", [set_value(at, True)])
        return mend(stands + "above {U} DC touching is dangerous.", why, {**figures, "U": touch}, (decided, *lower))

    return at_most("charging.over-60", at, volts, touch, bare)


@judges("charging.order", "order of connecting the controller", NOTE)
def order(sizing: SourceSizing, source: SolarArray) -> Check:
    """The order in which a controller is connected is marked beside it: battery first, array second, off in the other order.

    Source: makers' sheets: a controller that sees its array without a battery may put out its open voltage.
    """
    at = f"{sizing.pointer}/order_marked"
    return is_so(
        "charging.order",
        at,
        source.order_marked,
        lambda: note(
            f"{sizing.name}: battery first, array second, and off in the other order; open, the array stands at {{V_oc}}.",
            "A controller that has no battery yet takes its voltage from the array, and puts that on whatever comes next.",
            {"V_oc": sizing.extra["voc_cold"]},
            (Remedy("The order is marked at the controller", [set_value(at, True)]),),
        ),
    )


@judges("charging.string-fuse", "fuse of each string", STOP)
def string_fuses(sizing: SourceSizing) -> Iterator[Check]:
    """From three strings on each has a fuse, no larger than its panels stand.

    Source: 1.56 × the short-circuit current, and the greatest series fuse of the sheet (IEC 62548).
    """
    least = sizing.extra.get("string_fuse")
    if least is None:
        yield held("charging.string-fuse", f"{sizing.pointer}/in_series")
        return
    most = sizing.extra["max_fuse"]
    strings = sizing.extra["strings"]
    yield at_most(
        "charging.string-fuse",
        f"{sizing.pointer}/in_series",
        least,
        most,
        lambda: stop(
            f"{sizing.name}: {{n_p}} strings side by side need a fuse of {{I_string}} each; the panels stand {{I_max}} at most.",
            "In a shaded or broken string all the others flow backwards: without a fuse that fits, the panel is the fuse.",
            {"n_p": strings, "I_string": least, "I_max": most},
            (
                Remedy(
                    "A pair of strings at most",
                    [set_value(f"{sizing.pointer}/in_series", max(1, -(-int(sizing.extra["joined"].number) // 2)))],
                ),
            ),
        ),
    )


@judges("charging.panel-over", "panels in strings alike", NOTE)
def panel_over(sizing: SourceSizing, source: SolarArray) -> Check:
    """Every panel is in a string, and all strings are alike.

    Source: strings of unlike voltage on one controller pull each other down (makers' sheets).
    """
    joined, series = int(sizing.extra["joined"].number), int(sizing.extra["in_series"].number)
    at = f"{sizing.pointer}/panels"
    there = Figure.decided("n_all", source.panels, "", "panels that there are", at)

    def fault() -> Fault:
        return note(
            f"{sizing.name}: of {{n_all}} panels {{n}} are joined, in strings of {{n_s}}.",
            "One that is over in a string of its own would pull all others down to its voltage; it is left out.",
            {"n_all": there, "n": sizing.extra["joined"], "n_s": sizing.extra["in_series"]},
            (
                Remedy(f"{joined + series} panels", [set_value(at, joined + series)]),
                Remedy(f"{joined} panels", [set_value(at, joined)]),
            ),
        )

    return is_so("charging.panel-over", at, joined == source.panels, fault)
