"""The DC link, third part: how it is discharged, and what it costs (2.5).

A bleeder that is quick enough for a large link burns watts for ever. From some watts on a resistor is switched across the link
when the set goes off, and the bleeder is only what is left if that fails.
"""

import numpy as np

from rhombos.core.formulas.numeric import highest, nearest_in, up
from rhombos.core.graph.declare import Move, Option
from rhombos.core.stages.link.dc_link import dc_link
from rhombos.core.units import NOT_FITTED

RC, DISCHARGE = "RC discharge", "Discharge"

SAFE, EMPTIED = 60.0, 66.0
"""Volts that a link may keep after switch-off; and from which on a bleeder is made, so that one that never reaches them is emptied too [judgement]."""


def _seconds_an_ohm(link_capacitance, capacitance_tolerance, highest_link):
    """Time to 60 V for every ohm across the link, capacitance at its high tolerance; none where it stands below."""
    return link_capacitance * (1 + capacitance_tolerance) * np.log(np.maximum(highest_link, SAFE) / SAFE)


dc_link.choice(
    "discharge_school",
    {
        "suited": Option("what the watts suit", {"wanted_discharge": -1}),
        "bleeder": Option("bleeder alone", {"wanted_discharge": 0}),
        "switched": Option("switched resistor beside the bleeder", {"wanted_discharge": 1}),
    },
    {"wanted_discharge": ("", "s_0", "1 where a resistor is switched across the link at switch-off, 0 where not, −1 where the bleeder's watts decide.")},
    default="suited",
    sentence="How the link is discharged after switch-off.",
    title="Discharge",
    group=DISCHARGE,
)
dc_link.give(
    "bleeder_heat",
    3.0,
    "W",
    r"P_\mathrm{bl,max}",
    0,
    1e3,
    "Watts that a bleeder may burn for ever; beyond that a resistor is switched instead [judgement].",
    "Bleeder may burn",
    judgement=True,
)
dc_link.give(
    "backup_time",
    300.0,
    "s",
    r"t_\mathrm{alone}",
    1,
    3600,
    "Time to 60 V by the bleeder alone, if the switched resistor fails; a label at the link tells it [judgement].",
    "Time without the switch",
    judgement=True,
)
dc_link.give(
    "switched_time",
    5.0,
    "s",
    r"t_\mathrm{sw}",
    0.1,
    300,
    "Time to 60 V that the switched resistor is made for: 5 s for parts reached after the enclosure is opened; local rules decide.",
    "Time with the switch",
)
dc_link.give(
    "discharge_switch_current",
    4.0,
    "A",
    r"I_\mathrm{sw,rat}",
    0.01,
    1e3,
    "Current that the discharge switch closes onto: a contact, or a switch that conducts without a gate.",
    "Discharge switch, rating",
)
for _name, _price, _what in (("discharge_resistor_price", 0.6, "discharge resistor"), ("discharge_switch_price", 1.4, "discharge switch")):
    dc_link.give(_name, _price, "credit", f"c_{{{_what[10]}}}", 0, 100, f"Price of the {_what} [judgement].", f"Price of the {_what}", judgement=True)


@dc_link.build(
    group=DISCHARGE,
    unit="",
    whole=True,
    low=0.0,
    high=1.0,
    symbol="s",
    source="heat of a bleeder that is quick enough by itself: twice the stored energy times the logarithm, over the time",
    title="Switched discharge",
    decided=True,
    empirical=True,
    tex=r"\begin{cases}{wanted_discharge}&{wanted_discharge}\ge0\\1&\frac{{highest_link}^2{link_capacitance}(1+{capacitance_tolerance})}{discharge_time_wanted}\ln\frac{\max({highest_link},\,60\,\mathrm{V})}{60\,\mathrm{V}}>{bleeder_heat}\\0&\text{else}\end{cases}",
    example=(
        {"wanted_discharge": -1, "highest_link": 400, "link_capacitance": 1.5e-3, "capacitance_tolerance": 0.2, "discharge_time_wanted": 60, "bleeder_heat": 3},
        1,
    ),
)
def switched_discharge(wanted_discharge, highest_link, link_capacitance, capacitance_tolerance, discharge_time_wanted, bleeder_heat):
    """1 where a resistor is switched across the link at switch-off: as asked for, or where a bleeder in time would burn too much."""
    heat = highest_link**2 * _seconds_an_ohm(link_capacitance, capacitance_tolerance, highest_link) / discharge_time_wanted
    return np.where(wanted_discharge >= 0, wanted_discharge, np.where(heat > bleeder_heat, 1.0, 0.0))


@dc_link.build(
    group=DISCHARGE,
    unit="s",
    symbol=r"t_\mathrm{bl}",
    source="the time wanted, or what is left to the bleeder beside a switch",
    title="Time the bleeder may take",
    tex=r"\begin{cases}\max({backup_time},\,{discharge_time_wanted})&{switched_discharge}>0\\{discharge_time_wanted}&\text{else}\end{cases}",
)
def bleeder_time_wanted(backup_time, discharge_time_wanted, switched_discharge):
    """Time to 60 V that the bleeder alone is made for."""
    return np.where(switched_discharge > 0, np.maximum(backup_time, discharge_time_wanted), discharge_time_wanted)


@dc_link.build(
    group=DISCHARGE,
    unit="Ω",
    symbol=r"R_\mathrm{bl}",
    source="RC discharge",
    title="Bleeder",
    safe="down",
    empirical=True,
    tex=r"\mathrm{E12}_\downarrow\left(\frac{bleeder_time_wanted}{{link_capacitance}(1+{capacitance_tolerance})\ln(\max({highest_link},\,66\,\mathrm{V})/60\,\mathrm{V})}\right)",
    example=({"bleeder_time_wanted": 60, "link_capacitance": 470e-6, "capacitance_tolerance": 0.2, "highest_link": 400}, 56e3),
)
def bleeder(bleeder_time_wanted, link_capacitance, capacitance_tolerance, highest_link):
    """Bleeder that brings the link to 60 V in time, capacitance at its high tolerance; next lower preferred value."""
    return nearest_in("E12", "down")(bleeder_time_wanted / _seconds_an_ohm(link_capacitance, capacitance_tolerance, np.maximum(highest_link, EMPTIED)))


@dc_link.build(
    group=DISCHARGE,
    unit="s",
    low=0.0,
    symbol=r"t_{60}",
    source="RC discharge",
    title="Time to 60 V, bleeder alone",
    empirical=True,
    tex=r"{bleeder}\,{link_capacitance}(1+{capacitance_tolerance})\ln\frac{\max({highest_link},\,60\,\mathrm{V})}{60\,\mathrm{V}}",
    example=({"bleeder": 56e3, "link_capacitance": 470e-6, "capacitance_tolerance": 0.2, "highest_link": 400}, 59.917),
)
def discharge_time(bleeder, link_capacitance, capacitance_tolerance, highest_link):
    """Time to 60 V after switch-off by the bleeder alone. Measure; do not trust the bleeder."""
    return bleeder * _seconds_an_ohm(link_capacitance, capacitance_tolerance, highest_link)


dc_link.give("bleeder_piece_power", 2.0, "W", r"P_{bl,1}", 0.1, 100, "Power rating of one resistor of the bleeder.", "Bleeder resistor, power")
dc_link.give("bleeder_piece_voltage", 350.0, "V", r"V_{bl,1}", 50, 5000, "Voltage rating of one resistor of the bleeder.", "Bleeder resistor, volts")
dc_link.give(
    "bleeder_piece_price", 0.08, "credit", r"c_{bl}", 0, 20, "Price of one resistor of the bleeder [judgement].", "Price of a bleeder resistor", judgement=True
)


@dc_link.operation(
    group=DISCHARGE,
    unit="W",
    symbol=r"P_\mathrm{bl}",
    source="Joule's law",
    title="Bleeder loss",
    tex=r"\frac{{link_voltage}^2}{bleeder}",
    example=({"link_voltage": 380, "bleeder": 56e3}, 2.57857),
)
def bleeder_loss(link_voltage, bleeder):
    """Power that the whole bleeder burns, day and night."""
    return link_voltage**2 / bleeder


@dc_link.build(
    group=DISCHARGE,
    unit="",
    whole=True,
    symbol=r"n_\mathrm{bl}",
    source="voltage with a quarter in reserve, power twice over, a string of equal pieces",
    title="Bleeder resistors in series",
    safe="up",
    tex=r"\left\lceil\max\left(\frac{1.25\,{highest_link}}{bleeder_piece_voltage},\;\frac{2\max({bleeder_loss})}{bleeder_piece_power}\right)\right\rceil",
    example=({"highest_link": 400, "bleeder_piece_voltage": 350, "bleeder_loss": 2.6, "bleeder_piece_power": 2}, 3),
)
def bleeder_pieces(highest_link, bleeder_piece_voltage, bleeder_loss, bleeder_piece_power):
    """Equal resistors in series that carry the bleeder's voltage and power."""
    return up(np.maximum(1.25 * highest_link / bleeder_piece_voltage, 2 * highest(bleeder_loss) / bleeder_piece_power))


@dc_link.build(group=DISCHARGE, unit="Ω", symbol=r"R_{bl,1}", source="equal pieces", title="One bleeder resistor", tex=r"\frac{bleeder}{bleeder_pieces}")
def bleeder_piece(bleeder, bleeder_pieces):
    """Value of one resistor of the bleeder; the next higher preferred value lengthens the discharge in proportion."""
    return bleeder / bleeder_pieces


@dc_link.build(
    group=DISCHARGE, unit="V", symbol=r"V_\mathrm{bl}", source="equal pieces", title="Volts on a bleeder resistor", tex=r"\frac{highest_link}{bleeder_pieces}"
)
def bleeder_piece_stress(highest_link, bleeder_pieces):
    """Highest voltage on one resistor of the bleeder."""
    return highest_link / bleeder_pieces


@dc_link.operation(
    group=DISCHARGE, unit="W", symbol=r"P_\mathrm{bl,1}", source="equal pieces", title="Watts in a bleeder resistor", tex=r"\frac{bleeder_loss}{bleeder_pieces}"
)
def bleeder_piece_loss(bleeder_loss, bleeder_pieces):
    """Power in one resistor of the bleeder."""
    return bleeder_loss / bleeder_pieces


@dc_link.build(
    group=DISCHARGE,
    unit="Ω",
    symbol=r"R_\mathrm{dis}",
    source=RC,
    title="Discharge resistor",
    safe="down",
    empirical=True,
    tex=r"\begin{cases}\mathrm{E12}_\downarrow\left(\frac{switched_time}{{link_capacitance}(1+{capacitance_tolerance})\ln(\max({highest_link},\,66\,\mathrm{V})/60\,\mathrm{V})}\right)&{switched_discharge}>0\\10^{12}&\text{else}\end{cases}",
    example=({"switched_discharge": 1, "switched_time": 5, "link_capacitance": 470e-6, "capacitance_tolerance": 0.2, "highest_link": 400}, 3900),
)
def discharge_resistor(switched_discharge, switched_time, link_capacitance, capacitance_tolerance, highest_link):
    """Resistor that a switch puts across the link when the set goes off, by itself in its time; next lower preferred value.

    Not fitted, it counts as open.
    """
    needed = switched_time / _seconds_an_ohm(link_capacitance, capacitance_tolerance, np.maximum(highest_link, EMPTIED))
    return np.where(switched_discharge > 0, nearest_in("E12", "down")(needed), NOT_FITTED["Ω"])


@dc_link.build(
    group=DISCHARGE,
    unit="s",
    low=0.0,
    symbol=r"t_{60,\mathrm{both}}",
    source=RC,
    title="Time to 60 V",
    empirical=True,
    tex=r"\frac{{link_capacitance}(1+{capacitance_tolerance})}{\frac{1}{bleeder}+\frac{1}{discharge_resistor}}\ln\frac{\max({highest_link},\,60\,\mathrm{V})}{60\,\mathrm{V}}",
    example=({"bleeder": 220e3, "discharge_resistor": 3900, "link_capacitance": 470e-6, "capacitance_tolerance": 0.2, "highest_link": 400}, 4.10020),
)
def time_to_60(bleeder, discharge_resistor, link_capacitance, capacitance_tolerance, highest_link):
    """Time to 60 V after switch-off as all of it works together."""
    return _seconds_an_ohm(link_capacitance, capacitance_tolerance, highest_link) / (1 / bleeder + 1 / discharge_resistor)


@dc_link.build(
    group=DISCHARGE,
    unit="J",
    low=0.0,
    symbol=r"E_\mathrm{dis}",
    source="field energy, all of it into one resistor",
    title="Energy of a discharge",
    tex=r"\tfrac12{switched_discharge}\,{link_capacitance}(1+{capacitance_tolerance}){highest_link}^2",
    example=({"switched_discharge": 1, "link_capacitance": 470e-6, "capacitance_tolerance": 0.2, "highest_link": 400}, 45.12),
)
def discharge_energy(switched_discharge, link_capacitance, capacitance_tolerance, highest_link):
    """Energy that the discharge resistor takes each time."""
    return switched_discharge * link_capacitance * (1 + capacitance_tolerance) * highest_link**2 / 2


@dc_link.build(
    group=DISCHARGE,
    unit="J",
    low=0.0,
    symbol=r"E_\mathrm{dis,rat}",
    source="next preferred number",
    title="Discharge resistor's pulse energy",
    decided=True,
    tex=r"\begin{cases}\mathrm{E6}_\uparrow(1.5\,{discharge_energy})&{discharge_energy}>0\\0&\text{else}\end{cases}",
    example=({"discharge_energy": 45.12}, 68),
)
def discharge_pulse_energy(discharge_energy):
    """Pulse energy that the discharge resistor is bought for: half as much again, in the steps that are sold."""
    none = 0 * discharge_energy
    return np.where(discharge_energy > none, nearest_in("E6", "up")(1.5 * discharge_energy), none)


@dc_link.build(
    group=DISCHARGE,
    unit="A",
    low=0.0,
    symbol=r"I_\mathrm{dis}",
    source="Ohm's law",
    title="First current of a discharge",
    tex=r"{switched_discharge}\frac{highest_link}{discharge_resistor}",
    example=({"switched_discharge": 1, "highest_link": 400, "discharge_resistor": 3900}, 0.102564),
)
def discharge_current(switched_discharge, highest_link, discharge_resistor):
    """Current that the discharge switch closes onto, where there is one."""
    return switched_discharge * highest_link / discharge_resistor


@dc_link.build(
    group=DISCHARGE,
    unit="W",
    low=0.0,
    symbol=r"P_\mathrm{stuck}",
    source="Joule's law",
    title="Watts if the switch sticks",
    tex=r"{switched_discharge}\frac{{highest_link}^2}{discharge_resistor}",
    example=({"switched_discharge": 1, "highest_link": 400, "discharge_resistor": 3900}, 41.0256),
)
def stuck_power(switched_discharge, highest_link, discharge_resistor):
    """What the discharge resistor burns for as long as the link is fed while its switch is closed: the front end must see that and stop."""
    return switched_discharge * highest_link**2 / discharge_resistor


dc_link.check(
    "discharge",
    title="Discharge",
    demand="time_to_60",
    capability="discharge_time_wanted",
    fail=1.0,
    hold=1.0,
    harm="people",
    sentence="After switch-off the link takes {demand} to fall to 60 V; {capability} is allowed.",
    why="Whoever opens the box touches what is left.",
    remedies=(Move("bleeder", "down", 5.0), Move("discharge_resistor", "down", 3.0)),
)
dc_link.check(
    "bleeder_alone",
    title="Bleeder alone",
    demand="discharge_time",
    capability="bleeder_time_wanted",
    fail=1.0,
    hold=1.0,
    harm="people",
    sentence="By the bleeder alone the link takes {demand} to fall to 60 V; {capability} is allowed.",
    why="A switch that does not close, or a resistor that has opened, is not seen: then the bleeder is all there is.",
    remedies=(Move("bleeder", "down", 5.0),),
)
dc_link.check(
    "discharge_pulse",
    title="Discharge resistor, energy",
    demand="discharge_energy",
    capability="discharge_pulse_energy",
    fail=1.0,
    hold=1.25,
    harm="people",
    sentence="A discharge puts {demand} into its resistor; it is rated {capability}.",
    why="A resistor that takes more than its pulse rating opens at the first switch-off, and the link stays charged.",
    remedies=(Move("discharge_pulse_energy", "up", 3.0),),
    no_demand="No resistor is switched across the link.",
)
dc_link.check(
    "discharge_switch",
    title="Discharge switch",
    demand="discharge_current",
    capability="discharge_switch_current",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="The discharge switch closes onto {demand}; it is rated {capability}.",
    why="Contacts weld that close onto more.",
    remedies=(Move("discharge_resistor", "up", 4.0), Move("discharge_switch_current", "up", 6.0)),
    no_demand="Nothing is switched across the link.",
)
dc_link.check(
    "bleeder_voltage",
    title="Bleeder, volts",
    demand="bleeder_piece_stress",
    capability="bleeder_piece_voltage",
    fail=1.0,
    hold=1.25,
    harm="people",
    sentence="Each resistor of the bleeder holds {demand}; it is rated {capability}.",
    why="A resistor above its voltage flashes over and opens: then nothing discharges the link.",
    remedies=(Move("bleeder_pieces", "up", 4.0),),
)
dc_link.check(
    "bleeder_power",
    title="Bleeder, watts",
    demand="bleeder_piece_loss",
    capability="bleeder_piece_power",
    fail=1.0,
    hold=2.0,
    harm="people",
    sentence="Each resistor of the bleeder burns {demand}; it is rated {capability}.",
    why="A resistor run hot for years opens: then nothing discharges the link.",
    remedies=(Move("bleeder_pieces", "up", 4.0), Move("discharge_time_wanted", "up", 3.0, "yardstick")),
)
dc_link.order(
    "Bleeder resistor",
    "{bleeder_piece}",
    "{bleeder} in all, of equal pieces in series; each stands {bleeder_piece_power} and {bleeder_piece_voltage}",
    count=("bleeder_pieces",),
    price="bleeder_piece_price",
)

dc_link.order(
    "Discharge resistor",
    "{discharge_resistor}",
    "stands a pulse of {discharge_pulse_energy}; one resistor, or a string, for {highest_link}",
    count=("switched_discharge",),
    price="discharge_resistor_price",
)
dc_link.order(
    "Discharge switch",
    "{discharge_switch_current}",
    "closes when its supply is gone; for {highest_link}; kept open for as long as the front end runs",
    count=("switched_discharge",),
    price="discharge_switch_price",
)

__all__ = ["dc_link"]
