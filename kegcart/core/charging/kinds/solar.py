"""A solar array and its controller."""

from bisect import bisect_right
from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, model_validator

from kegcart.core.charging import sun
from kegcart.core.charging.charged import Charged
from kegcart.core.charging.climate import SunSizing
from kegcart.core.charging.kinds.base import (
    COMMON,
    ChargingSource,
    Powers,
    Share,
    SourceContext,
    SourceFacts,
    SourceKind,
    SourceSizing,
    Spans,
    own_or,
)
from kegcart.core.charging.yields import Plane, gets_through, shares_of_hours, yields
from kegcart.core.choice import assumed, sized, typical
from kegcart.core.document import Decisions, FieldWords, Said, Words, member
from kegcart.core.figure import Figure
from kegcart.core.loads.document import Window
from kegcart.core.loads.profile import merged, spans
from kegcart.core.reference import ControllerType, PanelType, assumption, constant, controller_types, panel_types
from kegcart.core.reference.boxes import BodyType, body_type
from kegcart.core.units import Count, Current, Facing, Id, Power, Tilt, Voltage, reader

PanelKey = Annotated[
    str,
    member(frozenset(panel_types()), "panel"),
    Said(tuple((p.key, p.label) for p in panel_types().values())),
    Field(examples=["p100"]),
]
ControllerKey = Annotated[str, member(frozenset(controller_types()), "controller"), Field(examples=["mppt-100-30"])]
ControllerKind = Annotated[
    Literal["mppt", "pwm"], Said((("mppt", "MPPT: finds the best voltage"), ("pwm", "PWM: joins panel and pack")))
]
InSeries = Annotated[int, Field(ge=1, le=20), BeforeValidator(reader(""))]
Coefficient = Annotated[float, Field(ge=-0.01, le=0), BeforeValidator(reader(""))]
MOST_IN_SERIES = 20
ShadedThirds = Annotated[int, Field(ge=0, le=999), BeforeValidator(reader(""))]


class PanelSheet(Decisions):
    """A panel by its own sheet, at 25 °C and 1000 W/m²; null: typical of the panel named."""

    watts: Power | None = None
    voc_v: Voltage | None = None
    vmp_v: Voltage | None = None
    isc_a: Current | None = None
    imp_a: Current | None = None
    beta: Coefficient | None = Field(None, description="change of the open voltage for each kelvin, as a share")
    gamma: Coefficient | None = Field(None, description="change of the power for each kelvin, as a share")
    max_fuse_a: Current | None = Field(None, description="greatest series fuse")


class ControllerSheet(Decisions):
    """A controller by its own sheet; null: of the one named or chosen."""

    max_v: Voltage | None = Field(None, description="greatest voltage of the array")
    amps: Current | None = Field(None, description="greatest output current")
    efficiency: Share | None = None


class SolarArray(ChargingSource):
    """Like panels, and the controller between them and what they charge."""

    kind: Literal["solar"]
    panel: PanelKey = "p100"
    panels: Count = 1
    in_series: InSeries | None = Field(None, description="panels in a string; null: chosen")
    sheet: PanelSheet = Field(default_factory=PanelSheet)
    type: ControllerKind = "mppt"
    controller: ControllerKey | None = Field(None, description="null: chosen")
    controller_sheet: ControllerSheet = Field(default_factory=ControllerSheet)
    tilt_deg: Tilt | None = Field(None, description="from level, °; null: best for the poorest month, level on a roof")
    facing_deg: Facing | None = Field(None, description="from north by east, °; null: towards the equator")
    on_roof: bool = Field(False, description="flat on a roof, without air behind")
    shaded_thirds: ShadedThirds = Field(0, description="thirds of a panel, each behind its bypass diode, on which a shadow falls")
    shade: dict[Id, Window] = Field(default_factory=dict, max_length=8, description="hours of that shadow; none: all day")
    share: Share | None = Field(None, description="of its power in the sun's hours, what reaches the pack; null: typical")
    touch_proof: bool = Field(False, description="touch-proof connectors and a DC isolator for its voltage are decided")
    order_marked: bool = Field(False, description="the order of connecting is marked at the controller")

    @model_validator(mode="after")
    def enough_panels(self) -> "SolarArray":
        """Errors: ValueError where a string has more panels than there are."""
        if self.in_series is not None and self.in_series > self.panels:
            raise ValueError(f"a string of {self.in_series} panels is more than the {self.panels} that there are")
        return self


class SolarKind(SourceKind[SolarArray]):
    """The duties of a solar array."""

    key = "solar"
    model = SolarArray
    facts = SourceFacts(
        words=Words("solar array", "a solar array", "solar panels with a controller", "Solar panels"),
        currents="",
        rate="charge_long",
        ends="its current",
        fields=(
            FieldWords("panel", "Panel", "choice"),
            FieldWords("panels", "Panels in all", "quantity"),
            FieldWords("type", "Controller", "choice"),
            FieldWords("tilt_deg", "Tilt", "quantity", "°", "best for the poorest month"),
            FieldWords("facing_deg", "Facing, or S, SW …", "quantity", "°", "the equator"),
            FieldWords("shaded_thirds", "Thirds of a panel in shadow", "quantity"),
            FieldWords("shade", "Hours of that shadow", "hours", empty="all day", needs="shaded_thirds"),
            FieldWords("share", "Of their power arrives", "quantity", "%", "typical"),
            FieldWords("on_roof", "Flat on a roof", "flag"),
            FieldWords("touch_proof", "Touch-proof, with a DC isolator", "flag"),
            FieldWords("order_marked", "Order of connecting marked there", "flag"),
            FieldWords("sheet/watts", "Power of one", "quantity", "W", "as named"),
            FieldWords("sheet/voc_v", "Open-circuit voltage", "quantity", "V", "as named"),
            FieldWords("sheet/vmp_v", "Operating voltage", "quantity", "V", "as named"),
            FieldWords("sheet/isc_a", "Short-circuit current", "quantity", "A", "as named"),
            FieldWords("sheet/imp_a", "Operating current", "quantity", "A", "as named"),
            FieldWords("sheet/max_fuse_a", "Greatest series fuse", "quantity", "A", "as named"),
            FieldWords("controller_sheet/max_v", "Controller stands", "quantity", "V", "as chosen"),
            FieldWords("controller_sheet/amps", "Controller gives", "quantity", "A", "as chosen"),
            *COMMON,
        ),
        owes=(
            "charging.solar-voc",
            "charging.solar-vmp",
            "charging.solar-current",
            "charging.over-60",
            "charging.order",
            "charging.panel-over",
        ),
    )

    def usual_hours(self, source: SolarArray, ctx: SourceContext) -> Spans:
        """From the earliest sunrise of the year until the latest sunset."""
        return [sun.lit(the_sun(ctx).place)]

    def units(self, source: SolarArray) -> tuple[int, int]:
        return 1, 1

    def limits(self, source: SolarArray, sizing: SourceSizing, ctx: SourceContext) -> dict[str, Figure]:
        """Its panels on a cold clear day, and its controller: sizes the array and the controller."""
        array = Array(source, sizing, ctx)
        sizing.extra |= array.sized()
        return {"its panels": sizing.extra["output_cold"], "its controller": sizing.extra["controller_a"]}

    def body(self, source: SolarArray, sizing: SourceSizing) -> BodyType | None:
        """Its controller; the panels stand outside."""
        return body_type(self.key, rating=sizing.current.number)

    def efficiency(self, source: SolarArray, sizing: SourceSizing, ctx: SourceContext) -> Figure:
        """Of its controller, as typed or as sold. Source: controllers table."""
        return sizing.extra["efficiency"]

    def usual_draw(self, source: SolarArray, sizing: SourceSizing) -> Figure | None:
        """Of its controller (controllers table)."""
        return sizing.extra["own_w"]

    def into(self, source: SolarArray, sizing: SourceSizing) -> Figure:
        """What the panels make on a cold clear day, as far as the controller lets it through, A."""
        of = {"I_1": sizing.one, "I_out": sizing.extra["output_cold"], "I_ctl": sizing.extra["controller_a"]}
        return Figure.by("I", "min(I_1, I_out, I_ctl)", "A", f"into {sizing.charged.name}", of)

    def size(self, source: SolarArray, sizing: SourceSizing, ctx: SourceContext) -> None:
        """What the controller clips on a cold clear day, A. Source: what the panels give less what the controller lets through."""
        of = {"I_out": sizing.extra["output_cold"], "I": sizing.current}
        clipped = Figure.by("I_clip", "max(0, I_out − I)", "A", "clipped on a cold clear day", of)
        sizing.extra["clipped"] = ctx.put("clipped", clipped)
        sky, at = the_sun(ctx), sizing.pointer
        sizing.plane = plane_of(source, sizing, ctx)
        if source.type == "mppt" and sizing.extra["output_cold"].number > sizing.extra["controller_a"].number:
            sizing.extra["clipped_days"] = ctx.put("clipped_days", clipped_days(sizing, sizing.plane))
        share = assumed(
            "k_pv", source.share, "sun_share", "share", "of its power in the sun's hours, what arrives", f"{at}/share"
        )
        middle = sizing.charged.half_full()
        let = Figure.by(
            "P_let", "I · V_mid", "W", "that its controller lets through, as it is set", I=sizing.current, V_mid=middle
        )
        plane = sizing.plane
        poor, rich = sun.extreme_months(sky.place, plane.facing)
        for name, month in (("best_tilt_poor", poor), ("best_tilt_rich", rich)):
            ctx.put(name, best_tilt(sky, plane, month))
        made = yields(plane, sizing.extra["sun_power"], let, share, sky.latitude, sky.clearness)
        sizing.extra |= {name: ctx.put(name, figure) for name, figure in made.items()}
        sizing.extra["share"] = share

    def powers(self, source: SolarArray, sizing: SourceSizing, month: int, days: int) -> Powers:
        """Hour by hour what the sun gives of so many days of the month, with seeded clouds."""
        assert sizing.plane is not None
        watts = sizing.extra["sun_power"].number * sizing.extra["share"].number / 1000
        return tuple((h, h + 1.0, watts * sun_w) for h, sun_w in enumerate(sizing.plane.days(month, days)) if sun_w > 0)

    def day_wh(self, source: SolarArray, sizing: SourceSizing, month: int) -> Figure:
        """What the sun brings on the mean day of the month."""
        return sizing.extra[f"yield/{month}"]


def the_sun(ctx: SourceContext) -> SunSizing:
    """The sun where the panels stand; sized wherever there is an array."""
    assert ctx.sun is not None
    return ctx.sun


def plane_of(source: SolarArray, sizing: SourceSizing, ctx: SourceContext) -> Plane:
    """The array as the sun sees it.

    Source: cells flat on a roof are hotter (assumptions table), and their power falls with that (γ of the sheet).
    """
    series, strings = int(sizing.extra["in_series"].number), int(sizing.extra["strings"].number)
    tracks = source.type == "mppt"
    needed = sizing.charged.half_full().number + (constant("buck_headroom") if tracks else 0.0)
    one = sizing.extra["vmp"].number / series
    clear, dark = (gets_through(thirds, series, strings, one, needed, tracks=tracks) for thirds in (0, source.shaded_thirds))
    shadow = merged([part for window in source.shade.values() for part in spans(window, 0, 1)]) or [(0.0, 24.0)]
    hotter = sizing.extra["gamma"].number * constant("roof_cell") if source.on_roof else 0.0
    tilt, facing = sizing.extra["tilt"].number, sizing.extra["facing"].number
    place, shade = the_sun(ctx).place, shares_of_hours(tuple(shadow) if source.shaded_thirds else ())
    return Plane(place, tilt, facing, clear, dark, shares_of_hours(tuple(sizing.hours)), shade, hotter)


def clipped_days(sizing: SourceSizing, plane: Plane) -> Figure:
    """The days of a year on which it makes more than its controller lets through.

    Source: what it gives on a cold clear day goes with the light; days of five clearnesses of each month.
    """
    output, through = sizing.extra["output_cold"], sizing.extra["controller_a"]
    peaks = sun.peaks(plane.place, plane.tilt, plane.facing)
    brighter = len(peaks) - bisect_right(peaks, 1000 * through.number / output.number)
    how = "of the days that stand for the year, those whose brightest quarter of an hour gives more, cells as on a cold clear day"
    return Figure.of(
        "n_bright",
        float(round(365 * brighter / len(peaks))),
        "days",
        "clipped in a year",
        how=how,
        inputs={"I_out": output, "I_ctl": through},
    )


def best_tilt(sky: SunSizing, plane: Plane, month: int) -> Figure:
    """The tilt at which it brings most in a month (from 1), °."""
    tilt = sun.best_tilt_of(sky.place, plane.facing, month)
    how = "the one that brings most, of tilts from level to upright in steps of 5°"
    return Figure.of("β_best", tilt, "°", f"Best tilt in {sun.MONTHS[month - 1]}", how=how, inputs={"φ": sky.latitude})


def battery_class(volts: float) -> float:
    """The voltage class that a controller would call a battery of so many V nominal."""
    return next(c for limit, c in ((18.0, 12.0), (31.0, 24.0), (44.0, 36.0), (1e9, 48.0)) if volts < limit)


class Array:
    """An array on its way to its figures. Voltages in V, currents in A, temperatures of the cells in °C."""

    def __init__(self, source: SolarArray, sizing: SourceSizing, ctx: SourceContext) -> None:
        self.source, self.sizing, self.ctx = source, sizing, ctx
        self.row: PanelType = panel_types()[source.panel]
        charged: Charged = ctx.charged
        self.battery = battery_class(charged.v_nom.number)
        self.middle = charged.half_full()

    def of_sheet(self, symbol: str, name: str, unit: str, label: str) -> Figure:
        """A figure of the panel: of its sheet as typed, or of the one named."""
        own = getattr(self.source.sheet, name)
        return typical(symbol, own, getattr(self.row, name), unit, label, f"{self.sizing.pointer}/sheet/{name}", self.row)

    def sized(self) -> dict[str, Figure]:
        """Every figure of the array, by name, on the sheet.

        Source: V_oc falls and rises with temperature (IEC 61215: β, γ of the sheet); 1.25 × and 1.56 × the short-circuit current (IEC 62548).
        """
        put, source = self.ctx.put, self.source
        voc, vmp = (
            self.of_sheet("V_oc", "voc_v", "V", "open-circuit voltage"),
            self.of_sheet("V_mp", "vmp_v", "V", "operating voltage"),
        )
        isc, imp = (
            self.of_sheet("I_sc", "isc_a", "A", "short-circuit current"),
            self.of_sheet("I_mp", "imp_a", "A", "operating current"),
        )
        watts = self.of_sheet("P_stc", "watts", "W", "power of one panel")
        beta, gamma = self.of_sheet("β", "beta", "1/K", "of the open voltage"), self.of_sheet("γ", "gamma", "1/K", "of the power")
        cold = {"β": beta, "T_min": self.ctx.site.cold_c, "k_voc": assumption("voc_tolerance")}
        rises = {"ΔT_c": assumption("hot_cell")} | ({"ΔT_roof": assumption("roof_cell")} if source.on_roof else {})
        heat = {"T_max": self.ctx.site.hot_c, **rises}
        hot_c = Figure.by("T_hot", " + ".join(heat), "°C", "panel cells in full sun", heat)
        bright_c = Figure.by(
            "T_bright",
            "T_min + ΔT_c / 2",
            "°C",
            "panel cells on a cold clear day",
            T_min=self.ctx.site.cold_c,
            ΔT_c=assumption("hot_cell"),
        )

        one_cold = Figure.by("V_oc", "V_oc · (1 + β · (T_min − 25)) · k_voc", "V", "of one panel, cold", {"V_oc": voc, **cold})
        one_hot = Figure.by("V_mp", "V_mp · (1 + γ · (T_hot − 25))", "V", "of one panel, hot", V_mp=vmp, γ=gamma, T_hot=hot_c)
        series = self.in_series(one_cold.number, one_hot.number)
        strings = Figure.of(
            "n_p", max(1, source.panels // int(series.number)), "", "strings side by side", how="panels over those in a string"
        )
        count = Figure.by("n", "n_s · n_p", "", "panels that are joined", n_s=series, n_p=strings)
        out: dict[str, Figure] = {
            "in_series": series,
            "strings": strings,
            "joined": count,
            "voc_cold": Figure.by("V_oc_cold", "n_s · V_oc", "V", "open voltage of a string, cold", n_s=series, V_oc=one_cold),
            "vmp": Figure.by("V_mp", "n_s · V_mp1", "V", "operating voltage of a string", n_s=series, V_mp1=vmp),
            "vmp_hot": Figure.by("V_mp_hot", "n_s · V_mp", "V", "operating voltage of a string, hot", n_s=series, V_mp=one_hot),
            "isc": Figure.by(
                "I_array",
                "n_p · I_sc · k_isc",
                "A",
                "short-circuit current of the array",
                n_p=strings,
                I_sc=isc,
                k_isc=assumption("sun_current"),
            ),
            "power": Figure.by("P", "n · P_stc", "W", "power of the array", n=count, P_stc=watts),
            "gamma": gamma,
            **self.stands(),
            "max_fuse": self.of_sheet("I_max", "max_fuse_a", "A", "greatest series fuse of a panel"),
        }
        if strings.number >= 3:
            least = Figure.by("I_string", "k_sf · I_sc", "A", "least fuse of a string", k_sf=assumption("string_fuse"), I_sc=isc)
            out["string_fuse"] = least
        out |= self.outputs(out, imp, gamma, bright_c, hot_c)
        controller = self.controller(out)
        own = self.source.controller_sheet
        at = f"{self.sizing.pointer}/controller_sheet"
        said = own_label(controller)
        out |= {
            "controller": sized(
                "controller", source.controller and controller.label, controller.label, "", "controller", f"{self.sizing.pointer}/controller",
                "smallest sold that stands the array cold, and gives what it makes", {"V_oc": out["voc_cold"], "I_out": out["output_cold"]}, f"controller:{source.type}", controller.key,
            ),
            "controller_v": typical("V_ctl", own.max_v, controller.max_v, "V", f"{said}: greatest voltage of an array", f"{at}/max_v", controller),
            "controller_a": typical("I_ctl", own.amps, controller.amps, "A", f"{said}: greatest output", f"{at}/amps", controller),
            "own_w": controller.figure("P_s", controller.own_w, "W", f"{said}: own draw"),
        }  # fmt: skip
        return {name: put(name, figure) for name, figure in out.items()}

    def stands(self) -> dict[str, Figure]:
        """How its panels stand: towards the equator, as steep as is best for the poorest month, or level on a roof."""
        source, sky, at = self.source, the_sun(self.ctx), self.sizing.pointer
        north = sky.latitude.number >= 0
        of, how = {"φ": sky.latitude}, "towards the equator"
        facing = sized(
            "γ_f", source.facing_deg, 180.0 if north else 0.0, "°", "facing, from north by east", f"{at}/facing_deg", how, of
        )
        best = 0.0 if source.on_roof or source.tilt_deg is not None else sun.best_tilt(sky.place, facing.number)
        how = "level on the roof" if source.on_roof else "most in the poorest month, of tilts in steps of 5°"
        tilt = sized("β_t", source.tilt_deg, best, "°", "tilt from level", f"{at}/tilt_deg", how, {**of, "γ_f": facing})
        return {"facing": facing, "tilt": tilt}

    def outputs(
        self, sized_so_far: dict[str, Figure], imp: Figure, gamma: Figure, bright_c: Figure, hot_c: Figure
    ) -> dict[str, Figure]:
        """What it gives into the pack on a cold clear day and in the heat, A.

        Source: P falls with the heat of the cells (γ of the sheet); an MPPT controller gives the power at the pack's voltage, a PWM
        controller the panels' current.
        """
        power = sized_so_far["power"]
        if self.source.type == "pwm":
            eta = Figure.of("η", 1.0, "share", "efficiency", how="nothing is converted: the current passes straight")
            of = {"n_p": sized_so_far["strings"], "I_mp": imp}
            current = Figure.by("I_out", "n_p · I_mp", "A", "what the panels give into the pack", of)
            used = {"n_p": sized_so_far["strings"], "I_mp": imp, "V_mid": self.middle}
            return {
                "sun_power": Figure.by("P_pwm", "n_p · I_mp · V_mid", "W", "power at the pack's own voltage", used),
                "efficiency": eta,
                "output_cold": current,
                "output_hot": Figure.by("I_hot", "I", "A", "in the heat", I=current),
            }
        own = self.source.controller_sheet.efficiency
        eta = own_or("η", own, "mppt_eta", "share", "efficiency of the controller", self.sizing, "controller_sheet/efficiency")
        cold = {"η": eta, "P": power, "γ": gamma, "T": bright_c, "V_mid": self.middle}
        hot = {**cold, "T": hot_c}
        formula = "η · P · (1 + γ · (T − 25)) / V_mid"
        return {
            "sun_power": power,
            "efficiency": eta,
            "output_cold": Figure.by("I_out", formula, "A", "into the pack on a cold clear day", cold),
            "output_hot": Figure.by("I_hot", formula, "A", "into the pack in the heat", hot),
        }

    def needed_v(self) -> float:
        """What a string must hold in the heat for the controller to charge to the end, V."""
        return self.sizing.set_point.number + (constant("buck_headroom") if self.source.type == "mppt" else 0.5)

    def greatest_v(self) -> float:
        """What the controllers that may be taken stand, V."""
        if self.source.controller_sheet.max_v:
            return self.source.controller_sheet.max_v
        if self.source.controller:
            return controller_types()[self.source.controller].max_v
        return max(c.max_v for c in self.offered())

    def offered(self) -> list[ControllerType]:
        """Controllers of its type, the smallest first, for the battery's voltage class where there are any."""
        rising = sorted((c for c in controller_types().values() if c.type == self.source.type), key=lambda c: (c.amps, c.max_v))
        return [c for c in rising if self.battery in c.batteries_v] or rising

    def in_series(self, one_cold: float, one_hot: float) -> Figure:
        """Panels in a string: the fewest with which it charges in the heat, and stays below what the controller stands.

        Source: makers' sheets: an MPPT controller starts 5 V above the battery, and dies above its greatest voltage.
        """
        count, most = self.source.panels, min(self.greatest_v(), constant("array_most")) / constant("voc_margin")
        below = [n for n in range(1, min(count, MOST_IN_SERIES) + 1) if n * one_cold <= most] or [1]
        able = [n for n in below if n * one_hot >= self.needed_v()] or below[-1:]
        auto = max(able, key=lambda n: (count // n * n, -n))
        how = "of those that hold the controller's voltage in the heat and stay below what it stands in the cold, the fewest that use most panels"
        return sized(
            "n_s", self.source.in_series, auto, "", "panels in a string", f"{self.sizing.pointer}/in_series", how, {}, "in-series"
        )

    def controller(self, out: dict[str, Figure]) -> ControllerType:
        """The controller: as decided, or the smallest sold that stands the array and gives what it makes."""
        if self.source.controller:
            return controller_types()[self.source.controller]
        offered, volts = self.offered(), out["voc_cold"].number * constant("voc_margin")
        amps = out["isc"].number if self.source.type == "pwm" else out["output_cold"].number
        stands = [c for c in offered if c.max_v >= volts - 1e-9] or offered[-1:]
        return next((c for c in stands if c.amps >= amps - 1e-9), stands[-1])


def own_label(controller: ControllerType) -> str:
    """What a controller is called at the beginning of a label."""
    return f"controller {controller.label}"
