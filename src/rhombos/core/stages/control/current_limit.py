"""Current sensing, second part: speed of the limit, what stands in the source lead, judgements (7.2; 16, H12, H23)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, like
from rhombos.core.graph.declare import Move, Option
from rhombos.core.stages.control.current_sensing import current_sensing
from rhombos.core.vocabulary import word

SPEED = "kinds of limit: comparator and latch; a filtered mean through an error amplifier; a thermal switch"

current_sensing.choice(
    "limit_kind",
    {
        "per_pulse": Option("per pulse, latched", {"averages": 0, "by_heat": 0}),
        "averaging": Option("averaging", {"averages": 1, "by_heat": 0}),
        "thermal": Option("thermal switch", {"averages": 0, "by_heat": 1}),
    },
    {"averages": ("", r"\alpha", "1 where a filtered mean is limited."), "by_heat": ("", r"\alpha_T", "1 where only heat is sensed.")},
    default="per_pulse",
    sentence="What happens when the level is reached.",
    title="Kind of limit",
)
current_sensing.give("front_sense_delay", 0.3e-6, "s", r"t_\mathrm{sense}", 0, 1e-3, "From the level to the latch, without the filter.", "Sensing delay")
current_sensing.give("front_drive_delay", 0.2e-6, "s", r"t_\mathrm{drive}", 0, 1e-3, "From the latch to the switches being off.", "Drive delay")
current_sensing.give("mean_filter", 1e-3, "s", r"\tau_m", 1e-6, 10, "Filter of an averaging limit.", "Filter of the mean")
current_sensing.give("mean_crossover", 500.0, "Hz", r"f_{x,m}", 0.1, 1e5, "Crossover of an averaging limit's amplifier.", "Crossover of the mean")
current_sensing.give("heat_time", 10.0, "s", r"\tau_T", 0.1, 1000, "Time that a thermal switch takes.", "Time of a thermal switch")


@current_sensing.build(
    unit="s",
    symbol=r"\tau_f",
    source="twice the spike's width",
    title="Filter of the reading",
    tex=r"2\,{spike_width}",
    example=({"spike_width": 0.12e-6}, 0.24e-6),
)
def reading_filter(spike_width):
    """Time constant that hides the spike of turn-on from the comparator."""
    return 2 * spike_width


@current_sensing.build(
    unit="s",
    symbol=r"t_\mathrm{lim}",
    source=SPEED,
    title="Limit acts within",
    tex=r"\begin{cases}{mean_filter}\ln\frac{{pulsed_rating}-\max({peak_current})}{\max({pulsed_rating}-{front_trip_level},0.01{pulsed_rating})}+\frac{1}{2\pi\,{mean_crossover}}&{averages}=1\\{heat_time}&{by_heat}=1\\{reading_filter}+{front_sense_delay}+{front_drive_delay}&\text{else}\end{cases}",
    example=(
        {
            "averages": 1,
            "by_heat": 0,
            "mean_filter": 1e-3,
            "pulsed_rating": 300,
            "peak_current": 80,
            "front_trip_level": 100,
            "mean_crossover": 500,
            "heat_time": 10,
            "reading_filter": 0.2e-6,
            "front_sense_delay": 0.3e-6,
            "front_drive_delay": 0.2e-6,
        },
        0.41362e-3,
    ),
)
def limit_time(
    mean_filter,
    pulsed_rating,
    peak_current,
    front_trip_level,
    mean_crossover,
    heat_time,
    reading_filter,
    front_sense_delay,
    front_drive_delay,
    averages,
    by_heat,
):
    """From the level to the switches being off, the reading's filter in it; a mean rises towards a fault at the switches' rating."""
    left = np.maximum(pulsed_rating - front_trip_level, 0.01 * pulsed_rating)
    mean = mean_filter * np.log((pulsed_rating - highest(peak_current)) / left) + 1 / (2 * np.pi * mean_crossover)
    return np.where(averages > 0, mean, np.where(by_heat > 0, heat_time, reading_filter + front_sense_delay + front_drive_delay))


@current_sensing.build(
    unit="s",
    symbol=r"t_\mathrm{left}",
    source="a short of the link behind the choke: di/dt = V_s/L, referred to the primary",
    title="Time left in a short",
    tex=r"\frac{\max({pulsed_rating}-{front_trip_level},0)\,{choke_inductance}}{\max({secondary_amplitude})\,{turns_ratio}}",
    example=({"pulsed_rating": 400, "front_trip_level": 100, "choke_inductance": 1e-3, "secondary_amplitude": 500, "turns_ratio": 15}, 40e-6),
)
def front_time_left(pulsed_rating, front_trip_level, choke_inductance, secondary_amplitude, turns_ratio):
    """From the level to the switches' pulsed rating with the link shorted; the choke, on the link's side, slows it."""
    room = pulsed_rating - front_trip_level
    return np.maximum(room, 0 * room) * choke_inductance / (highest(secondary_amplitude) * turns_ratio)


@current_sensing.build(
    unit="A",
    symbol=r"I_\mathrm{ch,short}",
    source="a short of the link behind the choke",
    title="Choke in a short",
    tex=r"\frac{front_trip_level}{turns_ratio}+\frac{\max({secondary_amplitude})\,t}{choke_inductance}\quad t=\min({limit_time},\,0.01\,\mathrm{ms})",
    example=({"front_trip_level": 100, "turns_ratio": 20, "secondary_amplitude": 500, "limit_time": 1e-6, "choke_inductance": 1e-3}, 5.5),
)
def choke_short_current(front_trip_level, turns_ratio, secondary_amplitude, limit_time, choke_inductance):
    """Current that the choke reaches before a limit per pulse has acted: up to it the choke is ordered not to saturate."""
    acted = np.minimum(limit_time, like(10e-6, limit_time))
    return front_trip_level / turns_ratio + highest(secondary_amplitude) * acted / choke_inductance


@current_sensing.operation(
    unit="s",
    symbol=r"t_{ri,cs}",
    source="common source inductance: v = L·di/dt off every gate",
    title="Current rises in at least",
    tex=r"{in_gate_loop}\,\frac{{lead_inductance}\,{peak_current}}{\max({gate_on_voltage}-{plateau_voltage},\,0.02\,{gate_on_voltage})}",
    example=({"in_gate_loop": 1, "lead_inductance": 10e-9, "peak_current": 120, "gate_on_voltage": 12, "plateau_voltage": 4}, 150e-9),
)
def held_rise(in_gate_loop, lead_inductance, peak_current, gate_on_voltage, plateau_voltage):
    """Time that the current takes to rise because its own di/dt holds the gate back; none where the gate returns before the sensor."""
    room = gate_on_voltage - plateau_voltage
    return in_gate_loop * lead_inductance * peak_current / np.maximum(room, 0.02 * gate_on_voltage)


@current_sensing.operation(
    unit="s",
    symbol=r"4.6\,\tau_f",
    source="first-order filter: within 1 % at the pulse's end",
    title="Pulse needed for the filter",
    tex=r"4.6\,{reading_filter}\,[{load_fraction}\ge1]",
    example=({"reading_filter": 0.2e-6, "load_fraction": 1}, 0.92e-6),
)
def needed_pulse(reading_filter, load_fraction):
    """Pulse at whose end the filtered reading is within 1 %; asked for where the current is near its level."""
    return 4.6 * reading_filter * np.where(load_fraction >= 1, 1.0, 0.0)


current_sensing.check(
    "front_above_working",
    title="Limit above the working peak",
    demand="front_working_peak",
    capability="front_trip_level",
    fail=1.0,
    hold=1.1,
    harm="none",
    sentence="Working peaks reach {demand}; the limit acts at {capability}.",
    why="A start would trip it.",
    remedies=(Move("front_trip_factor", "up", 1.5),),
)
current_sensing.check(
    "front_below_weakest",
    title="Limit below the weakest part",
    demand="cold_trip_level",
    capability="front_weakest_rating",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="The limit acts at up to {demand}; the switches stand {capability}.",
    why="A limit above the rating protects nothing; a cold switch lets through more before its drop shows it.",
    remedies=(Move("front_trip_factor", "down", 1.2), Move("switch_quantity", "up", 2.0)),
)
current_sensing.check(
    "front_limit_in_time",
    title="Limit quick enough for a short",
    demand="limit_time",
    capability="front_time_left",
    fail=1.0,
    hold=1.5,
    harm="equipment",
    sentence="In a short of the link {capability} are left from the level to the switches' rating; the limit takes {demand}.",
    why="An averaging or thermal limit is no short-circuit protection.",
    remedies=(Move("front_sense_delay", "down", 5.0, "world"), Move("choke_inductance", "up", 3.0), Move("front_trip_factor", "down", 1.2)),
)
current_sensing.check(
    "core_resets",
    title="Sensor's core resets",
    demand="needed_reset",
    capability="reset_voltage",
    fail=1.0,
    hold=1.1,
    harm="equipment",
    sentence="The sensor's core must reset against {demand}; it may against {capability}.",
    why="With both halves in one direction near full duty the core never resets: it saturates and sees nothing.",
    remedies=(Move("reset_voltage", "up", 5.0), Move("burden_voltage", "down", 5.0), Move("sensor_turns", "up", 3.0)),
    no_demand="There is no current transformer.",
)
current_sensing.check(
    "sensor_flux",
    title="Sensor's flux",
    demand="sensor_flux",
    capability="allowed_sensor_flux",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="The sensor's core swings to {demand}; {capability} is half of its saturation.",
    why="A saturated sensor reads low just when it matters.",
    remedies=(Move("sensor_turns", "up", 4.0), Move("burden_voltage", "down", 5.0), Move("sensor_area", "up", 4.0)),
    no_demand="There is no current transformer.",
)
current_sensing.check(
    "filter_in_pulse",
    title="Filter shorter than the pulse",
    demand="needed_pulse",
    capability="pulse_time",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="The filter needs a pulse of {demand} to read within 1 %; the pulse lasts {capability}.",
    why="A reading that lags trips late.",
    remedies=(Move("spike_width", "down", 5.0, "world"),),
    no_demand="At this load the current is far from its level.",
)
current_sensing.check(
    "gate_held_back",
    title="Source lead leaves the gate its edge",
    demand="held_rise",
    capability="turn_on_time",
    fail=0.5,
    hold=1.0,
    harm="equipment",
    sentence="The sensor's inductance lets the current rise in {demand} at the quickest; the edge is counted with {capability}.",
    why="What stands in the source lead takes L·di/dt off the gate: slow edges, more heat than the sheet says.",
    remedies=(Move("lead_inductance", "down", 10.0, "world"),),
    no_demand="The gate's current returns before the sensor.",
)

current_sensing.give(
    "sensor_price", 2.4, "credit", r"c_s", 0, 200, "Price of a sensor with its diode and burden [judgement].", "Price of a sensor", judgement=True
)
current_sensing.give(
    "latch_price", 0.9, "credit", r"c_l", 0, 100, "Price of comparator and latch [judgement].", "Price of comparator and latch", judgement=True
)


@current_sensing.build(
    unit="",
    whole=True,
    symbol="n_s",
    source="one in each leg, or one in the lead they share",
    title="Sensors",
    tex=r"{by_transformer}(2-{common_lead})+{by_shunt}",
    example=({"by_transformer": 1, "common_lead": 0, "by_shunt": 0}, 2),
)
def sensors(by_transformer, common_lead, by_shunt):
    """How many sensors there are; the switches' own drop needs none."""
    return by_transformer * (2 - common_lead) + by_shunt


@current_sensing.build(unit="credit", symbol="c", source="[judgement] small parts", title="Cost", tex=r"{sensors}\,{sensor_price}+{latch_price}")
def cost(sensors, sensor_price, latch_price):
    """Cost of sensors, comparator and latch."""
    return sensors * sensor_price + latch_price


@current_sensing.build(unit="", symbol="n", source="count", title="Parts", tex=r"3\,{sensors}+4", example=({"sensors": 2}, 10))
def part_count(sensors):
    """Sensor, diode and burden each; comparator, latch, two resistors."""
    return 3 * sensors + 4


current_sensing.order(
    "Current sensor of the front end", "{sensor_turns} to 1, burden {burden}", "{front_trip_level} trips", count=("sensors",), price="sensor_price"
)
current_sensing.order("Comparator with latch", "front end's limit", "within {limit_time}", price="latch_price")
current_sensing.trip(
    "Front end's current limit",
    "front_trip_level",
    high="cold_trip_level",
    after="{limit_time}",
    resets="by hand; retried by itself it restarts into the fault",
)
current_sensing.procedure(
    "Try the front end's limit",
    "No battery: a bench supply with its own limit drives a known current through the sensor's primary, several turns in place of more amperes.",
    "The burden must read {burden_voltage} at {front_trip_level} (or in proportion); a current transformer is tried with pulses, it passes no steady current.",
    "The latch sets and both gates go off within {limit_time}; look at sensor and gate on one screen. It stays set until it is reset by hand.",
    "Never open a current transformer's secondary while current flows.",
)

for _name, _unit, _symbol, _text, _alone in (
    ("switch_rms_current", "A", r"I_{sw}", "Rms current of one switch position.", 30),
    ("switch_on_resistance", "Ω", r"R_{DS(on)}", "On-resistance of one device at 25 °C.", 2.5e-3),
    ("choke_short_current", "A", r"I_\mathrm{ch,short}", "Current that the choke reaches in a short before the limit has acted.", 6),
):
    word(_name, _unit, _symbol, _text, _alone)

__all__ = ["current_sensing"]
