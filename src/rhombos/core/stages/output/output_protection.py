"""Output protection: electronic trip between the highest working peak and the weakest part (7.2, 7.3)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, known, nearest_in
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.stages.sizes import BY_OUTPUT_CURRENT
from rhombos.core.vocabulary import word

SHORT = "short circuit behind the choke: di/dt = V/L"

output_protection = Stage("output_protection", "Trip", path=False, telling="{output_trip_level}")
output_protection.hazard("dc_voltage", "highest_link")


output_protection.give("trip_factor", 1.25, "", r"k_\mathrm{trip}", 1.05, 2, "Trip level over the highest working peak (1.2 to 1.3).", "Trip over working peak")
output_protection.give("sense_delay", 2e-6, "s", r"t_\mathrm{sense}", 0, 0.001, "Time from reaching the level to the shutdown signal.", "Sensing delay")
output_protection.give("drive_delay", 0.5e-6, "s", r"t_\mathrm{drive}", 0, 0.001, "Time from the shutdown signal to the switches being off.", "Drive delay")


@output_protection.build(
    unit="A",
    symbol=r"I_\mathrm{trip}",
    source="trip above the highest working peak",
    title="Trip level",
    start=14.0,
    grows=BY_OUTPUT_CURRENT,
    tex=r"\mathrm{E96}_\uparrow\left({trip_factor}\max({choke_peak_current})\right)",
    example=({"trip_factor": 1.25, "choke_peak_current": 11.7}, 14.7),
    decided=True,
)
def output_trip_level(trip_factor, choke_peak_current):
    """Level at which the electronic trip acts: above the highest working peak at surge, in the steps of the divider that sets it."""
    return nearest_in("E96", "up")(trip_factor * highest(choke_peak_current))


output_protection.rename(working_peak="choke_peak_current")


output_protection.rename(weakest_rating="pulsed_rating")


@output_protection.build(
    unit="H", symbol=r"L_\mathrm{low}", source="inductance at its low tolerance", title="Choke at its lowest", tex=r"{filter_inductance}(1-{choke_tolerance})"
)
def lowest_inductance(filter_inductance, choke_tolerance):
    """Least inductance that a short must pass."""
    return filter_inductance * (1 - choke_tolerance)


@output_protection.build(
    unit="s",
    symbol=r"t_\mathrm{left}",
    source=SHORT,
    title="Time left after the trip level",
    tex=r"\frac{\max({weakest_rating}-{output_trip_level},\,0)\,{lowest_inductance}}{highest_link}",
    example=({"weakest_rating": 60, "output_trip_level": 20, "lowest_inductance": 1.5e-3, "highest_link": 400}, 150e-6),
)
def time_left(weakest_rating, output_trip_level, lowest_inductance, highest_link):
    """Time from the trip level to the switches' pulsed rating in a dead short, choke unsaturated; none where the trip lies above it."""
    room = weakest_rating - output_trip_level
    return np.maximum(room, 0 * room) * lowest_inductance / highest_link


@output_protection.build(unit="s", symbol=r"t_\mathrm{act}", source=SHORT, title="Time to act", tex=r"{sense_delay}+{drive_delay}")
def time_to_act(sense_delay, drive_delay):
    """Time that sensing and drive take."""
    return sense_delay + drive_delay


@output_protection.build(
    unit="s",
    symbol=r"t_\mathrm{trip}",
    source=SHORT,
    title="Time to the trip level",
    tex=r"\frac{{output_trip_level}\,{filter_inductance}}{highest_link}",
    example=({"output_trip_level": 20, "filter_inductance": 1.5e-3, "highest_link": 400}, 75e-6),
)
def time_to_trip(output_trip_level, filter_inductance, highest_link):
    """Time from zero current to the trip level in a dead short."""
    return output_trip_level * filter_inductance / highest_link


@output_protection.build(
    unit="H",
    symbol=r"L_\mathrm{min}",
    source=SHORT,
    title="Least choke",
    tex=r"\frac{{highest_link}\,{time_to_act}}{{weakest_rating}-{output_trip_level}}",
    example=({"highest_link": 400, "time_to_act": 2.5e-6, "weakest_rating": 60, "output_trip_level": 20}, 25e-6),
)
def least_inductance(highest_link, time_to_act, weakest_rating, output_trip_level):
    """Least unsaturated inductance that leaves the trip its time."""
    room = weakest_rating - output_trip_level
    return known(
        room > 0 * room,
        highest_link * time_to_act / room,
        "the trip acts at {trip} A, above the {weak} A that the switches stand: no choke is enough",
        trip=output_trip_level,
        weak=weakest_rating,
    )


@output_protection.build(
    unit="A",
    symbol=r"I_\mathrm{sat}",
    source=SHORT,
    title="Choke holds its inductance to",
    safe="up",
    tex=r"\mathrm{E24}_\uparrow\left({output_trip_level}+\frac{{highest_link}\,{time_to_act}}{lowest_inductance}\right)",
    example=({"output_trip_level": 15, "highest_link": 400, "time_to_act": 2.6e-6, "lowest_inductance": 1e-3}, 18),
)
def choke_saturation_current(output_trip_level, highest_link, time_to_act, lowest_inductance):
    """Current that a short reaches before the switches are off: up to it the choke is ordered not to saturate."""
    return nearest_in("E24", "up")(output_trip_level + highest_link * time_to_act / lowest_inductance)


output_protection.check(
    "below_weakest",
    title="Trip below the weakest part",
    demand="output_trip_level",
    capability="weakest_rating",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="The trip acts at {demand}; the switches stand {capability}.",
    why="A trip above the rating protects nothing.",
    remedies=(Move("trip_factor", "down", 1.2),),
)
output_protection.check(
    "above_working",
    title="Trip above the working peak",
    demand="working_peak",
    capability="output_trip_level",
    fail=1.0,
    hold=1.1,
    harm="none",
    sentence="Working peaks reach {demand}; the trip acts at {capability}.",
    why="A start would trip it.",
    remedies=(Move("trip_factor", "up", 1.5),),
)
output_protection.check(
    "choke_slows",
    title="Choke slows a short",
    demand="time_to_act",
    capability="time_left",
    fail=1.0,
    hold=1.5,
    harm="equipment",
    sentence="From the trip level a short leaves {capability} until the switches' rating is passed; sensing and drive take {demand}.",
    why="Without that time the switches see the whole short.",
    remedies=(Move("sense_delay", "down", 10.0, "world"), Move("filter_inductance", "up", 3.0), Move("trip_factor", "down", 1.2)),
)


output_protection.give("cost", 4.0, "credit", "c", 0, 500, "Price of sensing and shutdown parts [judgement].", "Cost", judgement=True)
output_protection.give("part_count", 5.0, "", "n", 1, 100, "Sensor, comparator, latch, relay, arrester.", "Parts", whole=True)
word("choke_saturation_current", "A", r"I_\mathrm{sat}", "Current up to which the output choke must not saturate.", 16)
word("choke_tolerance", "", r"\delta_L", "How far the output choke's inductance may stand low.", 0.1)

output_protection.order("Current sensor", "trips at {output_trip_level}", "in the choke's path", price=("cost", 0.3))
output_protection.order("Comparator", "fast", "{sense_delay} with its filter", price=("cost", 0.15))
output_protection.order("Latch", "set by the trip", "opened by hand", price=("cost", 0.15))
output_protection.order("Output relay", "{rated_output_voltage}", "carries {output_trip_level}", price=("cost", 0.3))

output_protection.trip("Output trip", "output_trip_level", after="{time_to_act}", resets="by hand, after the fault is found")
output_protection.procedure(
    "Try the trip",
    "The bridge is not fed: a bench supply of a few volts drives a current through the sensor, limited by a resistor, the latch reset.",
    "Up to {working_peak} nothing may happen: starts reach that.",
    "At {output_trip_level} the latch sets and the bridge's drive goes off within {time_to_act} (two channels of the scope: sensor and gate).",
    "Reset by hand only. Then once with the bridge at a tenth of its link and a short behind the choke: the current must not pass {choke_saturation_current}.",
)
