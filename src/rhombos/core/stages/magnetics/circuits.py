"""The circuit of the transformer: one driven winding with its core, the secondary, and what they feed."""

from rhombos.core.circuit.schematic import Course, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.magnetics.transformer import transformer

LEAST_WATTS = 1e-3
"""Of a load or a core that takes none: what a meter there draws."""
_INDUCTANCES = ("magnetising_inductance", "leakage_inductance")


def _taking(watts, volts, duty):
    """Ω that take so many watts from pulses of so many volts."""
    return volts**2 * duty / max(watts, LEAST_WATTS)


transformer.draw(
    Schematic(
        (
            Part("source", "front", (0, 0), (0, 5), ("driven_voltage",), "Front end", neighbour=True),
            Part(
                "resistor",
                "primary_resistance",
                (0, 0),
                (3, 0),
                ("primary_resistance",),
                "Primary",
                pick="primary_strand",
                order="Primary wire",
                checks=("copper_fill", "insulated_fill"),
            ),
            Part(
                "resistor",
                "core_loss",
                (4.5, 0),
                (4.5, 5),
                (Worked(("core_loss", "driven_voltage", "total_duty"), _taking),),
                "Core, its loss",
                pick="material",
                checks=("rise",),
            ),
            Part(
                "inductor",
                "primary",
                (8, 0),
                (8, 5),
                (Worked(_INDUCTANCES, lambda m, k: m + k),),
                "Driven winding",
                pick="core",
                checks=("flux", "flux_full", "flux_first", "flux_step"),
            ),
            Part("inductor", "secondary", (12, 0), (12, 5), (Worked(("turns_ratio", "magnetising_inductance"), lambda n, m: n**2 * m),), "Secondary"),
            Part(
                "resistor",
                "secondary_resistance",
                (12, 0),
                (15, 0),
                ("secondary_resistance",),
                "Its resistance",
                pick="secondary_strand",
                order="Secondary wire",
            ),
            Part(
                "resistor", "load", (15, 0), (15, 5), (Worked(("output_power", "secondary_amplitude", "total_duty"), _taking),), "What it feeds", neighbour=True
            ),
        ),
        (((3, 0), (8, 0)), ((0, 5), (8, 5)), ((12, 5), (15, 5))),
        ((0, 5), (12, 5)),
        {"driven": (8, 0), "secondary": (15, 0)},
        (("primary", "secondary", Worked(_INDUCTANCES, lambda m, k: (m / (m + k)) ** 0.5)),),
        apart=True,
    )
)


@transformer.look("Over a switching period", "v driven", "v secondary", "i primary")
def pulses(seen: Seen) -> Course:
    """A pulse each way with the commanded duty; between them the winding is held at nothing, as the rectifier's choke holds it."""
    period, volts = 1 / seen.at("switching_frequency"), seen.at("driven_voltage")
    on = seen.at("total_duty") * period / 2
    levels = ((0.0, volts), (on, 0.0), (period / 2, -volts), (period / 2 + on, 0.0))
    return Course(period, tuple(Event(t, {}, {"front": v}) for t, v in levels))
