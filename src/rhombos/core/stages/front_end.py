"""The front end: push-pull or full bridge, one set of figures with the topology's numbers put in (4.1, 4.2, 4.3, 4.4, 6.2).

Both drive the transformer with the full source voltage; they differ in voltage per switch, switches in series,
windings and how leakage energy is caught.
"""

import numpy as np

from rhombos.core.graph.declare import Move, Need, Option, Stage, every
from rhombos.core.graph.numeric import highest, highest_lasting
from rhombos.core.parts.columns import MOSFET
from rhombos.core.stages import gating
from rhombos.core.stages.front_duty import declare_duty
from rhombos.core.stages.heat import own_rise
from rhombos.core.stages.switch_heat import declare_junction, declare_surroundings
from rhombos.core.vocabulary import word

MUR = "Mohan, Undeland & Robbins, Power Electronics"
EM = "Erickson & Maksimović, Fundamentals of Power Electronics"
TOPOLOGY = {
    "switch_positions": ("", r"n_{sw}", "Switch positions of the stage."),
    "driven_windings": ("", "w", "Primary windings that take turns (two halves, or one)."),
    "series_switches": ("", "n_s", "Switches that the current passes in series."),
    "static_factor": ("", r"k_V", "Highest steady off-state voltage over the source voltage."),
    "turn_on_factor": ("", r"k_\mathrm{on}", "Voltage at the moment of turn-on over the source voltage."),
    "apparent_power_factor": ("", r"k_S", "VA of the primary winding over its watts."),
    "saturation_share": ("", r"k_B", "Share of the saturation flux that may be used."),
}


def front_end(name: str, title: str, numbers: dict[str, float], pieces: int) -> Stage:
    """A front-end stage with the given topology numbers."""
    stage = Stage(name, title, telling="{switch} · {switching_frequency}")
    stage.choice("topology", {name: Option(title, numbers)}, TOPOLOGY, default=name, sentence="The numbers that make this front end what it is.")
    _declare_givens(stage)
    declare_duty(stage)
    _declare_pick(stage, pieces)
    _declare_heat(stage)
    _declare_loss(stage)
    _declare_checks(stage)
    return stage


def _declare_givens(stage: Stage) -> None:
    declare_surroundings(stage, sink_resistance=0.75, pad_resistance=0.6, sink_capacity=180.0)
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


def _declare_pick(stage: Stage, pieces: int) -> None:
    @stage.pick("switch", "mosfet", MOSFET, title="Switch", quantities=(1, 2, 3, 4), pieces=pieces, source=MUR)
    def switch(
        part,
        surge,
        surge_time,
        thermal_settling_time,
        sink_capacity,
        static_factor,
        static_voltage,
        input_voltage,
        turn_on_factor,
        switch_rms_current,
        peak_current,
        flat_top_current,
        switching_frequency,
        gate_on_voltage,
        wanted_on_plateau,
        wanted_off_plateau,
        driver_resistance,
        ambient_temperature,
        target_temperature,
        sink_resistance,
        pad_resistance,
        switch_positions,
        sharing_factor,
        trust_factor,
    ):
        """Cheapest MOSFET and count whose voltage, current and own temperature hold at every corner."""
        n = part.quantity
        share = np.where(n > 1, sharing_factor, 1.0) * trust_factor
        top = highest(input_voltage)
        current = flat_top_current / n
        plateau = gating.plateau_voltage(part.threshold_voltage, current, part.transconductance)
        outer = gating.external(wanted_off_plateau, part.threshold_voltage, part.gate_drain_charge, n, driver_resistance, part.internal_gate_resistance)
        t_off = gating.off_time(
            n * driver_resistance + outer + part.internal_gate_resistance, part.input_capacitance, part.gate_drain_charge, 0.0, part.threshold_voltage, plateau
        )
        off_voltage = np.maximum(static_factor * input_voltage, (static_factor > 1) * (part.rated_voltage / 1.1 - top + input_voltage))
        fixed = (
            0.5 * off_voltage * current * t_off * switching_frequency
            + 0.5 * part.output_capacitance * (turn_on_factor * input_voltage) ** 2 * switching_frequency
        )
        conduction = (switch_rms_current / n) ** 2 * part.on_resistance
        rise = own_rise(
            ambient_temperature,
            surge,
            surge_time,
            thermal_settling_time,
            part.junction_resistance + pad_resistance,
            sink_resistance,
            sink_capacity,
            switch_positions * n,
            fixed,
            conduction,
            part.temperature_coefficient,
        )
        return [
            Need("voltage rating, static", part.rated_voltage, 1.25 * static_voltage, "V"),
            Need("room for the clamp above the source", part.rated_voltage / 1.1 - top, (static_factor - 1) * 1.4 * top, "V"),
            Need("gate rating", part.gate_rated_voltage, 1.25 * gate_on_voltage, "V"),
            Need("current rating, rms", n * share * part.rated_current, 1.25 * highest_lasting(switch_rms_current), "A"),
            Need("pulsed current rating", n * share * part.pulsed_current, 1.25 * highest(peak_current), "A"),
            Need("junction rise to the target", target_temperature - ambient_temperature, highest_lasting(rise), "K"),
            Need("junction rise at the surge's end", part.maximum_temperature - ambient_temperature, highest(rise), "K"),
        ]


def _declare_heat(stage: Stage) -> None:
    @stage.operation(
        unit="W",
        symbol=r"P_\mathrm{fix}",
        source="[MUR] edges, and energy of the output capacitance",
        title="Switching loss of one device",
        tex=r"\left(\tfrac12{drain_peak_voltage}\frac{flat_top_current}{switch_quantity}{turn_off_time}+\tfrac12{switch_output_capacitance}({turn_on_factor}{input_voltage})^2\right){switching_frequency}",
        example=(
            {
                "drain_peak_voltage": 80,
                "flat_top_current": 50,
                "switch_quantity": 2,
                "turn_off_time": 40e-9,
                "switch_output_capacitance": 1e-9,
                "turn_on_factor": 1,
                "input_voltage": 24,
                "switching_frequency": 40e3,
            },
            1.61152,
        ),
    )
    def switching_loss(
        drain_peak_voltage, flat_top_current, switch_quantity, turn_off_time, switch_output_capacitance, turn_on_factor, input_voltage, switching_frequency
    ):
        """Turn-off edge and output capacitance; leakage limits the current at turn-on, so that edge does not count."""
        edge = drain_peak_voltage * flat_top_current / switch_quantity * turn_off_time / 2
        stored = switch_output_capacitance * (turn_on_factor * input_voltage) ** 2 / 2
        return (edge + stored) * switching_frequency

    @stage.operation(
        unit="W",
        symbol=r"P_{25}",
        source="Joule's law",
        title="Conduction loss of one device at 25 °C",
        tex=r"\left(\frac{switch_rms_current}{switch_quantity}\right)^2{switch_on_resistance}",
        example=({"switch_rms_current": 30, "switch_quantity": 2, "switch_on_resistance": 0.004}, 0.9),
    )
    def conduction_loss_25(switch_rms_current, switch_quantity, switch_on_resistance):
        """Conduction loss that one device would have at 25 °C."""
        return (switch_rms_current / switch_quantity) ** 2 * switch_on_resistance

    declare_junction(stage)


def _declare_loss(stage: Stage) -> None:
    @stage.operation(
        unit="W", symbol=r"P_\mathrm{loss}", start=15.0, source="sum of the devices", title="Loss", tex=r"{switch_positions}\,{switch_quantity}\,{device_loss}"
    )
    def loss(switch_positions, switch_quantity, device_loss):
        """Loss of all switches of the stage."""
        return switch_positions * switch_quantity * device_loss

    @stage.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
    def input_power(output_power, losses=every("loss", "host")):
        """Power from the rail: what goes to the transformer, the stage's losses and what its attachments draw."""
        return output_power + losses

    @stage.build(unit="credit", symbol="c", source="catalogue", title="Cost", tex=r"{switch_positions}\,{switch_quantity}\,{switch_price}")
    def cost(switch_positions, switch_quantity, switch_price):
        """Cost of the switches."""
        return switch_positions * switch_quantity * switch_price

    @stage.build(unit="", symbol="n", source="count", title="Parts", tex=r"{switch_positions}\,{switch_quantity}")
    def part_count(switch_positions, switch_quantity):
        """Number of switches."""
        return switch_positions * switch_quantity

    @stage.build(unit="kg", symbol="m", source="catalogue", title="Mass", tex=r"{switch_positions}\,{switch_quantity}\,{switch_mass}")
    def mass(switch_positions, switch_quantity, switch_mass):
        """Mass of the switches."""
        return switch_positions * switch_quantity * switch_mass

    @stage.operation(
        unit="A",
        symbol=r"I_\mathrm{rat}",
        source="rating at a case of 100 °C, sharing",
        title="Current rating of the position",
        tex=r"{switch_quantity}\,{switch_rated_current}\,{trust_factor}\cdot({switch_quantity}>1\,?\,{sharing_factor}:1)",
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
        symbol=r"I_\mathrm{pulse}",
        source="pulsed rating, sharing",
        title="Pulsed rating of the position",
        tex=r"{switch_quantity}\,{switch_pulsed_current}\,{trust_factor}\cdot({switch_quantity}>1\,?\,{sharing_factor}:1)",
    )
    def pulsed_rating(switch_quantity, switch_pulsed_current, trust_factor, sharing_factor):
        """Pulse that the switches of one position stand together."""
        return switch_quantity * switch_pulsed_current * trust_factor * np.where(switch_quantity > 1, sharing_factor, 1.0)


def _declare_checks(stage: Stage) -> None:
    stage.check(
        "static_voltage_rating",
        title="Switch voltage, static",
        demand="static_voltage",
        capability="switch_rated_voltage",
        fail=1.10,
        hold=1.25,
        harm="equipment",
        sentence="Off, a switch stands {demand}; it is rated {capability}.",
        why="Without reserve the first spike breaks it down.",
    )
    stage.check(
        "dynamic_voltage_rating",
        title="Switch voltage with spike",
        demand="drain_peak_voltage",
        capability="switch_rated_voltage",
        fail=1.00,
        hold=1.0999,
        harm="equipment",
        sentence="With its spike a switch sees {demand}; it is rated {capability}.",
        why="Repeated breakdown heats a spot of the chip until it shorts.",
    )
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
    stage.check(
        "pulsed_rating_check",
        title="Switch current, peak",
        demand="peak_current",
        capability="pulsed_rating",
        fail=1.0,
        hold=1.25,
        harm="equipment",
        sentence="A pulse ends at {demand}; the position stands {capability}.",
        why="Beyond the pulsed rating the switch is outside its safe area.",
        remedies=(Move("switch_quantity", "up", 4.0),),
    )
    stage.check(
        "parallel_current",
        title="Current per channel",
        demand="lasting_rms_current",
        capability="channel_current",
        fail=0.5,
        hold=0.8,
        harm="none",
        sentence="{demand} rms in one channel; parallel switches are usual up to {capability}.",
        why="Above that, interleaved channels share more surely than switches in parallel.",
    )

    stage.give(
        "channel_current",
        30.0,
        "A",
        r"I_\mathrm{ch}",
        1,
        500,
        "Current up to which parallel devices on one channel are usual [judgement].",
        "Usual current per channel",
        judgement=True,
    )


push_pull = front_end(
    "push_pull",
    "Push-pull",
    {
        "switch_positions": 2,
        "driven_windings": 2,
        "series_switches": 1,
        "static_factor": 2,
        "turn_on_factor": 1,
        "apparent_power_factor": float(np.sqrt(2)),
        "saturation_share": 0.5,
    },
    2,
)
full_bridge = front_end(
    "full_bridge",
    "Full bridge",
    {
        "switch_positions": 4,
        "driven_windings": 1,
        "series_switches": 2,
        "static_factor": 1,
        "turn_on_factor": 0.5,
        "apparent_power_factor": 1.0,
        "saturation_share": 0.6,
    },
    4,
)


@full_bridge.operation(unit="V", symbol=r"V_\mathrm{DS,pk}", tex=r"{input_voltage}", source=MUR, title="Switch voltage with spike")
def drain_peak_voltage(input_voltage):
    """Highest voltage of one switch: the opposite diode clamps leakage energy to the rail."""
    return input_voltage


for _name, _unit, _symbol, _text, _alone in (
    ("driven_voltage", "V", "V_p", "Voltage across the driven winding.", 24),
    ("driven_windings", "", "w", "Primary windings that take turns.", 2),
    ("series_switches", "", "n_s", "Switches in series.", 1),
    ("apparent_power_factor", "", "k_S", "VA of the primary over its watts.", 1.4142),
    ("saturation_share", "", "k_B", "Share of the saturation flux that may be used.", 0.5),
    ("flat_top_current", "A", r"I_\mathrm{pk}", "Mean current during the pulse.", 45),
    ("pulse_form_factor", "", r"k_\mathrm{rms}", "Rms over mean within a pulse.", 1.02),
    ("effective_duty", "", r"D_\mathrm{tot,eff}", "Fraction of time in which power flows.", 0.8),
    ("total_duty", "", r"D_\mathrm{tot}", "Fraction of time in which the transformer is driven.", 0.82),
    ("reachable_duty", "", r"D_\mathrm{eff,max}", "Duty left after commutation.", 0.9),
    ("drive_resistance", "Ω", r"R_\mathrm{drive}", "Winding and switches that the pulse passes.", 0.006),
    ("drain_peak_voltage", "V", r"V_\mathrm{DS,pk}", "Switch voltage with spike.", 80),
    ("switch_rated_voltage", "V", r"V_{DSS}", "Rated drain-source voltage.", 100),
    ("hot_resistance", "Ω", r"R_\mathrm{hot}", "On-resistance of one device, hot.", 0.005),
    ("continuous_duty", "", r"D_\mathrm{ccm}", "Duty with lasting choke current.", 0.8),
    ("discontinuous_duty", "", r"D_\mathrm{dcm}", "Duty below the choke's boundary.", 1.2),
    ("peak_current", "A", r"I_\mathrm{pk,max}", "Highest current of a pulse.", 60),
):
    word(_name, _unit, _symbol, _text, _alone)
