"""A two-timer with pot and two steering diodes: duty set between end stops, the frequency standing still (16, H9)."""

from rhombos.core.formulas.numeric import nearest_in
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.pictures import Plot, Seen, Series

LAW = "two-timer with steering diodes: charge through one side of the pot, discharge through the other"

duty_timer = Stage("duty_timer", "Duty timer", path=False, telling="{timer_frequency}")
duty_timer.give("timer_wanted", 20e3, "Hz", r"f_\mathrm{want}", 0.1, 500e3, "Frequency wanted.", "Frequency wanted")
duty_timer.give("timer_capacitor", 2.2e-9, "F", "C", 1e-11, 1e-3, "Timing capacitor.", "Timing capacitor")
duty_timer.give("least_duty", 0.05, "", r"D_\mathrm{min}", 0.001, 0.9, "Duty with the pot at its lower end.", "Least duty")
duty_timer.give("most_duty", 0.95, "", r"D_\mathrm{max}", 0.1, 0.999, "Duty with the pot at its upper end.", "Greatest duty")
duty_timer.give("pot_place", 0.5, "", "x", 0, 1, "Where the pot stands.", "Pot stands at")
duty_timer.give("diode_room", 0.02, "", r"\delta_D", 0, 0.5, "How far the duty's ends may miss [judgement].", "Ends may miss by", judgement=True)


@duty_timer.build(
    unit="Ω",
    symbol="R_s",
    source=LAW,
    title="Whole resistance",
    tex=r"\frac{1.44}{{timer_wanted}\,{timer_capacitor}}",
    example=({"timer_wanted": 20e3, "timer_capacitor": 2.2e-9}, 32.727e3),
)
def whole_resistance(timer_wanted, timer_capacitor):
    """Pot and both end stops together, for the frequency wanted."""
    return 1.44 / (timer_wanted * timer_capacitor)


@duty_timer.build(unit="Ω", symbol="R_a", source=LAW, title="End stop, low", decided=True, tex=r"\mathrm{E24}\!\left({least_duty}\,{whole_resistance}\right)")
def low_stop(least_duty, whole_resistance):
    """Resistor that keeps the duty from its least."""
    return nearest_in("E24")(least_duty * whole_resistance)


@duty_timer.build(
    unit="Ω", symbol="R_b", source=LAW, title="End stop, high", decided=True, tex=r"\mathrm{E24}\!\left((1-{most_duty})\,{whole_resistance}\right)"
)
def high_stop(most_duty, whole_resistance):
    """Resistor that keeps the duty from its greatest."""
    return nearest_in("E24")((1 - most_duty) * whole_resistance)


@duty_timer.build(unit="Ω", symbol="P", source=LAW, title="Pot", decided=True, tex=r"\mathrm{E6}\!\left({whole_resistance}-{low_stop}-{high_stop}\right)")
def duty_pot(whole_resistance, low_stop, high_stop):
    """Pot between the two diodes, as pots are sold."""
    return nearest_in("E6")(whole_resistance - low_stop - high_stop)


@duty_timer.build(
    unit="Hz",
    symbol="f",
    source=LAW,
    title="Frequency",
    tex=r"\frac{1.44}{({low_stop}+{duty_pot}+{high_stop})\,{timer_capacitor}}",
    example=({"low_stop": 1.6e3, "duty_pot": 33e3, "high_stop": 1.6e3, "timer_capacitor": 2.2e-9}, 18.081e3),
)
def timer_frequency(low_stop, duty_pot, high_stop, timer_capacitor):
    """Frequency with the parts as they are: wherever the pot stands."""
    return 1.44 / ((low_stop + duty_pot + high_stop) * timer_capacitor)


@duty_timer.build(unit="", symbol="D", source=LAW, title="Duty", tex=r"\frac{{low_stop}+{pot_place}\,{duty_pot}}{{low_stop}+{duty_pot}+{high_stop}}")
def timer_duty(low_stop, pot_place, duty_pot, high_stop):
    """Duty where the pot stands."""
    return (low_stop + pot_place * duty_pot) / (low_stop + duty_pot + high_stop)


@duty_timer.build(unit="", symbol=r"D_\mathrm{lo}", source=LAW, title="Duty, lower end", tex=r"\frac{low_stop}{{low_stop}+{duty_pot}+{high_stop}}")
def lowest_duty(low_stop, duty_pot, high_stop):
    """Duty at the lower end of the pot, with the parts as they are."""
    return low_stop / (low_stop + duty_pot + high_stop)


@duty_timer.build(unit="", symbol=r"D_\mathrm{hi}", source=LAW, title="Duty, upper end", tex=r"\frac{{low_stop}+{duty_pot}}{{low_stop}+{duty_pot}+{high_stop}}")
def highest_duty(low_stop, duty_pot, high_stop):
    """Duty at the upper end of the pot, with the parts as they are."""
    return (low_stop + duty_pot) / (low_stop + duty_pot + high_stop)


@duty_timer.build(unit="", symbol=r"D_\mathrm{ask}", source="end stop", title="Greatest duty allowed", tex=r"{most_duty}+{diode_room}")
def allowed_duty(most_duty, diode_room):
    """Duty that the pot may not pass."""
    return most_duty + diode_room


duty_timer.check(
    "end_stop",
    title="End stop holds",
    demand="highest_duty",
    capability="allowed_duty",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="At its upper end the pot gives a duty of {demand}; {capability} is allowed.",
    why="Without an end stop one turn of the pot leaves the switch on for good.",
    remedies=(Move("high_stop", "up", 4.0), Move("most_duty", "up", 1.05)),
)


@duty_timer.picture("The pot's travel")
def travel(seen: Seen) -> Plot:
    """Duty over the pot; the frequency stands still."""
    low, high = seen.at("lowest_duty"), seen.at("highest_duty")
    return Plot("travel of the pot", "", "", [Series("duty", [0.0, 1.0], [low, high])], y_from=0.0, y_to=1.0)
