"""Ferrite transformer, third part (5.1): losses, rise, regulation floor, judgements."""

import numpy as np

from rhombos.core.formulas.numeric import highest
from rhombos.core.graph.declare import Move, every
from rhombos.core.magnetics.winding import core_loss_shape
from rhombos.core.stages.magnetics.transformer_fit import transformer
from rhombos.core.stages.magnetics.transformer_turns import surface_rise
from rhombos.core.stages.sizes import BY_DRAWN
from rhombos.core.vocabulary import word

IGSE = "Venkatachalam et al., COMPEL 2002 (improved generalised Steinmetz)"


@transformer.build(
    unit="H",
    symbol="L_m",
    source="inductance factor",
    title="Magnetising inductance",
    tex=r"{primary_turns}^2{core_inductance_factor}",
    example=({"primary_turns": 4, "core_inductance_factor": 4e-6}, 64e-6),
)
def magnetising_inductance(primary_turns, core_inductance_factor):
    """Magnetising inductance of one driven winding."""
    return primary_turns**2 * core_inductance_factor


@transformer.operation(
    unit="A",
    symbol=r"I_{m,pk}",
    source="Faraday's law",
    title="Magnetising current, peak",
    tex=r"\frac{{driven_voltage}\,{total_duty}}{4\,{switching_frequency}\,{magnetising_inductance}}",
    example=({"driven_voltage": 24, "total_duty": 0.8, "switching_frequency": 40e3, "magnetising_inductance": 60e-6}, 2.0),
)
def magnetising_current(driven_voltage, total_duty, switching_frequency, magnetising_inductance):
    """Peak magnetising current, V_p·D/(2·f·L_m) with D half the total duty."""
    return driven_voltage * total_duty / (4 * switching_frequency * magnetising_inductance)


@transformer.operation(
    unit="W",
    symbol=r"P_{Fe}",
    source=IGSE,
    title="Core loss",
    empirical=True,
    valid={"core_flux": (0.005, 0.35), "switching_frequency": (10e3, 300e3)},
    tex=r"\begin{gathered}{core_effective_volume}\,{improved_coefficient}\,(2\,{core_flux})^{material_flux_exponent}\\\cdot\,2D\left(\frac{switching_frequency}{D}\right)^{material_frequency_exponent}\\D=\frac{total_duty}{2}\end{gathered}",
    example=(
        {
            "core_effective_volume": 2e-5,
            "improved_coefficient": 0.5,
            "core_flux": 0.15,
            "material_flux_exponent": 2.5,
            "material_frequency_exponent": 1.5,
            "total_duty": 0.8,
            "switching_frequency": 40e3,
        },
        12.4708,
    ),
)
def core_loss(core_effective_volume, improved_coefficient, core_flux, material_flux_exponent, material_frequency_exponent, total_duty, switching_frequency):
    """Core loss of a flux that ramps during the pulses and rests between them."""
    swing = 2 * core_flux
    duty = np.maximum(total_duty / 2, 1e-9)
    return (
        core_effective_volume
        * improved_coefficient
        * swing**material_flux_exponent
        * switching_frequency**material_frequency_exponent
        * core_loss_shape(material_frequency_exponent, duty)
    )


@transformer.operation(
    unit="T",
    symbol=r"B",
    source="Faraday's law",
    title="Flux density at the nominal frequency",
    tex=r"{peak_flux}\,\frac{lowest_switching_frequency}{switching_frequency}",
)
def core_flux(peak_flux, lowest_switching_frequency, switching_frequency):
    """Peak flux density at the nominal frequency, which the core loss speaks of."""
    return peak_flux * lowest_switching_frequency / switching_frequency


@transformer.operation(
    unit="W", symbol=r"P_\mathrm{loss}", start=12.0, grows=BY_DRAWN, source="sum", title="Loss", tex=r"{primary_loss}+{secondary_loss}+{core_loss}"
)
def loss(primary_loss, secondary_loss, core_loss):
    """Copper and core loss."""
    return primary_loss + secondary_loss + core_loss


@transformer.operation(
    unit="K",
    symbol=r"\Delta T_A",
    source="[McL] surface dissipation in still air, 450·(P/A)^0.826 with W and cm² of outer surface",
    title="Rise by surface",
    empirical=True,
    valid={"core_surface_area": (1e-4, 0.1)},
    tex=r"450\left(\frac{loss}{10^4\,{core_surface_area}}\right)^{0.826}",
    example=({"loss": 6, "core_surface_area": 108e-4}, 41.3),
)
def rise_by_surface(loss, core_surface_area):
    """Temperature rise in still air by the core set's outer surface."""
    return surface_rise(loss, core_surface_area)


@transformer.operation(
    unit="K",
    symbol=r"\Delta T_R",
    source="[judgement] thermal resistance of the core set, data sheet",
    title="Rise by thermal resistance",
    tex=r"{loss}\,{core_thermal_resistance}",
)
def rise_by_resistance(loss, core_thermal_resistance):
    """Temperature rise in still air by the core set's own thermal resistance."""
    return loss * core_thermal_resistance


@transformer.operation(
    unit="K",
    symbol=r"\Delta T",
    source="the higher of the two estimates",
    title="Temperature rise",
    tex=r"(1-{surge})\max({rise_by_surface},\,{rise_by_resistance})",
)
def temperature_rise(rise_by_surface, rise_by_resistance, surge):
    """Temperature rise at the corners that last (a start is over before the core warms): the higher of the two estimates counts."""
    return (1 - surge) * np.maximum(rise_by_surface, rise_by_resistance)


@transformer.build(
    unit="K",
    symbol=r"\Delta T_\mathrm{lim}",
    source="class of the insulation less the air inside",
    title="Rise limit",
    tex=r"{insulation_temperature}-{ambient_temperature}",
)
def rise_limit(insulation_temperature, ambient_temperature):
    """Temperature rise that the insulation allows in the air inside the enclosure."""
    return insulation_temperature - ambient_temperature


@transformer.operation(
    unit="V",
    symbol=r"V_\mathrm{floor}",
    source="ratio at the floor, drops and commutation taken off",
    title="Regulation floor",
    empirical=True,
    tex=r"\begin{gathered}V:\;\tfrac12\left({duty_limit}\,V+\sqrt{{duty_limit}^2V^2-8\,{switching_frequency}\,{leakage_inductance}\,{pulse_power}}\right)\\-\,\frac{{pulse_power}\,{drive_resistance}}{V}=\frac{secondary_voltage_needed}{turns_ratio}\end{gathered}",
    example=(
        {
            "duty_limit": 0.95,
            "switching_frequency": 40e3,
            "leakage_inductance": 50e-9,
            "pulse_power": 900,
            "drive_resistance": 0.01,
            "secondary_voltage_needed": 380,
            "turns_ratio": 19,
        },
        21.675,
    ),
)
def regulation_floor(duty_limit, switching_frequency, leakage_inductance, pulse_power, drive_resistance, secondary_voltage_needed, turns_ratio):
    """Lowest source voltage at which the link still reaches its set-point with the corner's power (Newton's method)."""
    wanted = secondary_voltage_needed / turns_ratio
    reactive = 8 * switching_frequency * leakage_inductance * pulse_power
    joule = pulse_power * drive_resistance
    volts = (wanted + joule / wanted) / duty_limit + reactive / (2 * duty_limit * wanted)
    for _ in range(8):
        root = np.sqrt(np.maximum((duty_limit * volts) ** 2 - reactive, 1e-12))
        error = (duty_limit * volts + root) / 2 - joule / volts - wanted
        slope = (duty_limit + duty_limit**2 * volts / root) / 2 + joule / volts**2
        volts = volts - error / slope
    return volts


@transformer.operation(unit="V", symbol=r"V_\mathrm{sec}", source="Kirchhoff", title="Secondary amplitude", tex=r"{driven_voltage}\,{turns_ratio}")
def secondary_amplitude(driven_voltage, turns_ratio):
    """Amplitude of the secondary pulses, drops not yet taken off."""
    return driven_voltage * turns_ratio


@transformer.build(unit="V", symbol=r"\hat V_\mathrm{sec}", source="Kirchhoff", title="Highest secondary amplitude", tex=r"\max({secondary_amplitude})")
def highest_secondary_amplitude(secondary_amplitude):
    """Highest amplitude of the secondary, at the highest source."""
    return highest(secondary_amplitude)


@transformer.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
def input_power(output_power, losses=every("loss", "host")):
    """Power into the primary."""
    return output_power + losses


@transformer.build(unit="credit", symbol="c", source="catalogue", title="Cost", tex=r"{core_price}+{primary_wire_price}+{secondary_wire_price}")
def cost(core_price, primary_wire_price, secondary_wire_price):
    """Cost of core with bobbin, and of the wire by mass."""
    return core_price + primary_wire_price + secondary_wire_price


@transformer.build(unit="kg", symbol="m", source="sum", title="Mass", tex=r"{core_mass}+{primary_copper_mass}+{secondary_copper_mass}")
def mass(core_mass, primary_copper_mass, secondary_copper_mass):
    """Mass of core and copper."""
    return core_mass + primary_copper_mass + secondary_copper_mass


@transformer.build(unit="", symbol="n", source="count", title="Parts", tex=r"{core_quantity}")
def part_count(core_quantity):
    """One hand-wound part."""
    return core_quantity


transformer.check(
    "flux",
    title="Flux density",
    demand="peak_flux",
    capability="flux_limit",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="Flux reaches {demand}; {capability} is the limit for loss and flux walk.",
    why="Above it the core overheats, and unequal half cycles walk it into saturation.",
    remedies=(Move("primary_turns", "up", 2.0), Move("wanted_frequency", "up", 2.0)),
)

transformer.check(
    "flux_full",
    title="Flux at full duty",
    demand="full_duty_flux",
    capability="material_saturation_flux",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="At the highest source with full duty the flux reaches {demand}; hot, the core saturates at {capability}.",
    why="In saturation the winding is a short for the switches.",
    remedies=(Move("primary_turns", "up", 2.0), Move("wanted_frequency", "up", 2.0)),
)

transformer.check(
    "flux_first",
    title="Flux of the first pulse",
    demand="first_pulse_flux",
    capability="material_saturation_flux",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="The first pulse takes the flux from nothing to {demand}; hot, the core saturates at {capability}.",
    why="Without soft start the first pulse swings twice as far as any later one.",
    remedies=(Move("first_pulse_duty", "down", 10.0, "world"), Move("primary_turns", "up", 2.0)),
)

transformer.check(
    "flux_step",
    title="Flux after a load step",
    demand="step_flux",
    capability="material_saturation_flux",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="A load step takes the flux from the other end of its swing to {demand}; hot, the core saturates at {capability}.",
    why="A duty that jumps within one half cycle drives the core into saturation before the flux has found its middle again.",
    remedies=(Move("duty_step", "down", 10.0, "world"), Move("primary_turns", "up", 2.0)),
)

transformer.check(
    "floor",
    title="Regulation floor",
    demand="regulation_floor",
    capability="driven_voltage",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="The link holds down to {demand} at the source; the corner has {capability}.",
    why="Below the floor the link sags and the output clips.",
    remedies=(Move("secondary_turns", "up", 1.5), Move("off_fraction", "down", 3.0), Move("loop_inductance", "down", 4.0, "world")),
)

transformer.check(
    "copper_fill",
    title="Copper fill",
    demand="copper_fill",
    capability="fill_limit",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="Copper takes {demand} of the window; a bobbin takes {capability}.",
    why="It will not go on the bobbin.",
    remedies=(Move("current_density", "up", 1.6),),
)

transformer.check(
    "insulated_fill",
    title="Insulated fill",
    demand="insulated_fill",
    capability="insulated_fill_limit",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="Insulated wire takes {demand} of the window; a bobbin takes {capability}.",
    why="It will not go on the bobbin.",
    remedies=(Move("current_density", "up", 1.6),),
)

transformer.check(
    "rise",
    title="Temperature rise",
    demand="temperature_rise",
    capability="rise_limit",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="The transformer warms by {demand}; {capability} is what its insulation allows in the air inside.",
    why="Enamel and tape age, and the ferrite's loss rises again when hot.",
    remedies=(Move("current_density", "down", 2.0), Move("wanted_frequency", "down", 1.8)),
)

for _name, _unit, _symbol, _text, _alone in (
    ("turns_ratio", "", "N_s/N_p", "Secondary over primary turns.", 19),
    ("leakage_inductance", "H", r"L_{lk}", "Leakage seen from the driven winding.", 30e-9),
    ("magnetising_inductance", "H", "L_m", "Magnetising inductance of the driven winding.", 47e-6),
    ("primary_resistance", "Ω", r"R_p", "Resistance of the primary.", 1.3e-3),
    ("magnetising_current", "A", r"I_{m,pk}", "Peak magnetising current.", 1),
    ("highest_secondary_amplitude", "V", r"\hat V_\mathrm{sec}", "Highest amplitude of the secondary.", 560),
    ("secondary_resistance", "Ω", "R_s", "Resistance of the secondary.", 0.5),
    ("secondary_amplitude", "V", r"V_\mathrm{sec}", "Amplitude of the secondary pulses.", 450),
):
    word(_name, _unit, _symbol, _text, _alone)

__all__ = ["transformer"]
