"""Junction temperature, loss and its judgement for the switches of any stage (4.2, 4.3, 4.4)."""

import numpy as np

from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.numeric import before_surge
from rhombos.core.stages.heat import junction, loss_at, settle


def declare_surroundings(stage: Stage, *, sink_resistance: float, pad_resistance: float, sink_capacity: float) -> None:
    """Air, target, heat sink and pad of a stage's switches; the defaults (K/W, K/W, J/K) are the stage's own."""
    stage.give(
        "ambient_temperature",
        318.15,
        "K_abs",
        r"T_\mathrm{amb}",
        233.15,
        373.15,
        "Highest air temperature at the heat sink, inside the enclosure.",
        "Ambient inside",
    )
    stage.give(
        "target_temperature", 383.15, "K_abs", r"T_\mathrm{target}", 313.15, 473.15, "Junction temperature aimed at in lasting service.", "Junction target"
    )
    stage.give("sink_resistance", sink_resistance, "K/W", r"R_{sa}", 0.01, 50, "Thermal resistance of the heat sink to air.", "Heat sink")
    stage.give("pad_resistance", pad_resistance, "K/W", r"R_{cs}", 0.01, 10, "Thermal resistance from one case to the sink.", "Insulating pad")
    stage.give(
        "sink_capacity", sink_capacity, "J/K", r"C_\mathrm{sink}", 0.1, 1e4, "Heat capacity of the sink: it carries the surge.", "Heat capacity of the sink"
    )


def declare_junction(stage: Stage) -> None:
    """Junction temperature and device loss from the figures `switching_loss` and `conduction_loss_25` of the stage."""
    stage.give(
        "thermal_settling_time",
        1.0,
        "s",
        r"\tau_{th}",
        0.01,
        10,
        "Time after which a junction has its full thermal resistance; shorter pulses see the root of their share.",
        "Thermal settling",
        judgement=True,
    )

    @stage.operation(
        unit="W",
        symbol=r"P_0",
        source="handbook of surge: steady state before",
        title="Loss of one device in lasting service",
        tex=r"\begin{gathered}P\!\left(T\right),\;T:\;{ambient_temperature},{switch_junction_resistance}+{pad_resistance},{sink_resistance}\cdot{switch_positions}{switch_quantity},\\{switching_loss},{conduction_loss_25},{switch_temperature_coefficient}\end{gathered}",
    )
    def steady_device_loss(
        ambient_temperature,
        switch_junction_resistance,
        pad_resistance,
        sink_resistance,
        switch_positions,
        switch_quantity,
        switching_loss,
        conduction_loss_25,
        switch_temperature_coefficient,
    ):
        """Loss of one device if the corner lasted; a surge starts from its full-load value."""
        resistance = switch_junction_resistance + pad_resistance + switch_positions * switch_quantity * sink_resistance
        temperature = settle(ambient_temperature, resistance, switching_loss, conduction_loss_25, switch_temperature_coefficient)
        return loss_at(temperature, switching_loss, conduction_loss_25, switch_temperature_coefficient)

    @stage.operation(
        unit="K_abs",
        symbol="T_j",
        source="thermal network of junction, pad and sink; surge by rise of the sink",
        title="Junction temperature",
        tex=r"\begin{gathered}\frac{T_0+R\,({switching_loss}+{conduction_loss_25}(1-25\,^\circ\mathrm{C}\cdot{switch_temperature_coefficient}))}{1-R\,{conduction_loss_25}{switch_temperature_coefficient}}\\"
        r"T_0,R:\;{ambient_temperature},{switch_junction_resistance}+{pad_resistance},{sink_resistance}\cdot{switch_positions}{switch_quantity}\\{surge}:\,{surge_time},{thermal_settling_time},{sink_capacity},{steady_device_loss}\end{gathered}",
        example=(
            {
                "ambient_temperature": 318.15,
                "surge": 0,
                "steady_device_loss": 5,
                "surge_time": 2,
                "thermal_settling_time": 1,
                "switch_junction_resistance": 0.5,
                "pad_resistance": 0.5,
                "sink_resistance": 1.0,
                "sink_capacity": 100,
                "switch_positions": 2,
                "switch_quantity": 2,
                "switching_loss": 2,
                "conduction_loss_25": 3,
                "switch_temperature_coefficient": 0.005,
            },
            345.58,
        ),
    )
    def junction_temperature(
        ambient_temperature,
        surge,
        steady_device_loss,
        surge_time,
        thermal_settling_time,
        switch_junction_resistance,
        pad_resistance,
        sink_resistance,
        sink_capacity,
        switch_positions,
        switch_quantity,
        switching_loss,
        conduction_loss_25,
        switch_temperature_coefficient,
    ):
        """Junction temperature in lasting service; at surge at the end of the brief's seconds.

        The loop temperature, resistance, loss is linear and solved in closed form; no solution means thermal runaway.
        """
        return junction(
            ambient_temperature,
            surge,
            before_surge(steady_device_loss),
            surge_time,
            thermal_settling_time,
            switch_junction_resistance + pad_resistance,
            sink_resistance,
            sink_capacity,
            switch_positions * switch_quantity,
            switching_loss,
            conduction_loss_25,
            switch_temperature_coefficient,
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

    @stage.operation(
        unit="",
        symbol=r"h_T",
        source="margin at the target temperature",
        title="Margin at the target",
        tex=r"\frac{allowed_rise}{{target_temperature}-{ambient_temperature}}\;(1\;\text{at}\;{surge})",
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
        remedies=(Move("sink_resistance", "down", 6.0), Move("ambient_temperature", "down", 1.1)),
    )
