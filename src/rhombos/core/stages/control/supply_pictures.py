"""What would make the control supply, side by side; and what a lamp lets through in the first moments."""

import numpy as np

from rhombos.core.graph.pictures import Limit, Plot, Seen, Series, Table, Way, least, most
from rhombos.core.stages.control.control_supply import control_supply
from rhombos.core.stages.source.first_power import first_power
from rhombos.core.units import show

WARMS_IN = 0.05
"""Seconds in which a filament comes to glow [judgement]."""


@control_supply.picture("What would make the control supply", "input_voltage", "highest_source_voltage")
def schools(seen: Seen) -> Table:
    """Each school at both ends of the battery: the rail that it leaves at the lowest, its heat at the highest."""
    volts, rail, needed = seen.each("input_voltage"), seen.at("control_voltage"), seen.at("needed_rail")
    low, high, amperes = least(volts), most(volts), seen.at("supplied_current")
    pumped = 2 * low - 2 * seen.at("pump_diode") - amperes / (seen.at("pump_frequency") * seen.at("pump_capacitor"))
    converted = rail * amperes * (1 / seen.at("supply_efficiency") - 1)
    rise = seen.at("linear_loss") * seen.at("linear_resistance")
    cool = seen.at("allowed_regulator_rise") / max(rise, 1e-9)
    ways = [
        ("linear regulator", low - seen.at("linear_drop"), seen.at("linear_loss"), min(cool, seen.at("linear_rating") / high)),
        ("buck", 0.95 * low, converted, seen.at("converter_rating") / high),
        ("boost", rail if low < rail else np.nan, converted, seen.at("converter_rating") / high),
        ("charge pump", pumped, 2 * seen.at("pump_diode") * amperes, np.inf),
        ("auxiliary winding", seen.at("winding_share") * low, 0.0, np.inf),
    ]
    rows = []
    for k, (name, left, heat, room) in enumerate(ways):
        told = show(min(left, rail), "V", 3) if np.isfinite(left) else "not needed: the battery is above it"
        margin = min(min(left, rail) / needed, room / 1.1) if np.isfinite(left) else np.nan
        verdict = "unknown" if not np.isfinite(margin) else "holds" if margin >= 1 else "fails"
        rows.append(Way([name, told, show(heat, "W", 3)], verdict, chosen=int(seen.at("supply_school")) == k))  # type: ignore[arg-type]
    note = f"Needed: {show(needed, 'V', 3)} at every corner, {show(amperes, 'A', 3)} with the gates. A winding needs the front end running: it starts from something else."
    return Table(["Supply", f"Rail at {show(low, 'V', 3)}", f"Heat at {show(high, 'V', 3)}"], rows, note)


@first_power.picture("Into a fault, through the lamps")
def lamp(seen: Seen) -> Plot:
    """Current from the first moment to the glow, against what stands behind it; and what idling draws."""
    time = np.geomspace(1e-3, 2, 60)
    hot, cold = seen.at("hot_limit"), seen.at("cold_limit")
    current = hot + (cold - hot) * np.exp(-time / WARMS_IN)
    limits = [Limit("pulse", seen.at("limited_pulse_rating")), Limit("for good", seen.at("limited_rating"))]
    return Plot(
        "time",
        "s",
        "A",
        [Series("into a fault", time, current), Series("idling", [time[0], time[-1]], [seen.at("idle_current")] * 2, "slate", dashed=True)],
        limits,
        log=True,
        log_y=True,
        note=f"{seen.at('lamps_in_series'):.0f} × {show(seen.at('lamp_watts'), 'W', 3)} in series; or a supply limited to {show(seen.at('supply_setting'), 'A', 3)}.",
    )
