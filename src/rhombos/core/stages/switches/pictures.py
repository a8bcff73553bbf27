"""Junctions at every corner, for every stage with switches."""

from rhombos.core.graph.declare import Stage
from rhombos.core.graph.pictures import Bar, Bars, Limit, Seen


def declare_junctions(stage: Stage) -> None:
    """Declare the picture of a stage's junctions: from the air inside to the chip."""

    @stage.picture("Junctions, from the air inside to the chip")
    def junctions(seen: Seen) -> Bars:
        """Junction temperature at every corner against target and limit."""
        air, chip = seen.each("ambient_temperature"), seen.each("junction_temperature")
        bars = [Bar(title, a, b, strong=i == seen.corner) for i, (title, a, b) in enumerate(zip(seen.corners, air, chip, strict=True))]
        limits = [Limit("target", seen.at("target_temperature")), Limit("limit", seen.at("switch_maximum_temperature"))]
        return Bars("K_abs", bars, limits, note="A start may use what lies between target and limit.")
