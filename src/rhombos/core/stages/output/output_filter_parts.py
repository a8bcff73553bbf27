"""The output filter, first part: choke, capacitors, damping (8.4)."""

import numpy as np

from rhombos.core.formulas.numeric import highest_lasting, nearest_in
from rhombos.core.graph.declare import Need, Stage
from rhombos.core.parts.columns import CAPACITOR

MUR = "Mohan, Undeland & Robbins, Power Electronics"
LC = "series choke, shunt capacitor, phasors at the output frequency"

output_filter = Stage("output_filter", "Filter", telling="{filter_inductance} · {filter_capacitance}")
output_filter.bus("ac", "rated_output_voltage", "output_current")
output_filter.view(
    "scope",
    peak="node_peak_voltage",
    inductance="filter_inductance",
    resistance="choke_resistance",
    capacitance="filter_capacitance",
    damping_capacitance="damping_capacitance",
    damping_resistance="damping_resistor",
)
output_filter.hazard("ac_voltage", "rated_output_voltage")


output_filter.give("ripple_share", 0.3, "", r"\Delta_o", 0.05, 1, "Choke ripple over the crest of the rated current (0.2 to 0.4).", "Choke ripple wanted")
output_filter.give("reactive_share", 0.10, "", r"q_C", 0.01, 0.5, "Reactive current of the capacitors over the rated current.", "Reactive current allowed")
output_filter.give("damping_ratio", 3.0, "", r"n_d", 1, 6, "Damping capacitor over filter capacitor (3 to 4).")
output_filter.give(
    "choke_time_constant",
    11e-3,
    "s",
    r"\tau_f",
    1e-4,
    1,
    "Inductance over resistance of the output choke, hot: what its size and copper give [judgement].",
    "Choke L/R",
    judgement=True,
)
output_filter.give("choke_tolerance", 0.1, "", r"\delta_L", 0, 0.5, "How far the choke's inductance may stand low.", "Choke tolerance")
output_filter.give(
    "resistor_price", 0.5, "credit", r"c_{Rd}", 0, 50, "Price of the damping resistor [judgement].", "Price of the damping resistor", judgement=True
)


@output_filter.build(
    unit="H",
    symbol=r"L_\Delta",
    source=MUR,
    title="Choke for the ripple",
    tex=r"\frac{link_setpoint}{{ripple_divisor}\,{carrier_frequency}\,{ripple_share}\sqrt2\,\max_\mathrm{lasting}({output_current})}",
    example=({"link_setpoint": 380, "ripple_divisor": 8, "carrier_frequency": 20e3, "ripple_share": 0.3, "output_current": 4.3}, 1.30190e-3),
)
def inductance_for_ripple(link_setpoint, ripple_divisor, carrier_frequency, ripple_share, output_current):
    """Choke that keeps the ripple to its wanted share of the crest of the rated current."""
    return link_setpoint / (ripple_divisor * carrier_frequency * ripple_share * np.sqrt(2) * highest_lasting(output_current))


output_filter.give(
    "capacitor_room",
    1.35,
    "",
    r"k_C",
    1,
    3,
    "How much less than the reactive current allows the filter capacitor may be: room for a value that is sold [judgement].",
    "Room for a capacitor that is sold",
    judgement=True,
)


@output_filter.build(
    unit="H",
    symbol=r"L_f",
    source="corner at a tenth of the ripple frequency with the capacitor that the reactive current allows",
    title="Choke for the corner",
    tex=r"\frac{{capacitor_room}\,2\pi\,{output_frequency}\,{rated_output_voltage}(1+{damping_ratio})}{{allowed_reactive_current}\left(2\pi\,{highest_corner}\right)^2}",
    example=(
        {
            "capacitor_room": 1.35,
            "output_frequency": 50,
            "rated_output_voltage": 230,
            "damping_ratio": 3,
            "allowed_reactive_current": 0.35,
            "highest_corner": 4000,
        },
        1.76490e-3,
    ),
)
def inductance_for_corner(capacitor_room, output_frequency, rated_output_voltage, damping_ratio, allowed_reactive_current, highest_corner):
    """Choke below which no capacitor puts the corner low enough and draws little enough."""
    per_capacitance = 2 * np.pi * output_frequency * rated_output_voltage * (1 + damping_ratio)
    return capacitor_room * per_capacitance / (allowed_reactive_current * (2 * np.pi * highest_corner) ** 2)


@output_filter.build(
    unit="H",
    symbol="L",
    source=MUR,
    title="Filter choke",
    safe="up",
    tex=r"\mathrm{E96}_\uparrow\left(\max({inductance_for_ripple},{inductance_for_corner})\right)",
    example=({"inductance_for_ripple": 1.3e-3, "inductance_for_corner": 1.1e-3}, 1.3e-3),
)
def filter_inductance(inductance_for_ripple, inductance_for_corner):
    """Whole choke of both lines; it is wound, so in fine steps (E96, upwards)."""
    return nearest_in("E96", "up")(np.maximum(inductance_for_ripple, inductance_for_corner))


output_filter.pick(
    "capacitor",
    "film",
    CAPACITOR,
    title="Filter capacitor",
    source=MUR,
    quantities=(1, 2, 3, 4, 6),
    needs=(
        "capacitor_voltage",
        "corner_high",
        "corner_low",
        # Dampers are sold in steps: theirs may be a little more than what is aimed at.
        Need("Reactive current with the damping aimed at", "allowed_reactive_current", "aimed_reactive_current", 1.1),
        "capacitor_current",
    ),
    sentence="Cheapest AC film capacitor that puts the corner between output and carrier frequency and keeps its current small.",
)
output_filter.pick(
    "damper",
    "film",
    CAPACITOR,
    title="Damping capacitor",
    quantities=(1, 2, 3, 4, 6),
    source=MUR,
    needs=(
        "damper_voltage",
        Need("At least 0.95 of the damping aimed at", "damping_capacitance", "aimed_damping_capacitance", 0.95),
        Need("At most 1.4 of the damping aimed at", "aimed_damping_capacitance", "damping_capacitance", 1 / 1.4),
        "damper_current",
        "reactive",
    ),
    sentence="Cheapest AC film capacitors for the damping branch, near the wanted multiple.",
)


@output_filter.build(unit="F", symbol="C", source="part", title="Filter capacitance", tex=r"{capacitor_quantity}\,{capacitor_capacitance}")
def filter_capacitance(capacitor_quantity, capacitor_capacitance):
    """All filter capacitors in parallel."""
    return capacitor_quantity * capacitor_capacitance


@output_filter.build(unit="F", symbol=r"C_{d,\mathrm{aim}}", source=MUR, title="Damping capacitance aimed at", tex=r"{damping_ratio}\,{filter_capacitance}")
def aimed_damping_capacitance(damping_ratio, filter_capacitance):
    """Wanted multiple of the filter capacitor."""
    return damping_ratio * filter_capacitance


@output_filter.build(unit="F", symbol="C_d", source="part", title="Damping capacitance", tex=r"{damper_quantity}\,{damper_capacitance}")
def damping_capacitance(damper_quantity, damper_capacitance):
    """Capacitance of the damping branch."""
    return damper_quantity * damper_capacitance


@output_filter.build(
    unit="Ω",
    symbol="R_d",
    source=MUR,
    title="Damping resistor",
    tex=r"\mathrm{E12}\left(\sqrt{{filter_inductance}/{filter_capacitance}}\right)",
    example=({"filter_inductance": 1.5e-3, "filter_capacitance": 1.5e-6}, 33),
    decided=True,
)
def damping_resistor(filter_inductance, filter_capacitance):
    """Damping resistor, near the filter's characteristic impedance."""
    return nearest_in("E12")(np.sqrt(filter_inductance / filter_capacitance))


@output_filter.build(
    unit="Hz",
    symbol="f_c",
    source=LC,
    title="Corner frequency",
    tex=r"\frac{1}{2\pi\sqrt{{filter_inductance}{filter_capacitance}}}",
    example=({"filter_inductance": 1.5e-3, "filter_capacitance": 1.5e-6}, 3355.3),
)
def corner_frequency(filter_inductance, filter_capacitance):
    """Corner of choke and capacitor."""
    return 1 / (2 * np.pi * np.sqrt(filter_inductance * filter_capacitance))


@output_filter.build(
    unit="Hz",
    symbol=r"f_{c,max}",
    source=MUR,
    title="Corner at most",
    tex=r"\frac{{carrier_multiple}\,{carrier_frequency}}{10}",
    example=({"carrier_multiple": 2, "carrier_frequency": 20e3}, 4000),
)
def highest_corner(carrier_multiple, carrier_frequency):
    """A tenth of the carrier's ripple frequency."""
    return carrier_multiple * carrier_frequency / 10


@output_filter.build(
    unit="Hz", symbol=r"f_{c,min}", source=MUR, title="Corner at least", tex=r"10\,{output_frequency}", example=({"output_frequency": 50}, 500)
)
def lowest_corner(output_frequency):
    """Ten times the output frequency."""
    return 10 * output_frequency


@output_filter.build(
    unit="A",
    symbol=r"I_C",
    source=LC,
    title="Reactive current",
    tex=r"2\pi\,{output_frequency}\,({filter_capacitance}+{damping_capacitance})\,{rated_output_voltage}",
    example=({"output_frequency": 50, "filter_capacitance": 1e-6, "damping_capacitance": 3e-6, "rated_output_voltage": 230}, 0.289027),
)
def reactive_current(output_frequency, filter_capacitance, damping_capacitance, rated_output_voltage):
    """Current of the capacitors at the output frequency."""
    return 2 * np.pi * output_frequency * (filter_capacitance + damping_capacitance) * rated_output_voltage


@output_filter.build(
    unit="A",
    symbol=r"I_{C,\mathrm{aim}}",
    source=LC,
    title="Reactive current aimed at",
    tex=r"2\pi\,{output_frequency}\,({filter_capacitance}+{aimed_damping_capacitance})\,{rated_output_voltage}",
    example=({"output_frequency": 50, "filter_capacitance": 1e-6, "aimed_damping_capacitance": 3e-6, "rated_output_voltage": 230}, 0.289027),
)
def aimed_reactive_current(output_frequency, filter_capacitance, aimed_damping_capacitance, rated_output_voltage):
    """Current at the output frequency of the filter capacitor and of the damping that belongs to it, whatever stands there yet."""
    return 2 * np.pi * output_frequency * (filter_capacitance + aimed_damping_capacitance) * rated_output_voltage


@output_filter.build(
    unit="A", symbol=r"I_{C,max}", source=MUR, title="Reactive current allowed", tex=r"{reactive_share}\max_\mathrm{lasting}({output_current})"
)
def allowed_reactive_current(reactive_share, output_current):
    """Share of the rated current that the capacitors may draw."""
    return reactive_share * highest_lasting(output_current)


@output_filter.build(
    unit="",
    symbol=r"k_0",
    source=LC,
    title="No-load rise",
    tex=r"\frac{1}{1-(2\pi{output_frequency})^2{filter_inductance}({filter_capacitance}+{damping_capacitance})}",
    example=({"output_frequency": 50, "filter_inductance": 1.5e-3, "filter_capacitance": 1.5e-6, "damping_capacitance": 4.5e-6}, 1.000889),
)
def no_load_rise(output_frequency, filter_inductance, filter_capacitance, damping_capacitance):
    """Output over bridge voltage without load, not regulated."""
    return 1 / (1 - (2 * np.pi * output_frequency) ** 2 * filter_inductance * (filter_capacitance + damping_capacitance))
