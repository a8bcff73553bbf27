"""Control supply, second part: its capacitor on the pulsed rail takes its share of the ripple (16, H4; 15.2 no. 30)."""

import numpy as np

from rhombos.core.formulas.numeric import highest_lasting
from rhombos.core.graph.declare import Move, Option
from rhombos.core.stages.control.control_supply import control_supply

SHARE = "two branches on one rail share by their impedances: I_2/I = |Z_1|/|Z_1 + Z_2|"

control_supply.choice(
    "hold_up_place",
    {"diode": Option("behind a diode", {"on_rail": 0}), "rail": Option("straight on the rail", {"on_rail": 1})},
    {"on_rail": ("", r"\sigma_\mathrm{rail}", "1 where the hold-up capacitor stands straight on the pulsed rail.")},
    default="diode",
    sentence="Where the hold-up capacitor is connected.",
    title="Hold-up capacitor",
)
control_supply.give("hold_up_resistance", 0.15, "Ω", r"\mathrm{ESR}_2", 1e-3, 10, "Series resistance of the hold-up capacitor.", "ESR of the hold-up capacitor")
control_supply.give(
    "hold_up_ripple_rating",
    0.4,
    "A",
    r"I_{2,\mathrm{rat}}",
    1e-3,
    50,
    "Ripple current that the hold-up capacitor stands.",
    "Ripple rating of the hold-up capacitor",
)


@control_supply.build(
    unit="",
    symbol=r"I_2/I",
    source=SHARE,
    title="Share of the ripple",
    tex=r"\begin{gathered}\sqrt{\frac{{bank_resistance}^2+x^2}{({bank_resistance}+{hold_up_resistance})^2+(x+y)^2}}\\x=\frac{1}{2\pi\,{ripple_frequency}\,{bank_capacitance}}\quad y=\frac{1}{2\pi\,{ripple_frequency}\,{hold_up_capacitor}}\end{gathered}",
    example=(
        {"ripple_frequency": 60e3, "bank_capacitance": 2.2e-3, "bank_resistance": 30e-3, "hold_up_capacitor": 100e-6, "hold_up_resistance": 0.15},
        0.164856,
    ),
)
def ripple_share(ripple_frequency, bank_capacitance, bank_resistance, hold_up_capacitor, hold_up_resistance):
    """Part of the rail's ripple that flows in the hold-up capacitor, both branches by their whole impedance."""
    omega = 2 * np.pi * ripple_frequency
    bank, mine = 1 / (omega * bank_capacitance), 1 / (omega * hold_up_capacitor)
    return np.sqrt((bank_resistance**2 + bank**2) / ((bank_resistance + hold_up_resistance) ** 2 + (bank + mine) ** 2))


@control_supply.build(
    unit="A",
    symbol=r"I_2",
    source=SHARE,
    title="Ripple of the hold-up capacitor",
    tex=r"{on_rail}\,{ripple_share}\,\max_\mathrm{lasting}({drawn_ripple_current})",
)
def hold_up_ripple(on_rail, ripple_share, drawn_ripple_current):
    """Ripple current of the hold-up capacitor on the rail; none behind its diode."""
    return on_rail * ripple_share * highest_lasting(drawn_ripple_current)


control_supply.check(
    "shares_ripple",
    title="Hold-up capacitor's share of the ripple",
    demand="hold_up_ripple",
    capability="hold_up_ripple_rating",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="Straight on the rail the hold-up capacitor carries {demand} of the converter's ripple; it is rated {capability}.",
    why="Every electrolytic on a pulsed rail shares the ripple; the smallest dries out first.",
    remedies=(Move("hold_up_resistance", "up", 10.0), Move("hold_up_ripple_rating", "up", 10.0)),
    no_demand="Its diode keeps the ripple out.",
)

__all__ = ["control_supply"]
