"""What a rectifier diode must stand: its voltage, its mean current, and how soon it must recover (6.2, 6.3)."""

from collections.abc import Sequence

from rhombos.core.graph.declare import Move, Stage


def declare_ratings(stage: Stage, *, voltage: Sequence[Move] = (), recovery: Sequence[Move] = ()) -> None:
    """Declare the judgements of `diode_reverse_voltage`, `diode_current` and `allowed_recovery_time`, with the moves that may mend them."""
    stage.check(
        "reverse_voltage",
        title="Diode voltage",
        demand="diode_reverse_voltage",
        capability="diode_rated_voltage",
        fail=1.0,
        hold=1.0,
        harm="equipment",
        sentence="With ringing a diode sees {demand}; it is rated {capability}.",
        why="A rectifier that breaks down shorts what feeds it.",
        remedies=tuple(voltage),
    )
    stage.check(
        "diode_current",
        title="Diode current",
        demand="diode_current",
        capability="diode_rated_current",
        fail=1.0,
        hold=1.25,
        harm="equipment",
        sentence="{demand} mean flow in a diode rated {capability}.",
        why="The diode overheats.",
    )
    stage.check(
        "recovery",
        title="Diode recovery",
        demand="diode_recovery_time",
        capability="allowed_recovery_time",
        fail=1.0,
        hold=1.0,
        harm="equipment",
        sentence="The diode recovers in {demand}; {capability} suits the frequency.",
        why="Slow recovery is a short at every edge.",
        remedies=tuple(recovery),
    )
