"""Output protection, second part: the relay's window, the surge arrester (7.3)."""

from rhombos.core.formulas.numeric import next_of
from rhombos.core.graph.declare import Move
from rhombos.core.stages.output.output_protection import output_protection

ARRESTERS = (11.0, 17.0, 25.0, 35.0, 50.0, 75.0, 95.0, 115.0, 130.0, 150.0, 175.0, 230.0, 250.0, 275.0, 300.0, 320.0, 385.0, 420.0, 510.0)
ENERGIES = (10.0, 20.0, 40.0, 80.0, 160.0, 320.0, 640.0, 1280.0)
"""Joules that arresters are sold for, once."""

output_protection.give("window_share", 0.1, "", r"\delta_w", 0.01, 0.5, "Window of the output relay, either way of the rated voltage.", "Window of the relay")
output_protection.give("window_tolerance", 0.015, "", r"\delta_{w,t}", 0, 0.1, "Tolerance of the window.", "Tolerance of the window")
output_protection.give("window_delay", 0.2, "s", r"t_w", 0, 10, "Delay of the window, so that starts do not open the relay.", "Delay of the window")


@output_protection.build(
    unit="V", symbol=r"V_{w,\mathrm{hi}}", source="window about the rated voltage", title="Relay opens above", tex=r"{rated_output_voltage}(1+{window_share})"
)
def window_high(rated_output_voltage, window_share):
    """Output voltage above which the relay opens."""
    return rated_output_voltage * (1 + window_share)


@output_protection.build(
    unit="V", symbol=r"V_{w,\mathrm{lo}}", source="window about the rated voltage", title="Relay opens below", tex=r"{rated_output_voltage}(1-{window_share})"
)
def window_low(rated_output_voltage, window_share):
    """Output voltage below which the relay opens."""
    return rated_output_voltage * (1 - window_share)


@output_protection.build(
    unit="V", symbol=r"V_{w,\mathrm{hi,min}}", source="tolerance", title="Relay opens above, lowest", tex=r"{window_high}(1-{window_tolerance})"
)
def lowest_window_high(window_high, window_tolerance):
    """Upper edge of the window at its low tolerance."""
    return window_high * (1 - window_tolerance)


@output_protection.build(
    unit="V",
    symbol=r"V_\mathrm{ok}",
    source="tolerance of the brief",
    title="Output at its highest",
    tex=r"{rated_output_voltage}(1+{output_voltage_tolerance})",
)
def highest_in_service(rated_output_voltage, output_voltage_tolerance):
    """Highest rms output that the brief allows in service."""
    return rated_output_voltage * (1 + output_voltage_tolerance)


@output_protection.build(
    unit="V",
    symbol=r"V_\mathrm{mov}",
    source="[judgement] a fifth above the output, as arresters are sold",
    title="Surge arrester",
    empirical=True,
    tex=r"\operatorname{arrester}_\uparrow(1.2\,{rated_output_voltage})",
    example=({"rated_output_voltage": 230}, 300),
)
def arrester_voltage(rated_output_voltage):
    """Rated rms voltage of the arrester across the output."""
    return next_of(ARRESTERS, 1.2 * rated_output_voltage)


@output_protection.build(
    unit="J",
    symbol=r"E_\mathrm{choke}",
    source="field energy",
    title="Energy that an opening relay sets free",
    tex=r"\tfrac12\,{filter_inductance}\,{output_trip_level}^2",
    example=({"filter_inductance": 1.5e-3, "output_trip_level": 20}, 0.3),
)
def freed_energy(filter_inductance, output_trip_level):
    """Energy of the filter choke at the trip level: what the arrester takes when the relay opens on it."""
    return filter_inductance * output_trip_level**2 / 2


@output_protection.build(
    unit="J",
    symbol=r"E_\mathrm{mov}",
    source="[judgement] twice what is freed, as arresters are sold",
    title="Energy of the arrester",
    decided=True,
    empirical=True,
    tex=r"\operatorname{energy}_\uparrow(2\,{freed_energy})",
    example=({"freed_energy": 0.3}, 10.0),
)
def arrester_energy(freed_energy):
    """Energy that the arrester takes once."""
    return next_of(ENERGIES, 2 * freed_energy)


output_protection.check(
    "window_quiet",
    title="Relay quiet in service",
    demand="highest_in_service",
    capability="lowest_window_high",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="In service the output reaches {demand}; the relay may open from {capability} on.",
    why="A relay that opens on a quiet evening is taken out the next morning.",
    remedies=(Move("window_share", "up", 3.0), Move("window_tolerance", "down", 5.0)),
)
output_protection.check(
    "arrester",
    title="Arrester takes the choke's energy",
    demand="freed_energy",
    capability="arrester_energy",
    fail=1.0,
    hold=2.0,
    harm="equipment",
    sentence="An opening relay frees {demand}; the arrester takes {capability}.",
    why="An arrester that bursts leaves the next surge to the filter's capacitors.",
    remedies=(Move("arrester_energy", "up", 20.0),),
)
output_protection.trip("Output relay, over-voltage", "window_high", low="lowest_window_high", after="{window_delay}", resets="by hand, once back in the window")
output_protection.trip("Output relay, under-voltage", "window_low", after="{window_delay}", resets="by itself, once back in the window")
output_protection.order("Surge arrester", "{arrester_voltage} rms", "{arrester_energy} once; fused, since it fails short", price=("cost", 0.1))
