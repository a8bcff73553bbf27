"""Leakage clamp of a push-pull: resistor, capacitor, diode at each drain, returned to the supply (6.1)."""

import numpy as np

from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.numeric import highest_lasting, nearest_in

SEV = "Severns, Design of Snubbers for Power Circuits; clamp energy with the winding's own share"

clamp = Stage("clamp", "Clamp", path=False, telling="{clamp_voltage}")


clamp.give("dynamic_reserve", 1.10, "", r"k_d", 1.0, 1.5, "Rating over highest drain voltage that the clamp is set for.", "Dynamic reserve")
clamp.give("clamp_ripple_fraction", 0.05, "", r"\Delta v_c", 0.005, 0.5, "Ripple of the clamp voltage as a fraction.", "Ripple of the clamp")
clamp.give("clamp_resistor_rating", 20.0, "W", r"P_{R,\mathrm{rat}}", 0.1, 200, "Power rating of one clamp resistor.", "Clamp resistor rating")


@clamp.build(
    unit="V",
    symbol="V_c",
    tex=r"\frac{switch_rated_voltage}{dynamic_reserve}-{highest_source_voltage}",
    source=SEV,
    example=({"switch_rated_voltage": 100, "dynamic_reserve": 1.1, "highest_source_voltage": 29.2}, 61.709),
)
def clamp_voltage(switch_rated_voltage, dynamic_reserve, highest_source_voltage):
    """Voltage across the clamp, measured from the supply it returns to: what the dynamic reserve leaves."""
    return switch_rated_voltage / dynamic_reserve - highest_source_voltage


@clamp.operation(unit="V", symbol=r"V_\mathrm{DS,pk}", tex=r"{input_voltage}+{clamp_voltage}", source=SEV, title="Switch voltage with spike")
def drain_peak_voltage(input_voltage, clamp_voltage):
    """Highest voltage of one drain: supply plus clamp."""
    return input_voltage + clamp_voltage


@clamp.operation(
    unit="W",
    symbol=r"P_c",
    source=SEV,
    title="Loss of one clamp",
    tex=r"\tfrac12{leakage_inductance}{flat_top_current}^2{switching_frequency}\frac{clamp_voltage}{{clamp_voltage}-{input_voltage}}",
    example=({"leakage_inductance": 50e-9, "flat_top_current": 50, "switching_frequency": 40e3, "clamp_voltage": 60, "input_voltage": 24}, 4.16667),
)
def clamp_loss(leakage_inductance, flat_top_current, switching_frequency, clamp_voltage, input_voltage):
    """Power of one clamp: leakage energy and the share that the winding adds while the leakage empties."""
    # At or below the winding's own voltage the clamp conducts all the time: no formula speaks for that. The check
    # "clamp above the winding" fails there, and the rest of the sheet is solved with twenty times the leakage energy.
    room = np.maximum(clamp_voltage - input_voltage, clamp_voltage / 20)
    energy = leakage_inductance * flat_top_current**2 * switching_frequency / 2
    return energy * clamp_voltage / room


@clamp.build(
    unit="Ω",
    symbol="R_c",
    tex=r"\mathrm{E12}\!\left(\frac{{clamp_voltage}^2}{\max({clamp_loss})}\right)",
    source=SEV,
    safe="down",
    example=({"clamp_voltage": 60, "clamp_loss": 4.0}, 820),
)
def clamp_resistor(clamp_voltage, clamp_loss):
    """Resistor that holds the clamp at its voltage in the worst lasting corner; the next lower preferred value."""
    return nearest_in("E12", "down")(clamp_voltage**2 / highest_lasting(clamp_loss))


@clamp.build(
    unit="F",
    symbol="C_c",
    tex=r"\mathrm{E6}\!\left(\frac{1}{{clamp_ripple_fraction}\,{clamp_resistor}\,{switching_frequency}}\right)",
    source=SEV,
    safe="up",
    example=({"clamp_ripple_fraction": 0.05, "clamp_resistor": 820, "switching_frequency": 40e3}, 0.68e-6),
)
def clamp_capacitor(clamp_ripple_fraction, clamp_resistor, switching_frequency):
    """Capacitor that keeps the clamp's ripple small."""
    return nearest_in("E6", "up")(1 / (clamp_ripple_fraction * clamp_resistor * switching_frequency))


@clamp.operation(unit="W", symbol=r"P_\mathrm{loss}", start=3.0, tex=r"{driven_windings}\,{clamp_loss}", source=SEV, title="Loss")
def loss(driven_windings, clamp_loss):
    """Loss of both clamps."""
    return driven_windings * clamp_loss


@clamp.build(unit="W", symbol=r"P_{c,\mathrm{last}}", tex=r"\max({clamp_loss})", source="surge left out", title="Lasting loss of one clamp")
def lasting_clamp_loss(clamp_loss):
    """Highest lasting loss of one clamp."""
    return highest_lasting(clamp_loss)


@clamp.operation(
    unit="W",
    symbol=r"P_{1\%}",
    tex=r"{output_power}/100",
    source="[judgement] push-pull while the clamps lose at most 1 %",
    title="One per cent of the power",
    example=({"output_power": 850}, 8.5),
)
def leakage_allowance(output_power):
    """Leakage loss up to which the push-pull is usual: one per cent of the power."""
    return output_power / 100


clamp.check(
    "clamp_room",
    title="Clamp above the winding",
    demand="input_voltage",
    capability="clamp_voltage",
    fail=1.0,
    hold=1.2,
    harm="equipment",
    sentence="The clamp stands at {capability} over a winding that holds {demand}.",
    why="A clamp near the winding's own voltage conducts all the time and burns its resistor.",
    remedies=(Move("dynamic_reserve", "down", 1.1),),
)
clamp.check(
    "clamp_resistor_power",
    title="Clamp resistor",
    demand="lasting_clamp_loss",
    capability="clamp_resistor_rating",
    fail=1.0,
    hold=2.0,
    harm="equipment",
    sentence="Each clamp resistor burns {demand}; it is rated {capability}.",
    why="At its full rating a resistor glows and drifts.",
    remedies=(Move("clamp_resistor_rating", "up", 5.0), Move("loop_inductance", "down", 3.0)),
)
clamp.check(
    "leakage_share",
    title="Leakage loss",
    demand="loss",
    capability="leakage_allowance",
    fail=0.4,
    hold=0.5,
    harm="none",
    sentence="The clamps burn {demand}; one per cent of the power is {capability}.",
    why="Where leakage costs more than that, the full bridge returns the energy instead.",
    remedies=(Move("loop_inductance", "down", 3.0), Move("wanted_frequency", "down", 2.0)),
)
