"""Reverse polarity: four schools side by side (2.2)."""

import numpy as np

from rhombos.core.formulas.numeric import highest_lasting
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.graph.pictures import Seen, Table, Way
from rhombos.core.units import show
from rhombos.core.vocabulary import word

SCHOOLS = "four schools: shunt diode and fuse, series diode, series MOSFET, keyed connector"

polarity = Stage("polarity", "Polarity", path=False, telling="{polarity_school}")
polarity.hazard("fault_current", "fault_current")
polarity.choice(
    "polarity_school",
    {
        "keyed": Option("keyed connector only", {"by_shunt_diode": 0, "by_series_diode": 0, "by_series_switch": 0}),
        "shunt": Option("shunt diode and fuse", {"by_shunt_diode": 1, "by_series_diode": 0, "by_series_switch": 0}),
        "series_diode": Option("series diode", {"by_shunt_diode": 0, "by_series_diode": 1, "by_series_switch": 0}),
        "series_switch": Option("series MOSFET", {"by_shunt_diode": 0, "by_series_diode": 0, "by_series_switch": 1}),
    },
    {
        "by_shunt_diode": ("", r"\sigma_s", "1 where a diode across the input blows the fuse."),
        "by_series_diode": ("", r"\sigma_d", "1 where a diode stands in the line."),
        "by_series_switch": ("", r"\sigma_m", "1 where a MOSFET stands in the line."),
    },
    default="keyed",
    sentence="What happens when the battery is connected the wrong way round.",
    title="Reverse polarity",
)
polarity.give("series_drop", 0.5, "V", "V_F", 0.1, 1.5, "Forward voltage of the series diode (Schottky).", "Drop of the series diode")
polarity.give("series_resistance", 1e-3, "Ω", r"R_{DS}", 1e-5, 0.1, "On-resistance of the series MOSFET, hot.", "Series MOSFET")
polarity.give("series_rating", 80.0, "V", r"V_\mathrm{ser}", 5, 1000, "Voltage that the series part stands the wrong way.", "Series part stands")
polarity.give("series_heat", 5.0, "W", r"P_\mathrm{ser}", 0.1, 1000, "Heat that the series part may make.", "Heat of the series part")
polarity.give(
    "clearing_factor",
    3.0,
    "",
    r"k_\mathrm{clr}",
    1,
    20,
    "Clearing I²t of the fuse over its pre-arcing I²t at this voltage [judgement].",
    "Clearing over pre-arcing",
    judgement=True,
)
polarity.give("shunt_surge", 20000.0, "A^2·s", r"I^2t_D", 1, 1e8, "I²t that the shunt diode stands.", "Shunt diode stands")
polarity.give("series_price", 3.5, "credit", r"c_\mathrm{pol}", 0, 500, "Price of the part that is taken [judgement].", "Price of the part", judgement=True)


@polarity.operation(
    unit="W",
    symbol=r"P_\mathrm{diode}",
    source=SCHOOLS,
    title="Series diode would lose",
    tex=r"{series_drop}\,{source_current}",
    example=({"series_drop": 0.5, "source_current": 40}, 20),
)
def diode_would_lose(series_drop, source_current):
    """Loss of a series diode: at low voltage it is several per cent."""
    return series_drop * source_current


@polarity.operation(
    unit="W",
    symbol=r"P_\mathrm{mos}",
    source=SCHOOLS,
    title="Series MOSFET would lose",
    tex=r"{source_rms_current}^2\,{series_resistance}",
    example=({"source_rms_current": 40, "series_resistance": 1e-3}, 1.6),
)
def switch_would_lose(source_rms_current, series_resistance):
    """Loss of a series MOSFET."""
    return source_rms_current**2 * series_resistance


@polarity.build(
    unit="A^2·s",
    symbol=r"I^2t_\mathrm{clr}",
    source="fuse: clearing is more than pre-arcing",
    title="Fuse lets through, clearing",
    tex=r"{clearing_factor}\,{fuse_heat}",
)
def clearing_heat(clearing_factor, fuse_heat):
    """I²t that a shunt diode must stand until the fuse has cleared."""
    return clearing_factor * fuse_heat


@polarity.build(
    unit="Ω",
    symbol=r"R_\mathrm{pol}",
    source="in series with the line; a diode by its drop at the highest lasting current",
    title="Series part as a resistance",
    start=0.0,
    decided=True,
    tex=r"{by_series_switch}\,{series_resistance}+{by_series_diode}\,\frac{series_drop}{lasting_source_current}",
    example=({"by_series_switch": 0, "series_resistance": 1e-3, "by_series_diode": 1, "series_drop": 0.5, "lasting_source_current": 40}, 12.5e-3),
)
def polarity_resistance(by_series_switch, series_resistance, by_series_diode, series_drop, lasting_source_current):
    """What the series part adds to the line between pack and converter: it lowers the voltage there as the cable does."""
    return by_series_switch * series_resistance + by_series_diode * series_drop / lasting_source_current


@polarity.build(
    unit="W",
    symbol=r"\hat P_\mathrm{ser}",
    source=SCHOOLS,
    title="Heat that lasts",
    tex=r"\max_\mathrm{lasting}\left({by_series_diode}\,{diode_would_lose}+{by_series_switch}\,{switch_would_lose}\right)",
)
def lasting_heat(by_series_diode, diode_would_lose, by_series_switch, switch_would_lose):
    """Highest lasting heat of the series part; a shunt diode and a key make none."""
    return highest_lasting(by_series_diode * diode_would_lose + by_series_switch * switch_would_lose)


@polarity.build(unit="A^2·s", symbol=r"I^2t_\mathrm{ask}", source=SCHOOLS, title="Asked of the shunt diode", tex=r"{by_shunt_diode}\,{clearing_heat}")
def asked_surge(by_shunt_diode, clearing_heat):
    """What is asked of a shunt diode, where there is one."""
    return by_shunt_diode * clearing_heat


@polarity.build(
    unit="V",
    symbol=r"V_\mathrm{ask}",
    source=SCHOOLS,
    title="Asked of the series part",
    tex=r"({by_series_diode}+{by_series_switch})\,{highest_source_voltage}",
)
def asked_voltage(by_series_diode, by_series_switch, highest_source_voltage):
    """What the series part must block when the battery is the wrong way round."""
    return (by_series_diode + by_series_switch) * highest_source_voltage


polarity.check(
    "shunt_diode",
    title="Shunt diode outlasts the fuse",
    demand="asked_surge",
    capability="shunt_surge",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="Until the fuse has cleared {demand} pass; the shunt diode stands {capability}.",
    why="A diode that opens before the fuse does leaves the converter to the battery the wrong way round.",
    remedies=(Move("shunt_surge", "up", 10.0),),
    no_demand="There is no shunt diode.",
)
polarity.check(
    "series_part",
    title="Series part blocks",
    demand="asked_voltage",
    capability="series_rating",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="The wrong way round the series part sees {demand}; it stands {capability}.",
    why="A series part that breaks down protects nothing.",
    remedies=(Move("series_rating", "up", 5.0),),
    no_demand="Nothing stands in the line.",
)
polarity.check(
    "series_heat",
    title="Heat of the series part",
    demand="lasting_heat",
    capability="series_heat",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="The series part makes {demand}; {capability} can be carried off.",
    why="At low voltage and high current a series diode is a stove.",
    remedies=(Move("series_resistance", "down", 5.0), Move("series_heat", "up", 10.0)),
    no_demand="Nothing stands in the line.",
)


@polarity.build(
    unit="credit", symbol="c", source="[judgement] one part", title="Cost", tex=r"({by_shunt_diode}+{by_series_diode}+{by_series_switch})\,{series_price}"
)
def cost(by_shunt_diode, by_series_diode, by_series_switch, series_price):
    """Price of the part that is taken; a key costs nothing here."""
    return (by_shunt_diode + by_series_diode + by_series_switch) * series_price


@polarity.build(unit="", symbol="n", source="count", title="Parts", tex=r"{by_shunt_diode}+{by_series_diode}+{by_series_switch}")
def part_count(by_shunt_diode, by_series_diode, by_series_switch):
    """The one part, where there is one."""
    return by_shunt_diode + by_series_diode + by_series_switch


for _by, _what in (("by_shunt_diode", "Shunt diode"), ("by_series_diode", "Series diode"), ("by_series_switch", "Series MOSFET")):
    polarity.order(_what, "against reverse polarity", "stands {series_rating}", count=(_by,), price="series_price")


@polarity.picture("The wrong way round: four schools", "source_current", "fuse_heat")
def schools(seen: Seen) -> Table:
    """What each costs while running and what it leaves to chance."""
    watts = seen.lasting("output_power") if seen.has("output_power") else np.array([np.nan])
    most = float(np.nanmax(watts)) if np.isfinite(watts).any() else np.nan
    diode, switch = (float(np.nanmax(seen.lasting(n))) for n in ("diode_would_lose", "switch_would_lose"))
    clearing = seen.at("clearing_heat")

    def share(loss: float) -> str:
        return f"{show(loss, 'W', 3)}" + (f", {100 * loss / most:.2g} %" if np.isfinite(most) else "")

    def told(margin: float) -> str:
        return "holds" if margin >= 1.1 else "tight" if margin >= 1 else "fails"

    rated = seen.at("series_rating") / seen.at("highest_source_voltage")
    rows = [
        ("keyed connector only", "nothing", "lugs have no key: a person can still do it", "tight", "keyed"),
        ("shunt diode and fuse", "nothing", f"fuse blows; the diode must stand {show(clearing, 'A^2·s', 3)}", told(seen.at("shunt_surge") / clearing), "shunt"),
        ("series diode", share(diode), "nothing happens", told(min(rated / 1.25 * 1.1, seen.at("series_heat") / diode)), "series_diode"),
        (
            "series MOSFET",
            share(switch),
            "nothing happens; its gate needs a clamp",
            told(min(rated / 1.25 * 1.1, seen.at("series_heat") / switch)),
            "series_switch",
        ),
    ]
    taken = {name: seen.at(by) > 0 for name, by in (("shunt", "by_shunt_diode"), ("series_diode", "by_series_diode"), ("series_switch", "by_series_switch"))}
    taken["keyed"] = not any(taken.values())
    return Table(
        ["School", "Loses while running", "Connected the wrong way"],
        [Way([a, b, c], v, chosen=taken[name]) for a, b, c, v, name in rows],  # type: ignore[arg-type]
        "Running losses at the heaviest lasting corner. Whatever is taken: the electrolytics stand no reverse voltage, so try it with a limited supply.",
    )


word("fuse_heat", "A^2·s", r"I^2t_\mathrm{fuse}", "I²t that the fuse carries for ten milliseconds.", 3600)
word("source_rms_current", "A", r"I_\mathrm{rms}", "Rms current of battery and cable.", 42)

word("polarity_resistance", "Ω", r"R_\mathrm{pol}", "Resistance that the part against reverse polarity adds to the line.", 0.0)
word("lasting_source_current", "A", r"I_\mathrm{last}", "Highest battery current that lasts.", 40)

__all__ = ["polarity"]
