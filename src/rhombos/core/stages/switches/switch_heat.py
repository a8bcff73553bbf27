"""Junction temperature, loss, ratings and what they cost for the switches of any stage (4.1 to 4.4)."""

import numpy as np

from rhombos.core.formulas.numeric import before_surge
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.stages.switches.heat import junction, loss_at, settle, surge_resistance
from rhombos.core.stages.switches.sink import declare_sink

TARGET_150, TARGET_175 = 383.15, 398.15
"""Junction temperature aimed at: 110 °C for a part of 150 °C, 125 °C for one of 175 °C; between and beyond in proportion."""


def target_of(maximum):
    """Junction temperature in K that a part with this highest one is run at for good (4.3)."""
    return TARGET_150 + (TARGET_175 - TARGET_150) / 25 * (maximum - 423.15)


def declare_surroundings(stage: Stage, *, loss_budget: float, pad_resistance: float, sink_time: float) -> None:
    """Heat sink, pad and trust of a stage's switches; the defaults (share of the brief's watts, K/W, s) are the stage's own."""
    stage.give(
        "loss_budget",
        loss_budget,
        "",
        r"\pi_P",
        1e-4,
        0.2,
        "Share of the continuous watts that is set aside for losses on the stage's sink [judgement].",
        "Loss budget",
        judgement=True,
    )

    @stage.build(
        unit="W",
        symbol=r"P_\mathrm{sink}",
        source="[judgement] share of the brief",
        title="Watts that the sink is bought for",
        tex=r"{loss_budget}\,{rated_active_power}",
    )
    def sink_watts(loss_budget, rated_active_power):
        """By the brief and not by the losses of the parts picked: a part that loses more is then hotter, and not on a larger sink."""
        return loss_budget * rated_active_power

    declare_sink(stage, rise=15.0, sink_time=sink_time, watts="sink_watts")
    stage.give("pad_resistance", pad_resistance, "K/W", r"R_{cs}", 0.01, 10, "Thermal resistance from one case to the sink.", "Insulating pad")
    stage.give(
        "junction_settling_time",
        0.04,
        "s",
        r"\tau_{jc}",
        0.005,
        10,
        "Time after which a junction has its full thermal resistance to the case; shorter pulses see the root of their share "
        "(0.04 s gives the third at 5 ms that data sheets of silicon in these cases show) [judgement].",
        "Junction settles in",
        judgement=True,
    )
    stage.give("pad_settling_time", 1.5, "s", r"\tau_\mathrm{pad}", 0.1, 20, "Time constant of case and pad [judgement].", "Pad settles in", judgement=True)
    stage.give(
        "sharing_factor",
        0.8,
        "",
        r"k_\mathrm{share}",
        0.3,
        1,
        "How evenly switches in parallel share the current [judgement].",
        "Sharing factor",
        judgement=True,
    )
    stage.give(
        "trust_factor",
        1.0,
        "",
        "k_T",
        0.1,
        1,
        "Derating of current ratings when the parts' genuineness is not known (0.4 until a batch is tested).",
        "Trust in the source of parts",
    )
    stage.give(
        "sink_price_factor",
        2.4,
        "credit·K/W",
        r"c_{sa}",
        0,
        100,
        "Price of a heat sink times its thermal resistance: twice as cool costs twice as much [judgement].",
        "Price of heat sinks",
        judgement=True,
    )


def declare_position(stage: Stage) -> None:
    """Ratings of one switch position against its currents, and its heat sink."""

    @stage.operation(
        unit="A",
        symbol=r"I_\mathrm{rat}",
        source="rating at a case of 100 °C, sharing",
        title="Current rating of the position",
        tex=r"{switch_quantity}\,{switch_rated_current}\,{trust_factor}\,{sharing_factor}^{[{switch_quantity}>1]}",
    )
    def position_rating(switch_quantity, switch_rated_current, trust_factor, sharing_factor):
        """What the switches of one position carry together."""
        return switch_quantity * switch_rated_current * trust_factor * np.where(switch_quantity > 1, sharing_factor, 1.0)

    @stage.operation(unit="A", symbol=r"I_\mathrm{rms,last}", source="surge left out", title="Lasting switch current", tex=r"(1-{surge})\,{switch_rms_current}")
    def lasting_rms_current(surge, switch_rms_current):
        """Rms current at the corners that last."""
        return (1 - surge) * switch_rms_current

    @stage.build(
        unit="A",
        symbol=r"I_\mathrm{SOA}",
        source="pulsed rating, sharing",
        title="Pulsed rating of the position",
        tex=r"{switch_quantity}\,{switch_pulsed_current}\,{trust_factor}\,{sharing_factor}^{[{switch_quantity}>1]}",
    )
    def pulsed_rating(switch_quantity, switch_pulsed_current, trust_factor, sharing_factor):
        """Pulse that the switches of one position stand together."""
        return switch_quantity * switch_pulsed_current * trust_factor * np.where(switch_quantity > 1, sharing_factor, 1.0)

    @stage.build(
        unit="credit",
        symbol=r"c_\mathrm{sink}",
        source="price by thermal resistance",
        title="Price of the heat sink",
        tex=r"\frac{sink_price_factor}{sink_resistance}",
    )
    def sink_price(sink_price_factor, sink_resistance):
        """Price of the heat sink: twice as cool costs twice as much."""
        return sink_price_factor / sink_resistance

    stage.order("Heat sink", "{sink_resistance}", "for all switches of the stage", price="sink_price")
    stage.order("Insulating pad", "{pad_resistance}", "one for each device, in the sink's price", count=("switch_positions", "switch_quantity"), price=0.0)

    stage.check(
        "current_rating",
        title="Switch current, rms",
        demand="lasting_rms_current",
        capability="position_rating",
        fail=1.0,
        hold=1.25,
        harm="equipment",
        sentence="{demand} rms flow in a position that carries {capability}.",
        why="Bond wires and chip are rated at a case of 100 °C, sharing is never even.",
        remedies=(Move("switch_quantity", "up", 4.0),),
    )


def declare_bill(stage: Stage) -> None:
    """Cost, count and mass of a stage that is its switches and their sink."""

    @stage.build(unit="credit", symbol="c", source="catalogue", title="Cost", tex=r"{switch_positions}\,{switch_quantity}\,{switch_price}+{sink_price}")
    def cost(switch_positions, switch_quantity, switch_price, sink_price):
        """Cost of the switches and their heat sink."""
        return switch_positions * switch_quantity * switch_price + sink_price

    @stage.build(
        unit="",
        symbol="n",
        source="count",
        title="Parts",
        tex=r"2\,{switch_positions}\,{switch_quantity}+1",
        example=({"switch_positions": 4, "switch_quantity": 2}, 17),
    )
    def part_count(switch_positions, switch_quantity):
        """The switches, an insulating pad for each, and the heat sink."""
        return 2 * switch_positions * switch_quantity + 1

    @stage.build(
        unit="kg",
        symbol="m",
        source="catalogue; an aluminium sink by its heat capacity, 900 J/(kg·K)",
        title="Mass",
        empirical=True,
        tex=r"{switch_positions}\,{switch_quantity}\,{switch_mass}+\frac{sink_capacity}{900}",
        example=({"switch_positions": 4, "switch_quantity": 1, "switch_mass": 0.005, "sink_capacity": 180}, 0.22),
    )
    def mass(switch_positions, switch_quantity, switch_mass, sink_capacity):
        """Mass of the switches and their heat sink."""
        return switch_positions * switch_quantity * switch_mass + sink_capacity / 900


def declare_junction(stage: Stage) -> None:
    """Junction temperature and device loss from the figures `switching_loss` and `conduction_loss_25` of the stage."""

    @stage.build(
        unit="K/W",
        symbol=r"R_\mathrm{th}",
        source="thermal resistances in series",
        title="Thermal resistance of one device",
        tex=r"{switch_junction_resistance}+{pad_resistance}+{switch_positions}\,{switch_quantity}\,{sink_resistance}",
        example=({"switch_junction_resistance": 0.5, "pad_resistance": 0.5, "switch_positions": 2, "switch_quantity": 2, "sink_resistance": 1.0}, 5.0),
    )
    def lasting_resistance(switch_junction_resistance, pad_resistance, switch_positions, switch_quantity, sink_resistance):
        """Rise per watt of one device for good: junction, pad, and the sink that all devices share."""
        return switch_junction_resistance + pad_resistance + switch_positions * switch_quantity * sink_resistance

    @stage.operation(
        unit="K/W",
        symbol=r"Z_\mathrm{th}",
        source="superposition: root of time in the chip, exponential in the pad, heat capacity of the sink",
        title="Thermal impedance of the start",
        tex=r"{switch_junction_resistance}\sqrt{\min\left(\frac{heating_time}{junction_settling_time},1\right)}+{pad_resistance}\left(1-\exp\left(-\frac{heating_time}{pad_settling_time}\right)\right)+\frac{{switch_positions}\,{switch_quantity}\,{heating_time}}{sink_capacity}",
        example=(
            {
                "heating_time": 0.01,
                "switch_junction_resistance": 0.8,
                "junction_settling_time": 0.04,
                "pad_resistance": 0.6,
                "pad_settling_time": 1.5,
                "switch_positions": 2,
                "switch_quantity": 1,
                "sink_capacity": 200,
            },
            0.40409,
        ),
    )
    def surge_impedance(
        heating_time, switch_junction_resistance, junction_settling_time, pad_resistance, pad_settling_time, switch_positions, switch_quantity, sink_capacity
    ):
        """Rise per added watt of one device at the end of the start's seconds."""
        return surge_resistance(
            heating_time,
            switch_junction_resistance,
            junction_settling_time,
            pad_resistance,
            pad_settling_time,
            switch_positions * switch_quantity / sink_capacity,
        )

    @stage.operation(
        unit="W",
        symbol=r"P_0",
        source="loss linear in the temperature, solved with T = T_amb + R·P",
        title="Loss of one device in lasting service",
        tex=r"\begin{gathered}\begin{cases}\dfrac{{switching_loss}+A}{1-{lasting_resistance}\,{conduction_loss_25}\,{switch_temperature_coefficient}}&{surge}=0\\{switching_loss}+{conduction_loss_25}&\text{else}\end{cases}\\"
        r"A={conduction_loss_25}\,(1+{switch_temperature_coefficient}({ambient_temperature}-25\,^\circ\mathrm{C}))\end{gathered}",
        example=(
            {
                "surge": 0,
                "ambient_temperature": 318.15,
                "lasting_resistance": 5.0,
                "switching_loss": 2,
                "conduction_loss_25": 3,
                "switch_temperature_coefficient": 0.005,
            },
            5.7297,
        ),
    )
    def steady_device_loss(surge, ambient_temperature, lasting_resistance, switching_loss, conduction_loss_25, switch_temperature_coefficient):
        """Loss of one device at the corners that last; a surge starts from its full-load value (a start does not last: its loss at 25 °C stands there)."""
        conduction = np.where(surge > 0, 0 * conduction_loss_25, conduction_loss_25)
        temperature = settle(ambient_temperature, lasting_resistance, switching_loss, conduction, switch_temperature_coefficient)
        lasting = loss_at(temperature, switching_loss, conduction, switch_temperature_coefficient)
        return np.where(surge > 0, switching_loss + conduction_loss_25, lasting)

    @stage.operation(
        unit="W", symbol=r"P_{0,b}", source="state before the start", title="Loss of one device before", tex=r"{steady_device_loss}_{\text{before}}"
    )
    def loss_before(steady_device_loss):
        """Lasting loss of one device that a start begins from: full load at the same source level."""
        return before_surge(steady_device_loss)

    @stage.operation(
        unit="K_abs",
        symbol="T_j",
        source="thermal network of junction, pad and sink; a start by superposition on the state before it",
        title="Junction temperature",
        tex=r"\begin{gathered}\frac{A+R\,({switching_loss}+B)}{1-R\,{conduction_loss_25}\,{switch_temperature_coefficient}}\\"
        r"A={ambient_temperature}+{surge}\,{loss_before}\,({lasting_resistance}-{surge_impedance})\\"
        r"B={conduction_loss_25}(1-25\,^\circ\mathrm{C}\cdot{switch_temperature_coefficient})\\R={lasting_resistance}+{surge}\,({surge_impedance}-{lasting_resistance})\end{gathered}",
        example=(
            {
                "ambient_temperature": 318.15,
                "surge": 0,
                "loss_before": 5,
                "lasting_resistance": 5.0,
                "surge_impedance": 0.5,
                "switching_loss": 2,
                "conduction_loss_25": 3,
                "switch_temperature_coefficient": 0.005,
            },
            346.80,
        ),
    )
    def junction_temperature(
        ambient_temperature, surge, loss_before, lasting_resistance, surge_impedance, switching_loss, conduction_loss_25, switch_temperature_coefficient
    ):
        """Junction temperature in lasting service; at a surge corner at the end of the start's seconds of heat.

        The loop temperature, resistance, loss is linear and solved in closed form; no solution means thermal runaway.
        """
        return junction(
            ambient_temperature, surge, loss_before, lasting_resistance, surge_impedance, switching_loss, conduction_loss_25, switch_temperature_coefficient
        )

    @stage.operation(
        unit="Ω",
        symbol=r"R_\mathrm{hot}",
        source="R(T) = R_25·(1 + a·(T − 25 °C))",
        title="On-resistance, hot",
        start=0.0,
        tex=r"{switch_on_resistance}\,(1+{switch_temperature_coefficient}({junction_temperature}-25\,^\circ\mathrm{C}))",
        example=({"switch_on_resistance": 0.004, "switch_temperature_coefficient": 0.007, "junction_temperature": 384.15}, 0.006408),
    )
    def hot_resistance(switch_on_resistance, switch_temperature_coefficient, junction_temperature):
        """On-resistance of one device at its junction temperature."""
        return loss_at(junction_temperature, 0 * switch_on_resistance, switch_on_resistance, switch_temperature_coefficient)

    @stage.operation(
        unit="W",
        symbol=r"P_j",
        source="Joule's law and edges",
        title="Loss of one device",
        tex=r"{switching_loss}+{conduction_loss_25}\,(1+{switch_temperature_coefficient}({junction_temperature}-25\,^\circ\mathrm{C}))",
        example=({"switching_loss": 2, "conduction_loss_25": 3, "switch_temperature_coefficient": 0.007, "junction_temperature": 384.15}, 6.806),
    )
    def device_loss(switching_loss, conduction_loss_25, switch_temperature_coefficient, junction_temperature):
        """Loss of one device at its own temperature."""
        return loss_at(junction_temperature, switching_loss, conduction_loss_25, switch_temperature_coefficient)

    @stage.operation(unit="K", symbol=r"\Delta T_j", source="difference", title="Junction rise", tex=r"{junction_temperature}-{ambient_temperature}")
    def junction_rise(junction_temperature, ambient_temperature):
        """Junction temperature above ambient."""
        return junction_temperature - ambient_temperature

    @stage.build(
        unit="K", symbol=r"\Delta T_\mathrm{max}", source="difference", title="Rise allowed", tex=r"{switch_maximum_temperature}-{ambient_temperature}"
    )
    def allowed_rise(switch_maximum_temperature, ambient_temperature):
        """Highest junction temperature above ambient that the part allows."""
        return switch_maximum_temperature - ambient_temperature

    @stage.build(
        unit="K_abs",
        symbol=r"T_\mathrm{target}",
        source="[judgement] 110 °C for 150 °C parts, 125 °C for 175 °C parts",
        title="Junction target",
        empirical=True,
        tex=r"110\,^\circ\mathrm{C}+0.6\,({switch_maximum_temperature}-150\,^\circ\mathrm{C})",
        example=({"switch_maximum_temperature": 448.15}, 398.15),
    )
    def target_temperature(switch_maximum_temperature):
        """Junction temperature aimed at in lasting service; pin it to ask for a cooler one."""
        return target_of(switch_maximum_temperature)

    @stage.operation(
        unit="",
        symbol=r"h_T",
        source="margin at the target temperature",
        title="Margin at the target",
        tex=r"\begin{cases}1&{surge}=1\\\dfrac{allowed_rise}{{target_temperature}-{ambient_temperature}}&\text{else}\end{cases}",
    )
    def temperature_hold(allowed_rise, target_temperature, ambient_temperature, surge):
        """The margin that holds: its value at the target temperature; a surge may use the whole rating."""
        return np.where(surge > 0, 1.0, allowed_rise / (target_temperature - ambient_temperature))

    stage.check(
        "junction",
        title="Junction temperature",
        demand="junction_rise",
        capability="allowed_rise",
        fail=1.0,
        hold="temperature_hold",
        harm="equipment",
        sentence="The junction stands {demand} above ambient; {capability} is the limit of the part.",
        why="Life halves with every ten kelvin, and above the limit the part fails.",
        remedies=(Move("sink_resistance", "down", 6.0), Move("ambient_temperature", "down", 1.1, "world")),
    )
