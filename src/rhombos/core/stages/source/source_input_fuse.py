"""Input, third part: what the fuse feels of the contactor's closing (2.1; 16, H3)."""

from rhombos.core.graph.declare import Move
from rhombos.core.stages.source.source_input_line import FUSES, SHORT, source_input
from rhombos.core.vocabulary import word

STEP = "step of a voltage onto a capacitor: the resistance burns half of C·ΔV², whatever the inductance"

source_input.give(
    "start_heats",
    5.0,
    "",
    r"k_\mathrm{on}",
    1,
    20,
    "What a fuse must stand over one inrush: 2 for rare starts, 5 for daily ones [judgement].",
    "Inrush reserve",
    judgement=True,
)
source_input.give("short_time", SHORT, "s", r"t_0", SHORT, SHORT, "Time for which a fuse's short overload is stated.", "Short overload's time")


@source_input.build(
    unit="A^2·s",
    symbol=r"\int i^2\,\mathrm{d}t",
    source=STEP,
    title="Heat of the inrush at closing",
    tex=r"\frac{{bank_capacitance}\,{closing_step}^2}{2\,{loop_resistance}}",
    example=({"bank_capacitance": 16e-3, "closing_step": 1.46, "loop_resistance": 10.6e-3}, 1.60873),
)
def inrush_heat(bank_capacitance, closing_step, loop_resistance):
    """∫i²dt when the contactor closes onto the rest of the voltage: exact, whatever the loop's inductance."""
    return bank_capacitance * closing_step**2 / (2 * loop_resistance)


@source_input.build(
    unit="A^2·s",
    symbol=r"k_\mathrm{on}\int i^2\,\mathrm{d}t",
    source=FUSES,
    title="Heat of the inrush with reserve",
    tex=r"{start_heats}\,{inrush_heat}",
    example=({"start_heats": 5, "inrush_heat": 1.6}, 8.0),
)
def inrush_heat_reserve(start_heats, inrush_heat):
    """What the fuse must stand so that daily starts do not age it."""
    return start_heats * inrush_heat


@source_input.build(
    unit="A^2·s",
    symbol=r"I^2t_\mathrm{fuse}",
    source=FUSES,
    title="Fuse stands, short",
    tex=r"({fuse_carried_short}\,{fuse_rated_current})^2\,{short_time}",
    example=({"fuse_carried_short": 10, "fuse_rated_current": 60, "short_time": 0.01}, 3600.0),
)
def fuse_heat(fuse_carried_short, fuse_rated_current, short_time):
    """I²t that the fuse carries below ten milliseconds: what it carries for ten, squared."""
    return (fuse_carried_short * fuse_rated_current) ** 2 * short_time


source_input.check(
    "fuse_inrush",
    title="Fuse stands the inrush",
    demand="inrush_heat_reserve",
    capability="fuse_heat",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="Closing the contactor heats the fuse by {demand}, its reserve for daily starts in it; it stands {capability}.",
    why="A fuse that is nearly blown at every start blows one morning.",
    remedies=(Move("closing_fraction", "up", 1.05), Move("fuse_rated_current", "up", 3.0)),
)

word("closing_step", "V", r"\Delta V", "Voltage left across the contactor when it closes.", 1.5)
word("loop_resistance", "Ω", r"R_\mathrm{loop}", "Resistance of the loop that the closing contactor drives.", 0.012)
