"""Voltage feedback, third part: what is ordered, at what it trips, how its sense is proved (7.1)."""

from rhombos.core.stages.feedback.feedback_faults import feedback

feedback.give(
    "path_price",
    1.6,
    "credit",
    r"c_\mathrm{fb}",
    0,
    100,
    "Price of reference, optocoupler, pot and lower resistor [judgement].",
    "Price of the path",
    judgement=True,
)
feedback.give("piece_price", 0.04, "credit", "c_R", 0, 10, "Price of one upper resistor [judgement].", "Price of an upper resistor", judgement=True)
feedback.give("trip_price", 1.2, "credit", r"c_\mathrm{ov}", 0, 100, "Price of the over-voltage trip [judgement].", "Price of the trip", judgement=True)


@feedback.build(
    unit="credit",
    symbol="c",
    source="[judgement] small parts",
    title="Cost",
    tex=r"{senses}\left({path_price}+{upper_pieces}\,{piece_price}\right)+{detects}\,{trip_price}",
)
def cost(senses, path_price, upper_pieces, piece_price, detects, trip_price):
    """Cost of the path and of the trip."""
    return senses * (path_price + upper_pieces * piece_price) + detects * trip_price


@feedback.build(
    unit="",
    symbol="n",
    source="count",
    title="Parts",
    tex=r"{senses}\left({upper_pieces}+4\right)+3\,{detects}",
    example=({"senses": 1, "upper_pieces": 2, "detects": 1}, 9),
)
def part_count(senses, upper_pieces, detects):
    """Upper resistors, lower resistor, pot, reference and optocoupler; divider and comparator of the trip."""
    return senses * (upper_pieces + 4) + 3 * detects


feedback.order("Feedback path", "reference, optocoupler, pot {trim_pot}, {lower_fixed}", "{diode_current} in the diode", count=("senses",), price="path_price")
feedback.order(
    "Upper feedback resistor", "{upper_piece}", "{leg_tolerance:percent}, holds {piece_voltage}", count=("senses", "upper_pieces"), price="piece_price"
)
feedback.order("Over-voltage trip", "{overvoltage_trip}", "comparator and divider of its own, {detector_delay}", count=("detects",), price="trip_price")
feedback.trip(
    "Link over-voltage",
    "overvoltage_trip",
    low="lowest_overvoltage_trip",
    high="highest_overvoltage_trip",
    after="{detector_delay}",
    resets="by hand, after the cause is found",
    when="detects",
)
feedback.procedure(
    "Prove the sense of the feedback at low voltage",
    "Front end off the battery. A bench supply of a few volts in place of the link, the reference scaled or the lower leg shunted so that the loop thinks it stands at its set-point. More sample must give shorter pulses: turn the supply up and watch a gate.",
    "If pulses grow with the sample, the two inputs of the error amplifier are swapped: the link would latch at full duty.",
    "Only then on the link: pot to its lower end ({setpoint_at_bottom}), first power through the limiter; turn up to {link_setpoint}, near {wiper_position:percent} of the travel. Its upper end is {setpoint_at_top}.",
    "Lift one end of the upper leg with the front end limited to a tenth: the over-voltage trip must act between {lowest_overvoltage_trip} and {highest_overvoltage_trip}.",
    when="senses",
)

__all__ = ["feedback"]
