"""Self-oscillating push-pulls: by a saturating core, or by the gain of its transistors (3.1 E; 16, H8; 15.2 no. 19)."""

from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.graph.pictures import Plot, Seen, Series
from rhombos.core.vocabulary import word

FARADAY = "Faraday: V·T/4 = N·B·A for a square wave; a half cycle ends where the collector current reaches β·I_B"

self_oscillator = Stage("self_oscillator", "Self-oscillator", path=False, telling="{half_frequency}")
self_oscillator.choice(
    "turn_over",
    {"saturation": Option("saturating core", {"by_gain": 0}), "gain": Option("gain of the transistors, core unsaturated", {"by_gain": 1})},
    {"by_gain": ("", r"\sigma_\beta", "1 where the gain ends the half cycle.")},
    default="saturation",
    sentence="What ends a half cycle.",
)
self_oscillator.choice(
    "base_drive",
    {"feedback": Option("feedback winding", {"crossed": 0}), "crossed": Option("bases from the opposite collector", {"crossed": 1})},
    {"crossed": ("", r"\sigma_x", "1 where each base is fed from the opposite collector.")},
    default="feedback",
    sentence="What drives the bases.",
)
self_oscillator.give("half_voltage", 12.0, "V", "V_p", 1, 400, "Voltage on one primary half.", "Voltage of one half")
self_oscillator.give("half_turns", 10.0, "", "N", 1, 5000, "Turns of one primary half.", "Turns of one half", whole=True)
self_oscillator.give("saturation_flux", 0.35, "T", r"B_\mathrm{sat}", 0.05, 2, "Flux at which the core saturates.", "Saturation")
self_oscillator.give("oscillator_area", 100e-6, "m^2", "A_e", 1e-6, 0.05, "Area of the core.", "Core's area")
self_oscillator.give("half_inductance", 200e-6, "H", "L_p", 1e-7, 10, "Inductance of one primary half.", "Inductance of one half")
self_oscillator.give("transistor_gain", 40.0, "", r"\beta", 5, 1000, "Gain of the transistors at that current.", "Gain")
self_oscillator.give("gain_spread", 0.5, "", r"\delta_\beta", 0, 0.9, "Spread of the gain, either way.", "Spread of the gain")
self_oscillator.give("feedback_turns", 2.0, "", r"N_\mathrm{fb}", 1, 500, "Turns of the feedback winding.", "Feedback turns", whole=True)
self_oscillator.give("base_resistor", 22.0, "Ω", "R_B", 0.1, 1e5, "Resistor of the bases.", "Base resistor")
self_oscillator.give("base_voltage", 0.8, "V", r"V_{BE}", 0.4, 1.5, "Base-emitter voltage.", "Base-emitter voltage")
self_oscillator.give("load_current", 1.0, "A", r"I_\mathrm{load}", 0, 500, "Load current, referred to one half.", "Load current")
self_oscillator.give("storage_time", 1e-6, "s", r"t_s", 0, 1e-4, "Storage or turn-off time of the transistors.", "Storage time")
self_oscillator.give(
    "storage_share", 0.05, "", r"\delta_s", 0.001, 0.5, "Part of a half cycle that both may conduct [judgement].", "Both may conduct", judgement=True
)


@self_oscillator.build(
    unit="A",
    symbol="I_B",
    source=FARADAY,
    title="Base current",
    tex=r"\frac{\begin{cases}2\,{half_voltage}&{crossed}=1\\{half_voltage}\frac{feedback_turns}{half_turns}&\text{else}\end{cases}-{base_voltage}}{base_resistor}",
    example=({"half_voltage": 12, "crossed": 0, "feedback_turns": 2, "half_turns": 10, "base_voltage": 0.8, "base_resistor": 16}, 0.1),
)
def base_current(half_voltage, crossed, feedback_turns, half_turns, base_voltage, base_resistor):
    """Base current while a half conducts."""
    drive = half_voltage * (2 * crossed + (1 - crossed) * feedback_turns / half_turns)
    return (drive - base_voltage) / base_resistor


def _declare_turning(name: str, symbol: str, title: str, sign: int) -> None:
    def formula(transistor_gain, gain_spread, base_current, load_current):
        return transistor_gain * (1 + sign * gain_spread) * base_current - load_current

    side = {1: r"(1+{gain_spread})", -1: r"(1-{gain_spread})", 0: r"(1+0\cdot{gain_spread})"}[sign]
    formula.__name__ = name
    formula.__doc__ = f"{title}: the magnetising current at which the transistor leaves saturation."
    numbers = {"transistor_gain": 40, "gain_spread": 0.5, "base_current": 0.1, "load_current": 1}
    gives = {1: 5.0, 0: 3.0, -1: 1.0}[sign]
    self_oscillator.build(
        unit="A", symbol=symbol, source=FARADAY, title=title, tex=rf"{{transistor_gain}}{side}{{base_current}}-{{load_current}}", example=(numbers, gives)
    )(formula)


_declare_turning("turning_current", "I_m", "Current at the turn", 0)
_declare_turning("lowest_turning_current", r"I_{m,\mathrm{min}}", "Current at the turn, least gain", -1)


@self_oscillator.build(
    unit="Hz",
    symbol="f",
    source=FARADAY,
    title="Frequency",
    tex=r"\begin{cases}\frac{half_voltage}{4\,{half_inductance}\,{turning_current}}&{by_gain}=1\\\frac{half_voltage}{4\,{half_turns}\,{saturation_flux}\,{oscillator_area}}&\text{else}\end{cases}",
    example=(
        {
            "half_voltage": 12,
            "half_inductance": 200e-6,
            "turning_current": 3,
            "by_gain": 0,
            "half_turns": 10,
            "saturation_flux": 0.35,
            "oscillator_area": 100e-6,
        },
        8571.4,
    ),
)
def half_frequency(half_voltage, half_inductance, turning_current, by_gain, half_turns, saturation_flux, oscillator_area):
    """Frequency: the core's saturation sets it, or the transistors' gain; both laws agree where L·I = N·B·A."""
    by_current = half_voltage / (4 * half_inductance * turning_current)
    return by_gain * by_current + (1 - by_gain) * half_voltage / (4 * half_turns * saturation_flux * oscillator_area)


@self_oscillator.build(
    unit="s",
    symbol=r"t_{s,\mathrm{may}}",
    source="[judgement] share of a half cycle",
    title="Both may conduct for",
    tex=r"\frac{storage_share}{2\,{half_frequency}}",
    example=({"storage_share": 0.05, "half_frequency": 10e3}, 2.5e-6),
)
def allowed_storage(storage_share, half_frequency):
    """Time in which both transistors may conduct."""
    return storage_share / (2 * half_frequency)


self_oscillator.check(
    "storage",
    title="Both do not conduct for long",
    demand="storage_time",
    capability="allowed_storage",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="Both conduct for {demand} at every turn; {capability} is allowed.",
    why="Two switches at half and half with no dead time: for the storage time they short the primary.",
    remedies=(Move("half_turns", "up", 4.0), Move("storage_time", "down", 10.0, "world")),
)
self_oscillator.check(
    "starts",
    title="Oscillates under load",
    demand="load_current",
    capability="sustained_current",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="{demand} are drawn; the weakest transistor sustains {capability}.",
    why="Above it the transistor leaves saturation at once, and burns.",
    remedies=(Move("base_resistor", "down", 5.0), Move("transistor_gain", "up", 4.0, "world")),
)


@self_oscillator.build(unit="A", symbol=r"\beta I_B", source=FARADAY, title="Current sustained", tex=r"{transistor_gain}(1-{gain_spread})\,{base_current}")
def sustained_current(transistor_gain, gain_spread, base_current):
    """Collector current that the weakest transistor sustains in saturation."""
    return transistor_gain * (1 - gain_spread) * base_current


@self_oscillator.picture("Magnetising current over two half cycles")
def ramps(seen: Seen) -> Plot:
    """A ramp up and a ramp down; it turns where the core or the gain says so."""
    period = 1 / seen.at("half_frequency")
    peak = seen.at("half_voltage") * period / (4 * seen.at("half_inductance"))
    return Plot("time", "s", "A", [Series("magnetising current", [0, period / 2, period], [-peak, peak, -peak])])


word("load_current", "A", r"I_\mathrm{load}", "Load current, referred to one primary half.", 1.0)
