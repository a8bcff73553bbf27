"""Voltage feedback, second part: the optocoupler, what one fault lets happen, judgements (7.1; 16, H21; 15.2 no. 5, 11, 21)."""

import numpy as np

from rhombos.core.formulas.numeric import highest
from rhombos.core.graph.declare import Move, Option
from rhombos.core.stages.feedback.feedback import DIVIDER, feedback
from rhombos.core.vocabulary import word

OPTO = "transfer ratio of an optocoupler, half its initial minimum at the end of its life"
ENERGY = "energy of the link: C·(V_r² − V²)/2 over the surplus"

feedback.give("transfer_ratio", 1.0, "", r"\mathrm{CTR}", 0.05, 20, "Least transfer ratio of the optocoupler when new.", "Transfer ratio, new")
feedback.give("aged_share", 0.5, "", r"k_\mathrm{age}", 0.1, 1, "What is left of it at the end of life [judgement].", "Left at end of life", judgement=True)
feedback.give(
    "pull_down_current", 0.5e-3, "A", "I_C", 1e-5, 0.02, "Current that the controller's pin must be pulled down with.", "Current at the controller's pin"
)

feedback.choice(
    "detector",
    {"independent": Option("independent", {"detects": 1}), "none": Option("none", {"detects": 0})},
    {"detects": ("", r"\delta_\mathrm{ov}", "1 where something else than the feedback sees an over-voltage of the link.")},
    default="independent",
    sentence="What acts when the feedback has failed and the link rises.",
    title="Over-voltage trip",
)
feedback.give("detector_tolerance", 0.02, "", r"\delta_\mathrm{det}", 0, 0.2, "Tolerance of the over-voltage trip.", "Tolerance of the trip")
feedback.give("detector_delay", 50e-6, "s", r"t_\mathrm{det}", 0, 0.1, "From the level to the front end being off, its filter in it.", "Delay of the trip")
feedback.give(
    "surplus_factor",
    1.5,
    "",
    r"k_\mathrm{sur}",
    1,
    10,
    "What the front end may give with nothing to regulate it, over the highest power it is asked for [judgement].",
    "Surplus of the front end",
    judgement=True,
)


@feedback.build(
    unit="A",
    symbol=r"I_{C,\mathrm{old}}",
    source=OPTO,
    title="Optocoupler gives, aged",
    tex=r"{diode_current}\,{transfer_ratio}\,{aged_share}",
    example=({"diode_current": 2e-3, "transfer_ratio": 1.0, "aged_share": 0.5}, 1e-3),
)
def aged_current(diode_current, transfer_ratio, aged_share):
    """Current that the optocoupler's transistor gives at the end of its life."""
    return diode_current * transfer_ratio * aged_share


@feedback.build(
    unit="A", symbol=r"I_{C,\mathrm{need}}", source=OPTO, title="Current asked of the optocoupler", tex=r"{senses}\,{isolates}\,{pull_down_current}"
)
def transferred_current(senses, isolates, pull_down_current):
    """What the controller's pin asks of the optocoupler; nothing where there is none."""
    return senses * isolates * pull_down_current


@feedback.build(
    unit="V",
    symbol=r"V_\mathrm{weak}",
    source="the part that stands least",
    title="Weakest rating on the link",
    tex=r"\min({capacitor_rated_voltage},\,{link_switch_rating})",
    example=({"capacitor_rated_voltage": 450, "link_switch_rating": 600}, 450),
)
def weakest_link_rating(capacitor_rated_voltage, link_switch_rating):
    """Voltage that the weakest part on the link stands."""
    return np.minimum(capacitor_rated_voltage, link_switch_rating)


@feedback.build(
    unit="V",
    symbol=r"V_\mathrm{ov}",
    source="between the highest crest and the weakest rating",
    title="Over-voltage trip",
    tex=r"\tfrac12\left({highest_link}+{weakest_link_rating}\right)",
    example=({"highest_link": 400, "weakest_link_rating": 450}, 425),
    decided=True,
)
def overvoltage_trip(highest_link, weakest_link_rating):
    """Level of the independent trip: midway between what the link reaches in service and what its weakest part stands."""
    return (highest_link + weakest_link_rating) / 2


@feedback.build(unit="V", symbol=r"V_\mathrm{ov,min}", source="tolerance", title="Over-voltage trip, lowest", tex=r"{overvoltage_trip}(1-{detector_tolerance})")
def lowest_overvoltage_trip(overvoltage_trip, detector_tolerance):
    """The over-voltage trip at its low tolerance."""
    return overvoltage_trip * (1 - detector_tolerance)


@feedback.build(
    unit="V", symbol=r"V_\mathrm{ov,max}", source="tolerance", title="Over-voltage trip, highest", tex=r"{overvoltage_trip}(1+{detector_tolerance})"
)
def highest_overvoltage_trip(overvoltage_trip, detector_tolerance):
    """The over-voltage trip at its high tolerance."""
    return overvoltage_trip * (1 + detector_tolerance)


@feedback.build(
    unit="W",
    symbol=r"P_\mathrm{sur}",
    source="what the front end gives, nothing drawing it",
    title="Surplus into the link",
    tex=r"{surplus_factor}\max({feed_power})",
)
def surplus_power(surplus_factor, feed_power):
    """Power that flows into the link when the feedback asks for all there is and nothing is drawn."""
    return surplus_factor * highest(feed_power)


@feedback.build(
    unit="V",
    symbol=r"V_\mathrm{ceil}",
    source="ratio and highest source, no load: the link is charged to the peak",
    title="Ceiling of the link",
    tex=r"\max({open_loop_peak})",
)
def link_ceiling(open_loop_peak):
    """Where the link ends with the feedback gone and the source at its highest."""
    return highest(open_loop_peak)


@feedback.build(
    unit="s",
    symbol=r"t_\mathrm{weak}",
    source=ENERGY,
    title="Time to the weakest rating",
    tex=r"\frac{{link_capacitance}\max\left({weakest_link_rating}^2-{link_setpoint}^2,\,0\right)}{2\,{surplus_power}}",
    example=({"link_capacitance": 470e-6, "weakest_link_rating": 450, "link_setpoint": 380, "surplus_power": 2400}, 5.6890e-3),
)
def time_to_rating(link_capacitance, weakest_link_rating, link_setpoint, surplus_power):
    """From the set-point to the weakest rating with the whole surplus flowing into the link."""
    room = weakest_link_rating**2 - link_setpoint**2
    return link_capacitance * np.maximum(room, 0 * room) / (2 * surplus_power)


@feedback.build(
    unit="V",
    symbol=r"V_\mathrm{fault}",
    source=ENERGY,
    title="Link with one fault in the feedback",
    tex=r"{senses}\begin{cases}\min\left({link_ceiling},\,\sqrt{{highest_overvoltage_trip}^2+\frac{2\,{surplus_power}\,{detector_delay}}{link_capacitance}}\right)&{detects}=1\\{link_ceiling}&\text{else}\end{cases}",
    example=(
        {
            "senses": 1,
            "detects": 1,
            "link_ceiling": 560,
            "highest_overvoltage_trip": 434,
            "surplus_power": 2400,
            "detector_delay": 1e-3,
            "link_capacitance": 470e-6,
        },
        445.612,
    ),
)
def link_in_fault(senses, detects, link_ceiling, highest_overvoltage_trip, surplus_power, detector_delay, link_capacitance):
    """How high one fault drives the link: to the ceiling, or to where the independent trip has stopped the front end."""
    stopped = np.sqrt(highest_overvoltage_trip**2 + 2 * surplus_power * detector_delay / link_capacitance)
    return senses * np.where(detects > 0, np.minimum(link_ceiling, stopped), link_ceiling)


@feedback.build(
    unit="",
    symbol=r"\iota_\mathrm{lost}",
    source="a divider joins what it measures with who reads it",
    title="Isolation lost",
    tex=r"{isolation_wanted}\,{senses}(1-{isolates})",
    example=({"isolation_wanted": 1, "senses": 1, "isolates": 0}, 1),
)
def isolation_lost(isolation_wanted, senses, isolates):
    """1 where the path ties the output to the battery although isolation is wanted."""
    return isolation_wanted * senses * (1 - isolates)


feedback.give(
    "isolation_allowed", 0.5, "", r"\iota_0", 0.5, 0.5, "What of it may be lost: nothing; half stands between no and yes.", "Isolation that may be lost"
)
feedback.give("power_reserve", 0.5, "", r"k_R", 0.5, 0.5, "A resistor carries half its watts for good.", "Of a resistor's watts")


@feedback.build(unit="W", symbol=r"P_{R,\mathrm{may}}", source="half of its rating", title="Watts allowed", tex=r"{power_reserve}\,{piece_power}")
def allowed_piece_loss(power_reserve, piece_power):
    """Power that one resistor of the divider may take for good."""
    return power_reserve * piece_power


@feedback.build(
    unit="V", symbol=r"V_\mathrm{end}", source=DIVIDER, title="Pot's upper end, highest", tex=r"{senses}(1-{by_zeners})\,{setpoint_at_top}(1+{parts_spread})"
)
def highest_at_top(senses, by_zeners, setpoint_at_top, parts_spread):
    """Link at the upper end of the pot or with its wiper open, its parts at their worst."""
    return senses * (1 - by_zeners) * setpoint_at_top * (1 + parts_spread)


feedback.check(
    "spread",
    title="Set-point stays in its tolerance",
    demand="setpoint_spread",
    capability="link_tolerance",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="By its parts the set-point may stand off by {demand}; the link's window counts on {capability}.",
    why="Below it the output clips in the valley, above it the capacitors stand too much.",
    remedies=(Move("trim_share", "up", 2.0), Move("zener_tolerance", "down", 10.0), Move("link_tolerance", "up", 6.0)),
    no_demand="Nothing is sensed: see what open loop moves by.",
)
feedback.check(
    "trim",
    title="Trim reaches the set-point",
    demand="trim_needed",
    capability="trim_reach",
    fail=1.0,
    hold=1.1,
    harm="none",
    sentence="The parts may stand off by {demand}; the pot moves the set-point by {capability}.",
    why="With its parts at their worst the wanted voltage cannot be set.",
    remedies=(Move("trim_share", "up", 3.0), Move("leg_tolerance", "down", 10.0)),
    no_demand="There is no pot.",
)
feedback.check(
    "pot_end",
    title="Pot safe at its end",
    demand="highest_at_top",
    capability="weakest_link_rating",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="With the pot at its end or its wiper open the link reaches {demand}; its weakest part stands {capability}.",
    why="One turn of a screwdriver, or one bad contact, must not burst capacitors.",
    remedies=(Move("trim_share", "down", 4.0), Move("leg_tolerance", "down", 10.0)),
    no_demand="There is no pot in the path.",
)
feedback.check(
    "piece_voltage",
    title="Volts on the upper resistors",
    demand="piece_stress",
    capability="piece_voltage",
    fail=1.0,
    hold=1.25,
    harm="equipment",
    sentence="One upper resistor sees {demand}; it holds {capability}.",
    why="A small resistor beyond its volts goes open in time, and then the link runs up.",
    remedies=(Move("upper_pieces", "up", 3.0), Move("piece_voltage", "up", 2.0)),
    no_demand="There is no divider.",
)
feedback.check(
    "piece_power",
    title="Watts in the upper resistors",
    demand="piece_loss",
    capability="allowed_piece_loss",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="One upper resistor takes {demand}; {capability} is half its rating.",
    why="A divider that warms drifts, and the set-point with it.",
    remedies=(Move("tap_resistor", "up", 4.0), Move("upper_pieces", "up", 3.0)),
    no_demand="There is no divider.",
)
feedback.check(
    "transfer",
    title="Optocoupler at end of life",
    demand="transferred_current",
    capability="aged_current",
    fail=1.0,
    hold=1.5,
    harm="equipment",
    sentence="The controller's pin asks for {demand}; the aged optocoupler gives {capability}.",
    why="An optocoupler that no longer pulls the pin down lets the link run up.",
    remedies=(Move("diode_current", "up", 4.0), Move("transfer_ratio", "up", 3.0)),
    no_demand="There is no optocoupler in the path.",
)
feedback.check(
    "isolation",
    title="Isolation kept",
    demand="isolation_lost",
    capability="isolation_allowed",
    fail=1.0,
    hold=1.0,
    harm="people",
    sentence="Where isolation is wanted a divider ties the output to the battery's negative ({demand}; nothing of it may be lost).",
    why="Whoever touches the output and the battery's frame closes the circuit.",
    no_demand="The path does not tie the output to the battery, or that is allowed.",
)
feedback.check(
    "single_fault",
    title="One fault in the feedback",
    demand="link_in_fault",
    capability="weakest_link_rating",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="With one part of the path open or shorted the link rises to {demand}; its weakest part stands {capability}.",
    why="Leads come off and resistors go open; something else must see the link rise.",
    remedies=(Move("detector_delay", "down", 20.0), Move("overvoltage_trip", "down", 1.2)),
    no_demand="Nothing is sensed.",
)
feedback.check(
    "trip_above_service",
    title="Over-voltage trip above service",
    demand="highest_link",
    capability="lowest_overvoltage_trip",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="In service the link reaches {demand}; the trip acts from {capability} on.",
    why="The first gust of returned energy would stop the inverter.",
    remedies=(Move("detector_tolerance", "down", 5.0), Move("overvoltage_trip", "up", 1.2)),
)
feedback.check(
    "open_loop",
    title="Open loop within the tolerance",
    demand="open_loop_span",
    capability="open_loop_allowed",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="Without regulation the link moves by {demand} over the source window; {capability} is allowed.",
    why="Open loop is allowed only where every load stands all of it.",
    no_demand="The link is regulated.",
)


@feedback.build(
    unit="V",
    symbol=r"\Delta V_\mathrm{may}",
    source="tolerance both ways",
    title="Open loop allowed",
    tex=r"2\,{link_tolerance}\,{link_setpoint}",
    example=({"link_tolerance": 0.01, "link_setpoint": 380}, 7.6),
)
def open_loop_allowed(link_tolerance, link_setpoint):
    """Span that the link's tolerance covers."""
    return 2 * link_tolerance * link_setpoint


word("open_loop_voltage", "V", r"V_\mathrm{open}", "Link that the greatest duty makes under load.", 420)
word("open_loop_peak", "V", r"\hat V_\mathrm{open}", "Link that is charged to the peak with nothing to stop it.", 560)
word("link_switch_rating", "V", r"V_\mathrm{DSS}", "Voltage that the switches on the link stand.", 600)
word("feed_power", "W", r"P_f", "Power that flows into the link.", 900)
word("link_tolerance", "", r"\delta_\mathrm{link}", "Tolerance of the link's set-point that its window counts on.", 0.01)
word("capacitor_rated_voltage", "V", r"V_{C,\mathrm{rat}}", "Rated voltage of the link's capacitors.", 450)

__all__ = ["feedback"]
