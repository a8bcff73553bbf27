"""A toy line-up of eight figures: a source behind a resistance feeds a heater through a wire that warms."""

from types import SimpleNamespace

import numpy as np

from rhombos.core.formulas.numeric import highest, known, up
from rhombos.core.graph.declare import Need, Stage, every
from rhombos.core.graph.places import LineUp, Place
from rhombos.core.parts.table import PartTable

SOURCE = "Ohm's law"


def toy_stages() -> SimpleNamespace:
    """Fresh stages, so that a test may spoil them."""
    source, wire, heater, gauge = Stage("source", "Source"), Stage("wire", "Wire"), Stage("heater", "Heater"), Stage("gauge", "Gauge", path=False)

    source.give("rest_voltage", 24.0, "V", "", 1, 100, "Voltage at rest.")

    source.give("resistance", 0.1, "Ω", "", 0, 10, "Internal resistance.")

    @source.operation(
        unit="V", symbol="V", start=24.0, source=SOURCE, tex=r"\tfrac12({rest_voltage}+\sqrt{{rest_voltage}^2-4{output_power}{resistance}})+0{source_level}"
    )
    def output_voltage(rest_voltage, resistance, output_power, source_level):
        """Voltage under a constant-power load."""
        square = rest_voltage**2 - 4 * output_power * resistance
        value = (rest_voltage + np.sqrt(np.abs(square))) / 2 + 0 * source_level
        return known(square >= 0, value, "the source cannot deliver it: {power} W", power=output_power)

    @wire.build(unit="", symbol="n", tex=r"\lceil\max({input_power}/{input_voltage})\rceil", source=SOURCE, safe="up")
    def strands(input_power, input_voltage):
        """One strand an ampere."""
        return up(highest(input_power / input_voltage))

    @wire.operation(unit="W", symbol="P", start=1.0, tex=r"({output_power}/{input_voltage})^2\cdot0.05/{strands}", source=SOURCE)
    def loss(output_power, input_voltage, strands):
        """Loss of the wire."""
        return (output_power / input_voltage) ** 2 * 0.05 / strands

    @wire.operation(unit="W", symbol=r"P_\mathrm{in}", tex=r"{output_power}+{losses}", source=SOURCE)
    def input_power(output_power, losses=every("loss", "host")):
        """Power from the source."""
        return output_power + losses

    heater.give("wanted_power", 100.0, "W", "", 0, 5000, "Power of the heater.")

    @heater.operation(
        unit="W",
        symbol=r"P_\mathrm{in}",
        tex=r"{wanted_power}\,{load_fraction}(1+{surge})",
        source=SOURCE,
        example=({"wanted_power": 100, "load_fraction": 1, "surge": 1}, 200),
    )
    def input_power(wanted_power, load_fraction, surge):  # noqa: F811 - another stage's figure of the same name
        """Power that the heater draws, twice that at surge."""
        return wanted_power * load_fraction * (1 + surge)

    @gauge.operation(unit="A", symbol="I", tex=r"{input_power}/{output_voltage_port}", source=SOURCE)
    def reading(input_power, output_voltage_port):
        """Current shown."""
        return input_power / output_voltage_port

    gauge.check("range", demand="reading", capability="full_scale", harm="none", sentence="{demand} of {capability}", why="pegs")

    gauge.give("full_scale", 10.0, "A", "", 0, 1000, "Full scale.")

    return SimpleNamespace(source=source, wire=wire, heater=heater, gauge=gauge)


def toy_lineup(stages: SimpleNamespace | None = None, *, link: bool = True) -> LineUp:
    """Source, wire with a gauge on it, heater."""
    s = stages or toy_stages()
    return LineUp(
        "toy",
        "Toy",
        (
            Place("source", s.source, "a"),
            Place("wire", s.wire, "a"),
            Place("gauge", s.gauge, "a", host="wire", links={"output_voltage_port": "source.output_voltage"} if link else {}),
            Place("heater", s.heater, "b"),
        ),
    )


def fuses() -> dict[str, PartTable]:
    """Three fuses, the cheapest the smallest."""
    return {
        "fuse": PartTable(
            "fuse",
            ("F5", "F10", "F20"),
            {"rated_current": np.array([5.0, 10.0, 20.0]), "price": np.array([1.0, 2.0, 3.0]), "mass": np.zeros(3)},
            {"description": ("a", "b", "c")},
        )
    }


def with_fuse(stages: SimpleNamespace) -> SimpleNamespace:
    """The wire gets a picked fuse."""

    @stages.wire.build(unit="A", symbol="I", source="Ohm's law", tex=r"\max({input_power}/{input_voltage})")
    def highest_current(input_power, input_voltage):
        """Current that the fuse has to carry."""
        return highest(input_power / input_voltage)

    stages.wire.pick(
        "fuse",
        "fuse",
        {"rated_current": ("A", "I_N", "Rated current."), "price": ("credit", "c", "Price.")},
        needs=(Need("rated current", "fuse_rated_current", "highest_current"),),
        sentence="Cheapest fuse that carries the current.",
    )
    return stages
