"""Ways side by side: what would drive these gates, and what would sense this current."""

import numpy as np

from rhombos.core.graph.pictures import Limit, Plot, Seen, Series, Table, Way, most
from rhombos.core.stages.control.current_limit import current_sensing
from rhombos.core.stages.control.driver_schools import SCHOOLS, driver_schools
from rhombos.core.units import show

TIGHT = 1.1
"""Below this a way that does it has little left."""


def verdict(margin: float) -> str:
    """How a way would do that gives so many times what is asked."""
    if not np.isfinite(margin):
        return "unknown"
    return "holds" if margin >= TIGHT else "tight" if margin >= 1 else "fails"


@driver_schools.picture("What would drive these gates", "gate_on_voltage", "fully_on_voltage", "switch_quantity")
def schools(seen: Seen) -> Table:
    """Each school with the number that decides, and how many times what is asked it gives."""
    asked, level = show(seen.at("edge_current"), "A", 3), show(most(seen.each("fully_on_voltage")), "V", 3)
    said = {
        "driver_chip": f"{show(seen.at('driver_current_limit'), 'A', 3)} peak for {asked}",
        "direct": f"{show(seen.at('controller_peak'), 'A', 3)} peak for {asked}, {show(seen.at('controller_drop'), 'V', 2)} lost of the level",
        "follower": f"{show(seen.at('follower_gain') * seen.at('controller_peak'), 'A', 3)} peak; low level {show(seen.at('low_output') + seen.at('base_drop'), 'V', 2)} against {show(seen.at('hot_threshold'), 'V', 3)} hot threshold",
        "optocoupler": f"edge {show(seen.at('opto_edge'), 's', 3)}: {show(seen.at('opto_loss'), 'W', 3)} an edge; for 50 or 60 Hz only",
        "gate_transformer": f"edge {show(seen.at('transformer_edge'), 's', 3)}, gate resistor of {show(seen.at('transformer_damping'), 'Ω', 3)} or more; ±{show(seen.at('drive_turns') * most(seen.each('gate_on_voltage')), 'V', 3)}",
        "level_shift": f"edge {show(seen.at('shift_edge'), 's', 3)} within a dead time of {show(seen.at('available_dead_time'), 's', 3)}; for some hundred Hz",
    }
    margins = {
        "driver_chip": "chip_margin",
        "direct": "direct_margin",
        "follower": "follower_margin",
        "optocoupler": "opto_margin",
        "gate_transformer": "transformer_margin",
        "level_shift": "shift_margin",
    }
    rows = []
    for name, title in SCHOOLS.items():
        margin = seen.at(margins[name])
        rows.append(Way([title, said[name], f"{margin:.3g} ×"], verdict(margin), chosen=seen.at(f"takes_{name}") > 0))  # type: ignore[arg-type]
    return Table(["Driver", "What decides", "Gives"], rows, f"Asked: {asked} for the edges of these gates, {level} for fully on, times one.")


@current_sensing.picture("What would sense this current", "peak_current", "switch_rms_current")
def sensors(seen: Seen) -> Table:
    """Each sensor with its own trouble, worked out for this stage whichever is taken."""
    level = seen.at("front_trip_level")
    rating = seen.at("front_weakest_rating")
    watts = seen.at("lead_rms_current") ** 2 * seen.at("shunt_resistance")
    share = watts / seen.at("rated_active_power")
    pulse, volts = most(seen.each("pulse_time")), seen.at("core_voltage")
    duty = most(seen.each("total_duty"))
    half = 1 / (2 * seen.at("switching_frequency"))
    each, common = volts * pulse / ((2 - duty) * half), volts * pulse / max((1 - duty) * half, 1e-12)
    allowed = seen.at("reset_voltage")
    cold = level * most(seen.each("hot_resistance")) / seen.at("switch_on_resistance")
    taken = {
        "each": seen.at("by_transformer") * (1 - seen.at("common_lead")),
        "common": seen.at("by_transformer") * seen.at("common_lead"),
        "shunt": seen.at("by_shunt"),
        "drain": seen.at("by_drain"),
    }
    rows = [
        ("current transformer in each leg", f"resets against {show(each, 'V', 3)} of {show(allowed, 'V', 3)}", allowed / each, "each"),
        ("one in the common lead", f"resets against {show(common, 'V', 3)} of {show(allowed, 'V', 3)}", allowed / common, "common"),
        ("shunt", f"{show(seen.at('shunt_resistance'), 'Ω', 3)}, {show(watts, 'W', 3)}: {100 * share:.2g} % of the output", 0.01 / share, "shunt"),
        ("drop of the switches", f"a cold switch lets {show(cold, 'A', 3)} through; it stands {show(rating, 'A', 3)}", rating / cold, "drain"),
    ]
    return Table(
        ["Sensor", "What decides", "Margin"],
        [Way([title, said, f"{margin:.3g} ×"], verdict(margin), chosen=taken[name] > 0) for title, said, margin, name in rows],  # type: ignore[arg-type]
        f"All for a trip at {show(level, 'A', 3)}. A shunt is called good below 1 % of the output [judgement].",
    )


@current_sensing.picture("Short of the link, seen from a switch", "choke_inductance", "secondary_amplitude")
def short(seen: Seen) -> Plot:
    """The switches' current from the limit's level on, and when it is off."""
    level, rating, act = seen.at("front_trip_level"), seen.at("front_weakest_rating"), seen.at("limit_time")
    left = seen.at("front_time_left")
    slope = (rating - level) / left
    until = 1.15 * left
    time = np.array([0.0, level / slope, level / slope + min(act, until)])
    current = np.array([0.0, level, level + slope * min(act, until)])
    said = "The limit is in time." if act <= left else "The limit comes too late: the switches are past their rating by then."
    return Plot(
        "time from the short",
        "s",
        "A",
        [
            Series("with the limit", [*time, time[-1] + 0.02 * left], [*current, 0.0]),
            Series("without", [0.0, level / slope + until], [0.0, level + slope * until], "slate", dashed=True),
        ],
        [Limit("limit", level), Limit("switches stand", rating)],
        y_from=0.0,
        note=said + " The choke, on the link's side, slows it; its order counts with that current.",
    )
