"""Voltage feedback of the link, first part: school, divider with its trim, set-point over its tolerances (7.1)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, like, lowest, nearest_in, up
from rhombos.core.graph.declare import Option, Stage

DIVIDER = "divider to an error amplifier: V = V_ref·(1 + R_up/R_low)"

feedback = Stage("feedback", "Feedback", path=False, telling="{school}")
feedback.hazard("dc_voltage", "highest_link")

feedback.choice(
    "school",
    {
        "isolated_divider": Option("divider, optocoupler", {"senses": 1, "by_zeners": 0, "isolates": 1}),
        "divider": Option("divider to the controller", {"senses": 1, "by_zeners": 0, "isolates": 0}),
        "zener_string": Option("zeners, optocoupler", {"senses": 1, "by_zeners": 1, "isolates": 1}),
        "open_loop": Option("open loop", {"senses": 0, "by_zeners": 0, "isolates": 1}),
    },
    {
        "senses": ("", r"\sigma", "1 where the link is sensed."),
        "by_zeners": ("", r"\zeta_Z", "1 where zeners make the set-point."),
        "isolates": ("", r"\iota", "1 where the path ties the output to nothing."),
    },
    default="isolated_divider",
    sentence="How the link's voltage comes to the controller.",
    title="Feedback",
)
feedback.choice(
    "isolation",
    {"wanted": Option("wanted", {"isolation_wanted": 1}), "not_wanted": Option("not wanted", {"isolation_wanted": 0})},
    {"isolation_wanted": ("", r"\iota_\mathrm{w}", "1 where the output is to be isolated from the battery.")},
    default="wanted",
    sentence="Whether the link is to stay isolated from the battery.",
)

feedback.give("feedback_reference", 2.5, "V", r"V_\mathrm{ref}", 0.5, 10, "Reference that the divider's tap is compared with.", "Reference")
feedback.give("tap_resistor", 4.7e3, "Ω", r"R_l", 100, 1e6, "Lower leg of the divider, wanted with the pot in its middle.", "Lower leg wanted")
feedback.give("trim_share", 0.1, "", r"k_P", 0, 0.5, "Travel of the trim pot, of the lower leg; 0: no pot.", "Travel of the pot")
feedback.give("leg_tolerance", 0.01, "", r"\delta_R", 0, 0.1, "Tolerance of the divider's resistors.", "Tolerance of resistors")
feedback.give("level_tolerance", 0.01, "", r"\delta_\mathrm{ref}", 0, 0.1, "Tolerance of the reference.", "Tolerance of the reference")
feedback.give("drift", 0.005, "", r"\delta_T", 0, 0.1, "What temperature and age move after trimming [judgement].", "Drift after trimming", judgement=True)
feedback.give("piece_voltage", 250.0, "V", r"V_{R,\mathrm{rat}}", 50, 2000, "Voltage that one small resistor holds (200 to 350 V).", "Volts of one resistor")
feedback.give("piece_power", 0.25, "W", r"P_{R,\mathrm{rat}}", 0.05, 5, "Power that one resistor of the divider is rated for.", "Watts of one resistor")
feedback.give("zener_tolerance", 0.05, "", r"\delta_Z", 0.005, 0.2, "Tolerance of each zener; they add.", "Tolerance of a zener")
feedback.give("zeners", 4.0, "", r"n_Z", 1, 20, "Zeners in the string.", whole=True)
feedback.give("diode_current", 2e-3, "A", r"I_\mathrm{LED}", 1e-4, 0.05, "Current of the optocoupler's diode in regulation.", "Current of the diode")
feedback.give("diode_drop", 1.2, "V", r"V_\mathrm{LED}", 0.8, 4, "Forward voltage of the optocoupler's diode.", "Drop of the diode")


@feedback.build(
    unit="",
    whole=True,
    symbol="n_R",
    source="voltage rating of small resistors with a quarter in reserve; half of their watts, a twentieth in reserve for preferred values",
    title="Upper resistors in series",
    decided=True,
    tex=r"\left\lceil\max\left(\frac{1.25\,{highest_link}}{piece_voltage},\;\frac{1.05\,{highest_link}^2}{{allowed_piece_loss}\,{tap_resistor}\left({link_setpoint}/{feedback_reference}-1\right)}\right)\right\rceil",
    example=(
        {"highest_link": 430, "piece_voltage": 250, "allowed_piece_loss": 0.125, "tap_resistor": 4.7e3, "link_setpoint": 400, "feedback_reference": 2.5},
        3,
    ),
)
def upper_pieces(highest_link, piece_voltage, allowed_piece_loss, tap_resistor, link_setpoint, feedback_reference):
    """Equal resistors in series of the upper leg that hold its voltage and its watts."""
    watts = 1.05 * highest_link**2 / (tap_resistor * (link_setpoint / feedback_reference - 1))
    return up(np.maximum(1.25 * highest_link / piece_voltage, watts / allowed_piece_loss))


@feedback.build(
    unit="Ω",
    symbol=r"R_{\mathrm{up},1}",
    source=DIVIDER,
    title="One upper resistor",
    decided=True,
    tex=r"\mathrm{E96}\!\left(\frac{tap_resistor}{upper_pieces}\left(\frac{link_setpoint}{feedback_reference}-1\right)\right)",
    example=({"tap_resistor": 4.7e3, "upper_pieces": 2, "link_setpoint": 380, "feedback_reference": 2.5}, 357e3),
)
def upper_piece(tap_resistor, upper_pieces, link_setpoint, feedback_reference):
    """One resistor of the upper leg, nearest preferred value with the pot in its middle."""
    return nearest_in("E96")(tap_resistor / upper_pieces * (link_setpoint / feedback_reference - 1))


@feedback.build(unit="Ω", symbol=r"R_\mathrm{up}", source="series connection", title="Upper leg", tex=r"{upper_pieces}\,{upper_piece}")
def upper_leg(upper_pieces, upper_piece):
    """Upper leg of the divider."""
    return upper_pieces * upper_piece


@feedback.build(
    unit="Ω",
    symbol="P",
    source="a twentieth either way of what is trimmed, as pots are sold",
    title="Trim pot",
    decided=True,
    tex=r"\begin{cases}\mathrm{E6}\!\left(\max({trim_share}\,{tap_resistor},\,1\,\Omega)\right)&{trim_share}>0\\0&\text{else}\end{cases}",
    example=({"trim_share": 0.1, "tap_resistor": 4.7e3}, 470),
)
def trim_pot(trim_share, tap_resistor):
    """Pot in series in the lower leg; zero where none is fitted."""
    pot = nearest_in("E6")(np.maximum(trim_share * tap_resistor, like(1.0, tap_resistor)))
    return np.where(trim_share > 0, pot, 0 * pot)


@feedback.build(
    unit="Ω",
    symbol=r"R_{l,0}",
    source=DIVIDER,
    title="Fixed lower resistor",
    decided=True,
    tex=r"\mathrm{E96}\!\left(\frac{upper_leg}{{link_setpoint}/{feedback_reference}-1}-\frac{trim_pot}{2}\right)",
    example=({"upper_leg": 714e3, "link_setpoint": 380, "feedback_reference": 2.5, "trim_pot": 470}, 4.53e3),
)
def lower_fixed(upper_leg, link_setpoint, feedback_reference, trim_pot):
    """Fixed part of the lower leg: the wanted set-point then lies near the middle of the pot's travel."""
    return nearest_in("E96")(upper_leg / (link_setpoint / feedback_reference - 1) - trim_pot / 2)


@feedback.build(
    unit="",
    symbol="x_P",
    source=DIVIDER,
    title="Wiper for the set-point",
    tex=r"\begin{cases}\frac{{upper_leg}/({link_setpoint}/{feedback_reference}-1)-{lower_fixed}}{\max({trim_pot},1\,\Omega)}&{trim_share}>0\\0.5&\text{else}\end{cases}",
    example=({"upper_leg": 714e3, "link_setpoint": 380, "feedback_reference": 2.5, "lower_fixed": 4.53e3, "trim_pot": 470, "trim_share": 0.1}, 0.422287),
)
def wiper_position(upper_leg, link_setpoint, feedback_reference, lower_fixed, trim_pot, trim_share):
    """Part of the pot's travel that stands in the lower leg at the set-point wanted, with nominal parts; the middle where there is no pot."""
    x = (upper_leg / (link_setpoint / feedback_reference - 1) - lower_fixed) / np.maximum(trim_pot, like(1.0, trim_pot))
    return np.where(trim_share > 0, x, 0.5)


@feedback.build(
    unit="V",
    symbol=r"V_\mathrm{top}",
    source=DIVIDER,
    title="Set-point, pot at its upper end",
    tex=r"{feedback_reference}\left(1+\frac{upper_leg}{lower_fixed}\right)",
    example=({"feedback_reference": 2.5, "upper_leg": 714e3, "lower_fixed": 4.53e3}, 396.54),
)
def setpoint_at_top(feedback_reference, upper_leg, lower_fixed):
    """Link at the end of the pot's travel where it is highest; also with its wiper open, the spare leg tied to it."""
    return feedback_reference * (1 + upper_leg / lower_fixed)


@feedback.build(
    unit="V",
    symbol=r"V_\mathrm{bottom}",
    source=DIVIDER,
    title="Set-point, pot at its lower end",
    tex=r"{feedback_reference}\left(1+\frac{upper_leg}{{lower_fixed}+{trim_pot}}\right)",
    example=({"feedback_reference": 2.5, "upper_leg": 714e3, "lower_fixed": 4.53e3, "trim_pot": 470}, 359.5),
)
def setpoint_at_bottom(feedback_reference, upper_leg, lower_fixed, trim_pot):
    """Link at the end of the pot's travel where it is lowest."""
    return feedback_reference * (1 + upper_leg / (lower_fixed + trim_pot))


@feedback.build(
    unit="",
    symbol=r"\delta_\mathrm{parts}",
    source="every part at its corner",
    title="Spread before trimming",
    tex=r"(1+{level_tolerance})\,\frac{1+{leg_tolerance}}{1-{leg_tolerance}}-1",
    example=({"level_tolerance": 0.01, "leg_tolerance": 0.01}, 0.030404),
)
def parts_spread(level_tolerance, leg_tolerance):
    """How far the set-point may stand high by its parts, of itself: R_up high, R_low low, the reference high (V_ref of itself is left out: below 1 %)."""
    return (1 + level_tolerance) * (1 + leg_tolerance) / (1 - leg_tolerance) - 1


@feedback.build(
    unit="",
    symbol=r"\delta_\mathrm{trim}",
    source=DIVIDER,
    title="Reach of the trim",
    tex=r"\min\left(\frac{setpoint_at_top}{link_setpoint}-1,\;1-\frac{setpoint_at_bottom}{link_setpoint}\right)",
    example=({"setpoint_at_top": 396, "setpoint_at_bottom": 360, "link_setpoint": 380}, 0.0421053),
)
def trim_reach(setpoint_at_top, setpoint_at_bottom, link_setpoint):
    """How far the pot moves the set-point, of itself, to the side where it reaches less."""
    return np.minimum(setpoint_at_top / link_setpoint - 1, 1 - setpoint_at_bottom / link_setpoint)


@feedback.build(
    unit="",
    symbol=r"\delta_\mathrm{need}",
    source="what there is to trim",
    title="Trim needed",
    tex=r"{senses}(1-{by_zeners})\begin{cases}{parts_spread}&{trim_share}>0\\0&\text{else}\end{cases}",
    example=({"senses": 1, "by_zeners": 0, "parts_spread": 0.03, "trim_share": 0.1}, 0.03),
)
def trim_needed(senses, by_zeners, parts_spread, trim_share):
    """What the pot has to take up; none where there is no pot."""
    return senses * (1 - by_zeners) * np.where(trim_share > 0, parts_spread, 0 * parts_spread)


@feedback.build(
    unit="V",
    symbol=r"V_Z",
    source="zener string: V = ΣV_Z + V_LED + I·R_s",
    title="One zener",
    decided=True,
    tex=r"\mathrm{E24}_\downarrow\left(\frac{{link_setpoint}-{diode_drop}}{zeners}\right)",
    example=({"link_setpoint": 380, "diode_drop": 1.2, "zeners": 4}, 91),
)
def zener_voltage(link_setpoint, diode_drop, zeners):
    """Voltage of each zener of the string, next lower preferred value; a resistor makes up the rest."""
    return nearest_in("E24", "down")((link_setpoint - diode_drop) / zeners)


@feedback.build(
    unit="Ω",
    symbol="R_s",
    source="zener string: V = ΣV_Z + V_LED + I·R_s",
    title="Resistor of the zener string",
    tex=r"\frac{{link_setpoint}-{diode_drop}-{zeners}\,{zener_voltage}}{diode_current}",
    example=({"link_setpoint": 380, "diode_drop": 1.2, "zeners": 4, "zener_voltage": 91, "diode_current": 2e-3}, 7400),
)
def string_resistor(link_setpoint, diode_drop, zeners, zener_voltage, diode_current):
    """Resistor that makes up what the zeners leave; it shifts the set-point with the diode's current."""
    return (link_setpoint - diode_drop - zeners * zener_voltage) / diode_current


@feedback.build(
    unit="",
    symbol=r"\delta_\mathrm{set}",
    source="zeners add their tolerances; a divider keeps what is not trimmed",
    title="Set-point may stand off by",
    tex=r"{senses}\begin{cases}\frac{{zeners}\,{zener_voltage}\,{zener_tolerance}}{link_setpoint}&{by_zeners}=1\\{drift}&{trim_share}>0\\{parts_spread}&\text{else}\end{cases}",
    example=(
        {
            "senses": 1,
            "zeners": 2,
            "zener_voltage": 110,
            "zener_tolerance": 0.05,
            "link_setpoint": 220,
            "by_zeners": 1,
            "drift": 0.005,
            "trim_share": 0.1,
            "parts_spread": 0.03,
        },
        0.05,
    ),
)
def setpoint_spread(senses, zeners, zener_voltage, zener_tolerance, link_setpoint, by_zeners, drift, trim_share, parts_spread):
    """How far the regulated link may stand off its set-point for good, as a share of it."""
    divided = np.where(trim_share > 0, drift, parts_spread)
    return senses * np.where(by_zeners > 0, zeners * zener_voltage * zener_tolerance / link_setpoint, divided)


@feedback.build(
    unit="V",
    symbol=r"\Delta V_\mathrm{open}",
    source="transformer's ratio: without regulation the link follows the source",
    title="Open loop moves by",
    tex=r"(1-{senses})\left(\max({open_loop_voltage})-\min({open_loop_voltage})\right)",
    example=({"senses": 0, "open_loop_voltage": 400}, 0),
)
def open_loop_span(senses, open_loop_voltage):
    """Span of the link over the source window where nothing regulates it."""
    return (1 - senses) * (highest(open_loop_voltage) - lowest(open_loop_voltage))


@feedback.build(unit="V", symbol=r"V_{R,1}", source="equal pieces", title="Volts on an upper resistor", tex=r"{senses}\,\frac{highest_link}{upper_pieces}")
def piece_stress(senses, highest_link, upper_pieces):
    """Highest voltage on one resistor of the upper leg."""
    return senses * highest_link / upper_pieces


@feedback.build(
    unit="W",
    symbol=r"P_{R,1}",
    source="Joule's law",
    title="Watts in an upper resistor",
    tex=r"\frac{{piece_stress}^2}{upper_piece}",
    example=({"piece_stress": 200, "upper_piece": 360e3}, 0.111111),
)
def piece_loss(piece_stress, upper_piece):
    """Highest power in one resistor of the upper leg."""
    return piece_stress**2 / upper_piece


@feedback.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="Joule's law",
    title="Loss",
    tex=r"{senses}\,{link_voltage}\begin{cases}{diode_current}&{by_zeners}=1\\{link_voltage}/({upper_leg}+{lower_fixed}+{trim_pot})&\text{else}\end{cases}",
    example=({"senses": 1, "link_voltage": 380, "by_zeners": 0, "diode_current": 2e-3, "upper_leg": 714e3, "lower_fixed": 4.53e3, "trim_pot": 470}, 0.20084),
)
def loss(senses, link_voltage, by_zeners, diode_current, upper_leg, lower_fixed, trim_pot):
    """Standing drain of divider or zener string on the link."""
    return senses * link_voltage * np.where(by_zeners > 0, diode_current, link_voltage / (upper_leg + lower_fixed + trim_pot))
