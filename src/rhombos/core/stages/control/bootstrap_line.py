"""Bootstrap, second part: the same supply on a leg that switches at the line's frequency, where the pull-down rules (3.4)."""

import numpy as np

from rhombos.core.formulas.numeric import nearest_in
from rhombos.core.stages.control.bootstrap import bootstrap
from rhombos.core.stages.control.gate_levels import BAL
from rhombos.core.stages.names import with_names

LEAST_DROOP = 0.02
"""Of the full voltage: a droop below it is none that a capacitor could be made for."""

bootstrap.give("slow_pull_down", 47e3, "Ω", r"R_{GS,2}", 1e3, 1e7, "Pull-down that a line-frequency leg would rather have.", "Pull-down of a slow leg")


@bootstrap.build(
    unit="s",
    symbol=r"T_o/2",
    source="half a period of the output",
    title="Half period of the output",
    tex=r"\frac{1}{2\,{output_frequency}}",
    example=({"output_frequency": 50}, 10e-3),
)
def half_period(output_frequency):
    """On-time of a high side that switches at the line's frequency: the kHz answer is wrong there."""
    return 1 / (2 * output_frequency)


def _declare_slow(suffix: str, pull_down: str, symbol: str, words: str, gives: tuple[float, float]) -> None:
    def charge(switch_quantity, gate_charge, level_shift_charge, bootstrap_recovery_charge, high_side_current, full_voltage, pull, half_period):
        lasting = high_side_current + switch_quantity * full_voltage / pull
        return switch_quantity * gate_charge + level_shift_charge + bootstrap_recovery_charge + lasting * half_period

    def capacitor(capacitance_derating, slow, full_voltage, needed_supply):
        room = np.maximum(full_voltage - needed_supply, LEAST_DROOP * full_voltage)
        return nearest_in("E6", "up")(capacitance_derating * 2 * slow / room)

    names = ("switch_quantity", "gate_charge", "level_shift_charge", "bootstrap_recovery_charge", "high_side_current", "full_voltage", pull_down, "half_period")
    charge.__name__, charge.__doc__ = f"slow_charge{suffix}", f"Charge that a high side spends over half a period, {words}."
    numbers = dict(zip(names, (1, 80e-9, 5e-9, 10e-9, 300e-6, 13.5, 10e3 if not suffix else 47e3, 10e-3), strict=True))
    bootstrap.build(
        unit="C",
        symbol=rf"Q_{{{symbol}}}",
        source=BAL,
        title=f"Charge of a slow leg, {words}",
        tex=r"{switch_quantity}{gate_charge}+{level_shift_charge}+{bootstrap_recovery_charge}+\left({high_side_current}+\frac{{switch_quantity}{full_voltage}}{PULL}\right){half_period}".replace(
            "PULL", pull_down
        ),
        example=(numbers, gives[0]),
    )(with_names(charge, *names))
    slow = f"slow_charge{suffix}"
    read = ("capacitance_derating", slow, "full_voltage", "needed_supply")
    capacitor.__name__, capacitor.__doc__ = f"slow_capacitor{suffix}", f"Bootstrap capacitor of a line-frequency leg, {words}; next higher preferred value."
    bootstrap.build(
        unit="F",
        symbol=rf"C_{{{symbol}}}",
        source=BAL,
        title=f"Capacitor of a slow leg, {words}",
        tex=r"\mathrm{E6}_\uparrow\left(\frac{2\,{capacitance_derating}\,{SLOW}}{\max({full_voltage}-{needed_supply},\,0.02\,{full_voltage})}\right)".replace(
            "SLOW", slow
        ),
        example=(dict(zip(read, (1.5, gives[0], 13.5, 10.5), strict=True)), gives[1]),
    )(with_names(capacitor, *read))


_declare_slow("", "pull_down", r"\mathrm{slow}", "with this pull-down", (16.595e-6, 22e-6))
_declare_slow("_weak", "slow_pull_down", r"\mathrm{slow,2}", "with a weaker pull-down", (5.96734e-6, 6.8e-6))

__all__ = ["bootstrap"]
