"""Ferrite transformer, first part (5.1): volt-seconds, material, core."""

import numpy as np

from rhombos.core.formulas.numeric import gamma, highest, highest_lasting, known
from rhombos.core.graph.declare import Need, Stage
from rhombos.core.parts.columns import CORE, FERRITE
from rhombos.core.stages.sizes import BY_OUTPUT_VOLTAGE, BY_RATIO, BY_SOURCE_RESISTANCE

MCL = "McLyman, Transformer and Inductor Design Handbook"

IGSE = "Venkatachalam et al., COMPEL 2002 (improved generalised Steinmetz)"

transformer = Stage("transformer", "Transformer", telling="{primary_turns} : {secondary_turns}")
transformer.bus("pulsed", "secondary_amplitude", "secondary_rms_current")
transformer.compare("Core", "core")
transformer.view(
    "winding",
    halves="driven_windings",
    area="core_effective_area",
    window="core_window_area",
    breadth="core_winding_breadth",
    mean_turn="core_mean_turn_length",
    interfaces="interfaces",
    insulation="insulation_height",
    magnetising_inductance="magnetising_inductance",
    leakage="leakage_inductance",
    ratio="turns_ratio",
    **{
        f"{side}_{role}": f"{side}_{figure}"
        for side in ("primary", "secondary")
        for role, figure in (
            ("turns", "turns"),
            ("strands", "strands"),
            ("diameter", "strand_diameter"),
            ("length", "wire_length"),
            ("resistance", "dc_resistance"),
            ("mass", "copper_mass"),
        )
    },
)

transformer.hazard("pulsed_voltage", "highest_secondary_amplitude")

transformer.give("current_density", 4.5e6, "A/m^2", "J", 1e6, 1e7, "Current density of the windings.")

transformer.give("fill_limit", 0.40, "", "K_u", 0.1, 0.6, "Bare copper over window that the bobbin takes.", "Copper fill limit")

transformer.give(
    "insulated_fill_limit",
    0.55,
    "",
    r"K_i",
    0.2,
    0.8,
    "Insulated wire circles over window that the bobbin takes [judgement].",
    "Insulated fill limit",
    judgement=True,
)

transformer.give(
    "insulation_temperature",
    378.15,
    "K_abs",
    r"T_\mathrm{ins}",
    333.15,
    473.15,
    "Highest temperature of the winding's insulation (105 °C: class A of IEC 60085).",
    "Insulation class",
)

transformer.give("interfaces", 2.0, "", "p", 1, 6, "Interfaces between primary and secondary: 2 for primary, secondary, primary.")

transformer.give("insulation_height", 0.15e-3, "m", r"h_\mathrm{ins}", 0, 3e-3, "Insulation between primary and secondary, per interface.")

transformer.give(
    "loop_inductance",
    25e-9,
    "H",
    r"L_\mathrm{loop}",
    0,
    1e-6,
    "Inductance of packages, board and leads in the switching loop outside the transformer, seen by the driven winding (20 to 40 nH; measure it) [judgement].",
    "Loop inductance",
    judgement=True,
)

transformer.give(
    "ac_limit",
    1.5,
    "",
    r"F_\mathrm{lim}",
    1,
    10,
    "Alternating over direct resistance up to which a strand is taken: from 1.5 on a thicker one, as many of them, loses more, not less (the least of (1 + c·d⁶)/d²) [judgement].",
    "AC factor aimed at",
    judgement=True,
)

transformer.give(
    "insulation_allowance",
    1.35,
    "",
    "k_i",
    1,
    3,
    "Insulated over bare wire area assumed while the core is chosen [judgement].",
    "Insulation allowance",
    judgement=True,
)

transformer.give(
    "efficiency_share",
    0.94,
    "",
    r"\eta",
    0.5,
    1,
    "Efficiency assumed in the area product, before losses are solved [judgement].",
    "Efficiency assumed",
    judgement=True,
)

transformer.give("single_winding", 1.0, "", "w_s", 1, 1, "Windings of the secondary.", "Secondary windings")


@transformer.build(
    unit="V·s",
    symbol=r"\lambda",
    source="regulated link: volt-seconds follow the ratio; commutation adds its share of the pulse",
    title="Volt-seconds of a half cycle",
    tex=r"\frac{\max\left(\frac{\max({sizing_voltage})}{needed_ratio},\;\max\left({driven_voltage}\,{total_duty}+{sizing_voltage}\left(\frac{1}{needed_ratio}-\frac{1}{turns_ratio}\right)\right)\right)}{2\,{lowest_switching_frequency}}",
    example=(
        {"sizing_voltage": 380, "needed_ratio": 19, "turns_ratio": 20, "driven_voltage": 25, "total_duty": 0.8, "lowest_switching_frequency": 40e3},
        262.5e-6,
    ),
)
def volt_seconds(sizing_voltage, needed_ratio, turns_ratio, driven_voltage, total_duty, lowest_switching_frequency):
    """Volt-seconds on the driven winding: what the regulated link asks for, V_p·D/f, and at a corner with long commutation what the pulse has.

    As they would be with the ratio that is needed: as wound it is higher, by less than a turn. So whether a turn more is
    wound does not ask for another turn of the primary.
    """
    asked, pulse = highest(sizing_voltage) / needed_ratio, highest(driven_voltage * total_duty + sizing_voltage * (1 / needed_ratio - 1 / turns_ratio))
    return np.where(pulse > asked, pulse, asked) / (2 * lowest_switching_frequency)


@transformer.operation(
    unit="V",
    symbol=r"V_\mathrm{sec,ask}",
    source="Kirchhoff",
    title="Secondary voltage to size for",
    start=380.0,
    grows=BY_OUTPUT_VOLTAGE,
    tex=r"{secondary_voltage_needed}+{link_current}\,({secondary_resistance_asked}-{secondary_resistance})",
    example=({"secondary_voltage_needed": 380, "link_current": 2, "secondary_resistance_asked": 0.8, "secondary_resistance": 0.5}, 380.6),
)
def sizing_voltage(secondary_voltage_needed, link_current, secondary_resistance_asked, secondary_resistance):
    """Mean secondary voltage that the set-point asks for with the copper asked for, before strands are chosen."""
    return secondary_voltage_needed + link_current * (secondary_resistance_asked - secondary_resistance)


@transformer.operation(
    unit="Ω",
    symbol=r"R_\mathrm{drive,ask}",
    source="resistances in series",
    title="Driven loop to size for",
    start=0.0125,
    grows=BY_SOURCE_RESISTANCE,
    tex=r"{drive_resistance}+{primary_resistance_asked}-{primary_resistance}",
    example=({"drive_resistance": 0.012, "primary_resistance_asked": 0.004, "primary_resistance": 0.003}, 0.013),
)
def sizing_resistance(drive_resistance, primary_resistance_asked, primary_resistance):
    """Winding and switches that the pulse passes, with the copper asked for, before strands are chosen."""
    return drive_resistance + primary_resistance_asked - primary_resistance


@transformer.build(
    unit="",
    symbol=r"(N_s/N_p)_\mathrm{min}",
    source="ratio at the lowest source with real drops and commutation",
    title="Turns ratio needed",
    start=18.0,
    grows=BY_RATIO,
    tex=r"\max\frac{sizing_voltage}{{driven_voltage}\,{reachable_duty}-{pulse_power}\,{sizing_resistance}/{driven_voltage}}",
    example=({"sizing_voltage": 380, "driven_voltage": 22, "reachable_duty": 0.92, "pulse_power": 900, "sizing_resistance": 0.01}, 19.1616),
)
def needed_ratio(sizing_voltage, driven_voltage, reachable_duty, pulse_power, sizing_resistance):
    """Ratio with which the link still reaches its set-point at the worst corner, drops and commutation taken off."""
    volts = driven_voltage * reachable_duty - pulse_power * sizing_resistance / driven_voltage
    return highest(known(volts > 0 * volts, sizing_voltage / volts, "the drops of {volts} V leave nothing for the transformer", volts=volts))


def surface_rise(loss, surface):
    """Rise in K of a core set in still air by its outer surface: 450·(P/A)^0.826 with W and cm² [McL], empirical."""
    return 450 * (loss / (1e4 * surface)) ** 0.826


def table_flux(frequency):
    """Flux density by frequency: 0.20 T to 25 kHz, 0.16 T at 50 kHz, 0.10 T at 100 kHz, log-log between, last slope above."""
    x = np.log(getattr(frequency, "magnitude", frequency))
    points, levels = np.log([25e3, 50e3, 100e3]), np.log([0.20, 0.16, 0.10])
    slope = (levels[2] - levels[1]) / (points[2] - points[1])
    return np.exp(np.where(x > points[2], levels[2] + slope * (x - points[2]), np.interp(x, points, levels)))


@transformer.build(
    unit="T",
    symbol=r"B_\mathrm{lim}",
    source="[judgement] loss-limited flux by frequency; share of saturation by topology",
    title="Flux limit",
    empirical=True,
    valid={"switching_frequency": (15e3, 300e3)},
    tex=r"\min\left(\operatorname{B_{tab}}({switching_frequency}),\,{saturation_share}\,{material_saturation_flux}\right)",
    example=({"switching_frequency": 50e3, "saturation_share": 0.5, "material_saturation_flux": 0.38}, 0.16),
)
def flux_limit(switching_frequency, saturation_share, material_saturation_flux):
    """Peak flux density to design for: limited by loss, and by the reserve against flux walk."""
    return np.minimum(table_flux(switching_frequency), saturation_share * material_saturation_flux)


@transformer.build(
    unit="m^4",
    symbol="A_p",
    source=MCL,
    title="Area product needed",
    tex=r"\frac{\max_\mathrm{lasting}({output_power})\,({apparent_power_factor}/{efficiency_share}+1)}{4\,{fill_limit}\,{flux_limit}\,{current_density}\,{switching_frequency}}",
    example=(
        {
            "output_power": 850,
            "apparent_power_factor": 1.41421,
            "efficiency_share": 0.94,
            "fill_limit": 0.4,
            "flux_limit": 0.16,
            "current_density": 4.5e6,
            "switching_frequency": 40e3,
        },
        4.6202e-8,
    ),
)
def needed_area_product(output_power, apparent_power_factor, efficiency_share, fill_limit, flux_limit, current_density, switching_frequency):
    """Area product A_e·W_a that the apparent power of the windings asks for (lasting load, square wave: K_f = 4)."""
    apparent = highest_lasting(output_power) * (apparent_power_factor / efficiency_share + 1)
    return apparent / (4 * fill_limit * flux_limit * current_density * switching_frequency)


transformer.pick(
    "material",
    "ferrite",
    FERRITE,
    title="Core material",
    source="classes of power ferrite",
    needs=(Need("Frequency that it is meant for", "material_maximum_frequency", "switching_frequency"),),
    sentence="Cheapest ferrite meant for the switching frequency.",
)


@transformer.operation(
    unit="A",
    symbol=r"I_\mathrm{pri}",
    source="rms of pulses",
    title="Primary current, rms",
    tex=r"{flat_top_current}\,{pulse_form_factor}\sqrt{{effective_duty}/{driven_windings}}",
    example=({"flat_top_current": 50, "pulse_form_factor": 1, "effective_duty": 0.8, "driven_windings": 2}, 31.6228),
)
def primary_rms_current(flat_top_current, pulse_form_factor, effective_duty, driven_windings):
    """Rms current of one primary winding: each half takes every second pulse, a single one takes all."""
    return flat_top_current * pulse_form_factor * np.sqrt(effective_duty / driven_windings)


@transformer.operation(
    unit="A",
    symbol=r"I_\mathrm{sec}",
    source="rms of pulses",
    title="Secondary current, rms",
    tex=r"\frac{primary_rms_current}{turns_ratio}\sqrt{driven_windings}",
    example=({"primary_rms_current": 31.6228, "turns_ratio": 20, "driven_windings": 2}, 2.23607),
)
def secondary_rms_current(primary_rms_current, turns_ratio, driven_windings):
    """Rms current of the secondary: all primary pulses through the ratio (I_link·√D_tot with lasting choke current)."""
    return primary_rms_current / turns_ratio * np.sqrt(driven_windings)


@transformer.build(
    unit="W/T",
    symbol="k_i",
    source=IGSE,
    title="Improved Steinmetz coefficient",
    empirical=True,
    tex=r"\frac{material_steinmetz_coefficient}{(2\pi)^{{material_frequency_exponent}-1}\cdot2\sqrt\pi\,\frac{\Gamma(({material_frequency_exponent}+1)/2)}{\Gamma({material_frequency_exponent}/2+1)}\cdot2^{{material_flux_exponent}-{material_frequency_exponent}}}",
    example=({"material_steinmetz_coefficient": 1.0, "material_frequency_exponent": 1.5, "material_flux_exponent": 2.5}, 0.057065),
)
def improved_coefficient(material_steinmetz_coefficient, material_frequency_exponent, material_flux_exponent):
    """Coefficient of the improved Steinmetz formula; the integral of |cos θ|^α is 2·√π·Γ((α+1)/2)/Γ(α/2+1)."""
    a, b = material_frequency_exponent, material_flux_exponent
    integral = 2 * np.sqrt(np.pi) * gamma((a + 1) / 2) / gamma(a / 2 + 1)
    return material_steinmetz_coefficient / ((2 * np.pi) ** (a - 1) * integral * 2 ** (b - a))


transformer.pick(
    "core",
    "core",
    CORE,
    title="Core",
    source=MCL,
    needs=(Need("Area product", "core_area_product", "needed_area_product"), "copper_fill", "insulated_fill", "rise", "flux_full"),
    sentence="Cheapest core whose area product, fit, rise and saturation hold, each with its own turns and loss.",
)


@transformer.build(
    unit="m^4",
    symbol=r"A_e W_a",
    source=MCL,
    title="Area product",
    tex=r"{core_effective_area}\,{core_window_area}",
    example=({"core_effective_area": 180e-6, "core_window_area": 250e-6}, 4.5e-8),
)
def core_area_product(core_effective_area, core_window_area):
    """Area product of the core picked."""
    return core_effective_area * core_window_area
