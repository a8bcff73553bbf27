"""What the switches of a front end must stand: off, with their spike, and at the end of a pulse (4.1)."""

from collections.abc import Sequence

from rhombos.core.graph.declare import Move, Stage

SWITCH_NEEDS = (
    "static_voltage_rating",
    # At a start the spike comes with every edge for seconds: the part stands it, whatever it costs.
    "dynamic_voltage_rating",
    "gate_window",
    "fully_on",
    "current_rating",
    "pulsed_rating_check",
    "junction",
)
"""What the switches of a front end are picked by."""


def declare_stress(stage: Stage, static: str, *, dynamic_hold: float = 1.10, dynamic: Sequence[Move] = (), pulsed: Sequence[Move] = ()) -> None:
    """Declare the judgements of `static` (the figure of the off-state), `drain_peak_voltage` and `peak_current`, with the moves that may mend them."""
    stage.check(
        "static_voltage_rating",
        title="Switch voltage, static",
        demand=static,
        capability="switch_rated_voltage",
        fail=1.10,
        hold=1.25,
        harm="equipment",
        sentence="Off, a switch stands {demand}; it is rated {capability}.",
        why="Without reserve the first spike breaks it down.",
    )
    stage.check(
        "dynamic_voltage_rating",
        title="Switch voltage with spike",
        demand="drain_peak_voltage",
        capability="switch_rated_voltage",
        fail=1.00,
        hold=dynamic_hold,
        harm="equipment",
        sentence="With its spike a switch sees {demand}; it is rated {capability}.",
        why="Repeated breakdown heats a spot of the chip until it shorts.",
        remedies=tuple(dynamic),
    )
    stage.check(
        "pulsed_rating_check",
        title="Switch current, peak",
        demand="peak_current",
        capability="pulsed_rating",
        fail=1.0,
        hold=1.25,
        harm="equipment",
        sentence="A pulse ends at {demand}; the position stands {capability}.",
        why="Beyond the pulsed rating the switch is outside its safe area.",
        remedies=(Move("switch_quantity", "up", 4.0), *pulsed),
    )
