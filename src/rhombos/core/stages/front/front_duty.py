"""Duty and currents of a front end with averaging choke, above and below its boundary (4.1, 5.1, 6.2, 6.5)."""

import numpy as np

from rhombos.core.formulas.numeric import known
from rhombos.core.graph.declare import Stage, every
from rhombos.core.stages.sizes import BY_DRAWN_SOURCE_CURRENT, BY_SOURCE_RESISTANCE

MUR = "Mohan, Undeland & Robbins, Power Electronics"
EM = "Erickson & Maksimović, Fundamentals of Power Electronics"


def declare_duty(stage: Stage) -> None:
    stage.rename(driven_voltage="input_voltage")

    @stage.operation(unit="W", symbol=r"P_\mathrm{pulse}", source="power balance", title="Power through the pulses", tex=r"{output_power}+{losses}")
    def pulse_power(output_power, losses=every("pulse_loss", "host")):
        """Power that passes switches and winding; what control and gate drive draw from the rail passes neither."""
        return output_power + losses

    @stage.operation(
        unit="Ω",
        symbol=r"R_\mathrm{drive}",
        start=0.0125,
        grows=BY_SOURCE_RESISTANCE,
        source="resistances in series",
        title="Resistance in the driven loop",
        tex=r"{primary_resistance}+\frac{{series_switches}\,{hot_resistance}}{switch_quantity}",
    )
    def drive_resistance(primary_resistance, series_switches, hot_resistance, switch_quantity):
        """Winding and switches that the pulse passes."""
        return primary_resistance + series_switches * hot_resistance / switch_quantity

    @stage.operation(
        unit="",
        symbol=r"D_\mathrm{ccm}",
        source=EM,
        title="Duty with lasting choke current",
        tex=r"\frac{{secondary_voltage_needed}/{turns_ratio}+{pulse_power}\,{drive_resistance}/{driven_voltage}}{driven_voltage}",
        example=({"secondary_voltage_needed": 380, "turns_ratio": 19, "pulse_power": 900, "drive_resistance": 0.01, "driven_voltage": 25}, 0.8144),
    )
    def continuous_duty(secondary_voltage_needed, turns_ratio, pulse_power, drive_resistance, driven_voltage):
        """Effective duty that the link asks for while the choke current never stops.

        From N·D·(V_p − I·R) = V_sec and I·D = P/V_p: the drop iterates in the textbook, here it is solved.
        """
        return (secondary_voltage_needed / turns_ratio + pulse_power * drive_resistance / driven_voltage) / driven_voltage

    @stage.operation(
        unit="",
        symbol=r"D_\mathrm{dcm}",
        source=EM,
        title="Duty below the choke's boundary",
        tex=r"\sqrt{\frac{4\,{choke_inductance}\,{switching_frequency}\,{link_current}\,{link_voltage}}{{turns_ratio}{driven_voltage}\,({turns_ratio}{driven_voltage}-{link_voltage})}}",
        example=(
            {"choke_inductance": 1e-3, "switching_frequency": 40e3, "link_current": 0.1, "link_voltage": 380, "turns_ratio": 19, "driven_voltage": 25},
            0.36707,
        ),
    )
    def discontinuous_duty(choke_inductance, switching_frequency, link_current, link_voltage, turns_ratio, driven_voltage):
        """Duty at light load, where the choke current stops between the pulses."""
        peak = turns_ratio * driven_voltage
        room = np.maximum(peak * (peak - link_voltage), 1e-6 * peak * peak)
        return np.sqrt(4 * choke_inductance * switching_frequency * link_current * link_voltage / room)

    @stage.operation(
        unit="",
        symbol=r"D_\mathrm{tot,eff}",
        source=EM,
        title="Effective duty",
        start=0.8,
        tex=r"\min({continuous_duty},\,{discontinuous_duty},\,{reachable_duty})",
    )
    def effective_duty(continuous_duty, discontinuous_duty, reachable_duty):
        """Fraction of time in which power flows: what the link asks for, at light load what the choke needs, at most what is left."""
        return np.minimum(np.minimum(continuous_duty, discontinuous_duty), reachable_duty)

    @stage.operation(
        unit="A",
        symbol=r"I_\mathrm{pk}",
        source=MUR,
        title="Flat-top current",
        start=41.0,
        grows=BY_DRAWN_SOURCE_CURRENT,
        tex=r"\frac{pulse_power}{{driven_voltage}\,{effective_duty}}",
        example=({"pulse_power": 900, "driven_voltage": 22.5, "effective_duty": 0.8}, 50),
    )
    def flat_top_current(pulse_power, driven_voltage, effective_duty):
        """Mean current during the pulse; nothing where no power flows."""
        return np.where(pulse_power > 0, pulse_power, 0 * pulse_power) / (driven_voltage * np.maximum(effective_duty, 1e-9))

    @stage.operation(
        unit="",
        symbol=r"D_\mathrm{tot}",
        source="commutation: 2·f_sw·L_lk·I_pk/V_p of duty",
        title="Total duty",
        tex=r"\min\left({effective_duty}+\frac{2\,{switching_frequency}{leakage_inductance}{flat_top_current}}{driven_voltage},\,{duty_limit}\right)",
        example=(
            {
                "effective_duty": 0.8,
                "switching_frequency": 40e3,
                "leakage_inductance": 50e-9,
                "flat_top_current": 50,
                "driven_voltage": 22.5,
                "duty_limit": 0.95,
            },
            0.80889,
        ),
    )
    def total_duty(effective_duty, switching_frequency, leakage_inductance, flat_top_current, driven_voltage, duty_limit):
        """Fraction of time in which the transformer is driven, commutation included."""
        return np.minimum(effective_duty + 2 * switching_frequency * leakage_inductance * flat_top_current / driven_voltage, duty_limit)

    @stage.operation(
        unit="",
        symbol=r"D_\mathrm{eff,max}",
        source=EM,
        title="Duty left after commutation",
        tex=r"\tfrac{1}{2}\left({duty_limit}+\sqrt{{duty_limit}^2-\frac{8\,{switching_frequency}{leakage_inductance}{pulse_power}}{{driven_voltage}^2}}\right)",
        example=({"duty_limit": 0.95, "switching_frequency": 40e3, "leakage_inductance": 50e-9, "pulse_power": 900, "driven_voltage": 22}, 0.942105),
    )
    def reachable_duty(duty_limit, switching_frequency, leakage_inductance, pulse_power, driven_voltage):
        """What commutation leaves of the greatest duty: D = D_max − 2·f·L_lk·I/V_p with I = P/(V_p·D), solved."""
        square = duty_limit**2 - 8 * switching_frequency * leakage_inductance * pulse_power / driven_voltage**2
        value = (duty_limit + np.sqrt(np.maximum(square, 0 * square))) / 2
        return known(square >= 0, value, "commutation takes all the duty: the leakage is too great for {power} W", power=pulse_power)

    @stage.operation(
        unit="",
        symbol=r"k_\mathrm{rms}",
        source="rms of a trapezoid, of a triangle below the boundary, and of a mean that swings at twice the output frequency",
        title="Pulse form factor",
        tex=r"\sqrt{1+\tfrac1{12}\min\left(2,\,\frac{choke_ripple}{link_current}\right)^2+\tfrac12\left(\frac{choke_swing}{link_current}\right)^2}",
        example=({"choke_ripple": 1.0, "link_current": 2.0, "choke_swing": 0.5}, 1.025711),
    )
    def pulse_form_factor(choke_ripple, link_current, choke_swing):
        """Rms over mean of the current within the pulses: the choke ripple's slope (a triangle below the boundary), and the swing."""
        share = np.minimum(choke_ripple / np.maximum(link_current, 1e-9 * choke_ripple), 2.0)
        swing = choke_swing / np.maximum(link_current, 1e-9 * choke_ripple)
        return np.sqrt(1 + share**2 / 12 + swing**2 / 2)

    @stage.operation(unit="A", symbol=r"\Delta I_{2f}", source="through the turns ratio", title="Swing of the pulses", tex=r"{choke_swing}\,{turns_ratio}")
    def flat_top_swing(choke_swing, turns_ratio):
        """How far the pulses' height swings about its mean at twice the output frequency (amplitude)."""
        return choke_swing * turns_ratio

    @stage.operation(
        unit="A",
        symbol=r"I_{in,\sim}",
        source="charge balance of rectangular pulses, which swing at twice the output frequency",
        title="Ripple of the current drawn",
        tex=r"\sqrt{\left({flat_top_current}^2+\tfrac12{flat_top_swing}^2\right){effective_duty}(1-{effective_duty})}",
        example=({"flat_top_current": 50, "flat_top_swing": 20, "effective_duty": 0.8}, 20.785),
    )
    def drawn_ripple_current(flat_top_current, flat_top_swing, effective_duty):
        """Rms ripple of the current drawn: pulses less their mean."""
        return np.sqrt((flat_top_current**2 + flat_top_swing**2 / 2) * effective_duty * (1 - effective_duty))

    @stage.operation(
        unit="A", symbol=r"\Delta I_{in}", source="mean pulse plus swing", title="Step of the current drawn", tex=r"{flat_top_current}+{flat_top_swing}"
    )
    def drawn_step(flat_top_current, flat_top_swing):
        """Height of the current pulses in the crest of the output's power."""
        return flat_top_current + flat_top_swing

    @stage.operation(
        unit="C",
        symbol=r"Q_{in,\sim}",
        source="charge balance of rectangular pulses, two a period",
        title="Charge of the ripple drawn",
        tex=r"\frac{{drawn_step}\,{effective_duty}(1-{effective_duty})}{2\,{switching_frequency}}",
        example=({"drawn_step": 50, "effective_duty": 0.6, "switching_frequency": 40e3}, 150e-6),
    )
    def drawn_ripple_charge(drawn_step, effective_duty, switching_frequency):
        """Charge that the bulk capacitors give in every pulse and take back between them."""
        return drawn_step * effective_duty * (1 - effective_duty) / (2 * switching_frequency)

    @stage.operation(
        unit="A",
        symbol=r"I_\mathrm{sw,rms}",
        source=MUR,
        title="Switch current, rms",
        tex=r"{flat_top_current}\,{pulse_form_factor}\sqrt{{effective_duty}/2}",
        example=({"flat_top_current": 50, "effective_duty": 0.8, "pulse_form_factor": 1}, 31.6228),
    )
    def switch_rms_current(flat_top_current, effective_duty, pulse_form_factor):
        """Rms current of one switch position: I_pk·√D with D half the total duty."""
        return flat_top_current * pulse_form_factor * np.sqrt(effective_duty / 2)

    @stage.operation(
        unit="A",
        symbol=r"I_\mathrm{pk,max}",
        source=MUR,
        title="Current at the pulse's end",
        tex=r"{flat_top_current}+{flat_top_swing}+\frac{{choke_ripple}\,{turns_ratio}}{2}+{magnetising_current}",
        example=({"flat_top_current": 50, "flat_top_swing": 12, "choke_ripple": 0.8, "turns_ratio": 20, "magnetising_current": 1}, 71),
    )
    def peak_current(flat_top_current, flat_top_swing, choke_ripple, turns_ratio, magnetising_current):
        """Highest current of a pulse, at its end: flat top with its swing, half the choke ripple referred, magnetising current."""
        return flat_top_current + flat_top_swing + choke_ripple * turns_ratio / 2 + magnetising_current

    stage.rename(switched_current="peak_current")

    stage.rename(gate_frequency="switching_frequency")

    @stage.build(unit="V", symbol=r"V_\mathrm{DS,stat}", tex=r"{static_factor}\,{highest_source_voltage}", source=MUR, title="Static switch voltage")
    def static_voltage(static_factor, highest_source_voltage):
        """Highest steady off-state voltage of one switch, no spike."""
        return static_factor * highest_source_voltage
