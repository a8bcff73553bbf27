"""Current sensing of a front end with a transformer, first part: trip level, shunt, current transformer, drain sensing (7.2)."""

import numpy as np

from rhombos.core.formulas.numeric import highest, highest_lasting, nearest_in
from rhombos.core.graph.declare import Option, Stage
from rhombos.core.stages.sizes import BY_SOURCE_CURRENT

FARADAY = "volts on the sensor's core: burden, winding and diode; Faraday"

current_sensing = Stage("current_sensing", "Current sensing", path=False, telling="{front_trip_level}")

current_sensing.choice(
    "method",
    {
        "transformer_each": Option("transformer in each leg", {"by_shunt": 0, "by_transformer": 1, "common_lead": 0, "by_drain": 0}),
        "transformer_common": Option("transformer, common lead", {"by_shunt": 0, "by_transformer": 1, "common_lead": 1, "by_drain": 0}),
        "shunt": Option("shunt, common lead", {"by_shunt": 1, "by_transformer": 0, "common_lead": 1, "by_drain": 0}),
        "drain": Option("drop of the switches", {"by_shunt": 0, "by_transformer": 0, "common_lead": 0, "by_drain": 1}),
    },
    {
        "by_shunt": ("", r"\sigma_s", "1 where a shunt senses."),
        "by_transformer": ("", r"\sigma_t", "1 where current transformers sense."),
        "common_lead": ("", r"\sigma_c", "1 where one sensor stands in the lead that both halves share."),
        "by_drain": ("", r"\sigma_d", "1 where the switches' own drop is sensed."),
    },
    default="transformer_each",
    sentence="What senses the current of the front end's switches.",
    title="Sensor",
)
current_sensing.choice(
    "sensor_place",
    {"outside": Option("outside the gate loop", {"in_gate_loop": 0}), "source_lead": Option("in the source lead", {"in_gate_loop": 1})},
    {"in_gate_loop": ("", r"\sigma_g", "1 where the gate's current returns through the sensor.")},
    default="outside",
    sentence="Whether the gates' current returns through the sensor.",
    title="Where it stands",
)

current_sensing.give("front_trip_factor", 1.25, "", r"k_\mathrm{trip}", 1.05, 2, "Trip over the highest working peak (1.2 to 1.3).", "Trip over working peak")
current_sensing.give("shunt_voltage", 0.1, "V", r"V_{s}", 0.01, 1, "Voltage of the shunt at the trip level.", "Shunt's voltage at the trip")
current_sensing.give("burden_voltage", 1.0, "V", r"V_b", 0.05, 5, "Voltage of the burden at the trip level.", "Burden's voltage at the trip")
current_sensing.give("sensor_turns", 100.0, "", r"N_\mathrm{ct}", 10, 2000, "Secondary turns of the current transformer, to one.", "Turns to one", whole=True)
current_sensing.give("sensor_winding", 1.0, "Ω", "R_w", 0, 100, "Resistance of its winding.", "Winding")
current_sensing.give("sensor_diode", 0.7, "V", "V_F", 0, 2, "Drop of its secondary diode.", "Diode")
current_sensing.give("sensor_inductance", 10e-3, "H", "L_m", 1e-6, 10, "Magnetising inductance of its secondary.", "Magnetising inductance")
current_sensing.give("sensor_area", 20e-6, "m^2", "A_e", 1e-6, 1e-2, "Area of its core.", "Core's area")
current_sensing.give("sensor_saturation", 0.35, "T", r"B_\mathrm{sat}", 0.1, 1.5, "Flux at which its core saturates, hot.", "Saturation")
current_sensing.give("reset_voltage", 15.0, "V", r"V_\mathrm{reset}", 0.5, 200, "Voltage that its core may reset against (zener across it).", "Reset voltage")
current_sensing.give(
    "lead_inductance", 5e-9, "H", r"L_{cs}", 0, 1e-6, "Inductance of what stands in the source lead: shunt, primary, track.", "Inductance of the sensor"
)
current_sensing.give("spike_width", 120e-9, "s", r"t_\mathrm{spike}", 0, 1e-5, "Width of the spike at turn-on.", "Width of the spike")


@current_sensing.build(
    unit="A",
    symbol=r"I_\mathrm{trip}",
    source="trip above the highest working peak",
    title="Trip level",
    tex=r"\mathrm{E96}_\uparrow\left({front_trip_factor}\max({peak_current})\right)",
    example=({"front_trip_factor": 1.25, "peak_current": 118}, 150),
    start=100.0,
    grows=BY_SOURCE_CURRENT,
    decided=True,
)
def front_trip_level(front_trip_factor, peak_current):
    """Level at which the front end's limit acts: above the highest working peak, starts in it, in the steps of the divider that sets it."""
    return nearest_in("E96", "up")(front_trip_factor * highest(peak_current))


current_sensing.rename(front_working_peak="peak_current", front_weakest_rating="pulsed_rating")


@current_sensing.build(unit="Ω", symbol="R_s", source="Ohm's law", title="Shunt", tex=r"\frac{shunt_voltage}{front_trip_level}")
def shunt_resistance(shunt_voltage, front_trip_level):
    """Shunt that gives its voltage at the trip level."""
    return shunt_voltage / front_trip_level


@current_sensing.build(
    unit="A",
    symbol=r"I_\mathrm{lead}",
    source="two halves in turn: rms of the common lead",
    title="Rms in the common lead",
    tex=r"\sqrt2\,\max_\mathrm{lasting}({switch_rms_current})",
    example=({"switch_rms_current": 30}, 42.4264),
)
def lead_rms_current(switch_rms_current):
    """Highest lasting rms current of the lead that both halves share."""
    return np.sqrt(2) * highest_lasting(switch_rms_current)


@current_sensing.build(
    unit="W",
    symbol=r"P_s",
    source="Joule's law",
    title="Heat of the shunt",
    tex=r"{by_shunt}\,{lead_rms_current}^2\,{shunt_resistance}",
    example=({"by_shunt": 1, "lead_rms_current": 40, "shunt_resistance": 1e-3}, 1.6),
)
def shunt_loss(by_shunt, lead_rms_current, shunt_resistance):
    """Heat of the shunt at the highest lasting current; none where there is none."""
    return by_shunt * lead_rms_current**2 * shunt_resistance


@current_sensing.build(
    unit="", symbol=r"P_s/P_o", source="share of the output", title="Shunt's share of the output", tex=r"\frac{shunt_loss}{rated_active_power}"
)
def shunt_share(shunt_loss, rated_active_power):
    """Heat of the shunt over the output's watts."""
    return shunt_loss / rated_active_power


@current_sensing.operation(
    unit="W",
    symbol=r"P_\mathrm{loss}",
    source="Joule's law",
    title="Loss",
    tex=r"2\,{by_shunt}\,{switch_rms_current}^2\,{shunt_resistance}",
    example=({"by_shunt": 1, "switch_rms_current": 30, "shunt_resistance": 1e-3}, 1.8),
)
def loss(by_shunt, switch_rms_current, shunt_resistance):
    """Loss of the shunt."""
    return 2 * by_shunt * switch_rms_current**2 * shunt_resistance


@current_sensing.build(
    unit="Ω",
    symbol="R_b",
    source="burden of a current transformer",
    title="Burden",
    decided=True,
    tex=r"\mathrm{E24}\!\left(\frac{{burden_voltage}\,{sensor_turns}}{front_trip_level}\right)",
    example=({"burden_voltage": 1, "sensor_turns": 100, "front_trip_level": 95}, 1.1),
)
def burden(burden_voltage, sensor_turns, front_trip_level):
    """Resistor across the secondary: never open, or its voltage rises until something breaks."""
    return nearest_in("E24")(burden_voltage * sensor_turns / front_trip_level)


@current_sensing.build(
    unit="V",
    symbol=r"V_\mathrm{ct}",
    source=FARADAY,
    title="Volts on the sensor's core",
    tex=r"\frac{front_trip_level}{sensor_turns}({burden}+{sensor_winding})+{sensor_diode}",
    example=({"front_trip_level": 100, "sensor_turns": 100, "burden": 1, "sensor_winding": 1, "sensor_diode": 0.7}, 2.7),
)
def core_voltage(front_trip_level, sensor_turns, burden, sensor_winding, sensor_diode):
    """Voltage that the sensor's core must stand at the trip level."""
    return front_trip_level / sensor_turns * (burden + sensor_winding) + sensor_diode


@current_sensing.operation(
    unit="s",
    symbol=r"t_\mathrm{on}",
    source="one pulse of a half period",
    title="Pulse",
    tex=r"\frac{total_duty}{2\,{switching_frequency}}",
    example=({"total_duty": 0.9, "switching_frequency": 50e3}, 9e-6),
)
def pulse_time(total_duty, switching_frequency):
    """Duration of one pulse."""
    return total_duty / (2 * switching_frequency)


@current_sensing.operation(
    unit="s",
    symbol=r"t_\mathrm{off}",
    source="in one leg the other half's time is for reset as well",
    title="Time for reset",
    tex=r"\frac{\begin{cases}1-{total_duty}&{common_lead}=1\\2-{total_duty}&\text{else}\end{cases}}{2\,{switching_frequency}}",
    example=({"common_lead": 1, "total_duty": 0.9, "switching_frequency": 50e3}, 1e-6),
)
def reset_time(common_lead, total_duty, switching_frequency):
    """Time without current through the sensor, in which its core resets."""
    return (2 - common_lead - total_duty) / (2 * switching_frequency)


@current_sensing.operation(
    unit="V",
    symbol=r"V_\mathrm{reset,need}",
    source=FARADAY,
    title="Reset needed",
    tex=r"{by_transformer}\,\frac{{core_voltage}\,{pulse_time}}{reset_time}",
    example=({"by_transformer": 1, "core_voltage": 1.7, "pulse_time": 9e-6, "reset_time": 1e-6}, 15.3),
)
def needed_reset(by_transformer, core_voltage, pulse_time, reset_time):
    """Voltage against which the core must reset so that its flux returns each period."""
    return by_transformer * core_voltage * pulse_time / reset_time


@current_sensing.operation(
    unit="T",
    symbol=r"B_\mathrm{ct}",
    source=FARADAY,
    title="Flux of the sensor",
    tex=r"{by_transformer}\,\frac{{core_voltage}\,{pulse_time}}{{sensor_turns}\,{sensor_area}}",
    example=({"by_transformer": 1, "core_voltage": 2.7, "pulse_time": 11e-6, "sensor_turns": 100, "sensor_area": 10e-6}, 0.0297),
)
def sensor_flux(by_transformer, core_voltage, pulse_time, sensor_turns, sensor_area):
    """Swing of the sensor's flux from nothing over one pulse at the trip level."""
    return by_transformer * core_voltage * pulse_time / (sensor_turns * sensor_area)


@current_sensing.build(
    unit="T",
    symbol=r"B_\mathrm{ct,may}",
    source="[judgement] half of saturation",
    title="Flux allowed",
    tex=r"\frac{sensor_saturation}{2}",
    example=({"sensor_saturation": 0.35}, 0.175),
)
def allowed_sensor_flux(sensor_saturation):
    """Flux that the sensor's core may swing to."""
    return sensor_saturation / 2


@current_sensing.operation(
    unit="",
    symbol=r"\delta_\mathrm{droop}",
    source=FARADAY,
    title="Droop of the reading",
    tex=r"\frac{{core_voltage}\,{pulse_time}\,{sensor_turns}}{{sensor_inductance}\,{front_trip_level}}",
    example=({"core_voltage": 2.7, "pulse_time": 11e-6, "sensor_turns": 100, "sensor_inductance": 10e-3, "front_trip_level": 100}, 2.97e-3),
)
def droop(core_voltage, pulse_time, sensor_turns, sensor_inductance, front_trip_level):
    """Part of the reading that the magnetising current takes by the pulse's end."""
    return core_voltage * pulse_time * sensor_turns / (sensor_inductance * front_trip_level)


@current_sensing.build(
    unit="V",
    symbol=r"V_{DS,\mathrm{trip}}",
    source="Ohm's law with the hot chip",
    title="Drop at the trip",
    tex=r"\frac{{front_trip_level}\max({hot_resistance})}{switch_quantity}",
    example=({"front_trip_level": 100, "hot_resistance": 4e-3, "switch_quantity": 2}, 0.2),
)
def drain_trip_voltage(front_trip_level, hot_resistance, switch_quantity):
    """Drop of the hottest switches at the trip level: what a comparator on the drain is set to."""
    return front_trip_level * highest(hot_resistance) / switch_quantity


@current_sensing.build(
    unit="A",
    symbol=r"I_\mathrm{trip,cold}",
    source="the same drop at 25 °C",
    title="Trip level, cold",
    tex=r"\begin{cases}\frac{{drain_trip_voltage}\,{switch_quantity}}{switch_on_resistance}&{by_drain}=1\\{front_trip_level}&\text{else}\end{cases}",
    example=({"drain_trip_voltage": 0.2, "switch_quantity": 2, "switch_on_resistance": 2.5e-3, "by_drain": 1, "front_trip_level": 100}, 160),
)
def cold_trip_level(drain_trip_voltage, switch_quantity, switch_on_resistance, by_drain, front_trip_level):
    """Current that a cold switch lets through before its drop reaches the level; with a sensor the level itself."""
    return np.where(by_drain > 0, drain_trip_voltage * switch_quantity / switch_on_resistance, front_trip_level)
