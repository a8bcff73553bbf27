"""The front end: push-pull or full bridge, one set of figures with the topology's numbers put in (4.1, 4.2, 4.3, 4.4, 6.2).

Both drive the transformer with the full source voltage; they differ in voltage per switch, switches in series,
windings and how leakage energy is caught.
"""

import numpy as np

from rhombos.core.formulas.numeric import highest, up
from rhombos.core.graph.declare import Need, Option, Stage, every
from rhombos.core.parts.columns import MOSFET
from rhombos.core.stages.front.front_duty import declare_duty
from rhombos.core.stages.sizes import BY_DRAWN
from rhombos.core.stages.switches.stress import SWITCH_NEEDS, declare_stress
from rhombos.core.stages.switches.switch_heat import declare_bill, declare_junction, declare_position, declare_surroundings
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


def front_end(name: str, title: str, numbers: dict[str, float], pieces: int, needs: tuple[str, ...] = ()) -> Stage:
    """A front-end stage with the given topology numbers, and what its switches need beside `SWITCH_NEEDS`."""
    stage = Stage(name, title, telling="{switch} · {switching_frequency}")
    stage.hazard("pulsed_voltage", "highest_drain_voltage")
    stage.compare("Switch", "switch")
    stage.compare("Static switch voltage", "static_voltage")
    stage.bus("pulsed", "driven_voltage", "flat_top_current", tail="pk")
    stage.choice("topology", {name: Option(title, numbers)}, TOPOLOGY, default=name, sentence="The numbers that make this front end what it is.")
    _declare_givens(stage)
    declare_duty(stage)
    stage.pick(
        "switch",
        "mosfet",
        MOSFET,
        title="Switch",
        quantities=(1, 2, 3, 4, 6),
        pieces=pieces,
        source=MUR,
        needs=(*SWITCH_NEEDS, Need("Volts lost in the switches", "allowed_drop", "hot_drop"), *needs),
        sentence="Cheapest MOSFET and count whose voltage, current and own temperature hold at every corner.",
    )
    _declare_heat(stage)
    _declare_loss(stage)
    _declare_checks(stage)
    return stage


def _declare_givens(stage: Stage) -> None:
    declare_surroundings(stage, loss_budget=0.025, pad_resistance=0.6, sink_time=135.0)


def ringing(inductance, current, edge, capacitance):
    """Overshoot of a hard loop in V: L·I over the turn-off edge, at most the ring of L against the output capacitance."""
    return np.minimum(inductance * current / edge, current * np.sqrt(inductance / capacitance))


def _declare_heat(stage: Stage) -> None:
    @stage.operation(
        unit="W",
        symbol=r"P_\mathrm{fix}",
        source="[MUR] edges, and energy of the output capacitance",
        title="Switching loss of one device",
        tex=r"\left(\tfrac12{drain_peak_voltage}\frac{{switched_current}-{flat_top_swing}}{switch_quantity}{turn_off_time}+\tfrac12{switch_output_capacitance}({turn_on_factor}{input_voltage})^2\right){switching_frequency}",
        example=(
            {
                "drain_peak_voltage": 80,
                "switched_current": 60,
                "flat_top_swing": 10,
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
        drain_peak_voltage,
        switched_current,
        flat_top_swing,
        switch_quantity,
        turn_off_time,
        switch_output_capacitance,
        turn_on_factor,
        input_voltage,
        switching_frequency,
    ):
        """Turn-off edge at the pulse's end (mean over the output's period) and output capacitance.

        Leakage limits the current at turn-on, so that edge does not count.
        """
        edge = drain_peak_voltage * (switched_current - flat_top_swing) / switch_quantity * turn_off_time / 2
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
        unit="W",
        symbol=r"P_\mathrm{loss}",
        start=15.0,
        grows=BY_DRAWN,
        source="sum of the devices",
        title="Loss",
        tex=r"{switch_positions}\,{switch_quantity}\,{device_loss}",
    )
    def loss(switch_positions, switch_quantity, device_loss):
        """Loss of all switches of the stage."""
        return switch_positions * switch_quantity * device_loss

    @stage.operation(unit="W", symbol=r"P_\mathrm{in}", source="power balance", title="Power drawn", tex=r"{output_power}+{losses}")
    def input_power(output_power, losses=every("loss", "host")):
        """Power from the rail: what goes to the transformer, the stage's losses and what its attachments draw."""
        return output_power + losses

    stage.rename(pulse_loss="loss")

    @stage.build(unit="V", symbol=r"\hat V_\mathrm{DS}", tex=r"\max({drain_peak_voltage})", source="highest over the corners", title="Highest drain voltage")
    def highest_drain_voltage(drain_peak_voltage):
        """Highest voltage of one drain over all corners."""
        return highest(drain_peak_voltage)

    stage.give(
        "drop_share",
        0.08,
        "",
        r"\delta_{sw}",
        0.005,
        0.5,
        "Share of the source's volts that the switches may drop at the end of a pulse, starts included [judgement].",
        "Drop of the switches allowed",
        judgement=True,
    )

    @stage.operation(
        unit="V",
        symbol=r"V_{sw}",
        source="Ohm's law, half again for a hot chip",
        title="Drop of the switches at the pulse's end",
        tex=r"{peak_current}\,{series_switches}\frac{1.5\,{switch_on_resistance}}{switch_quantity}",
        example=({"peak_current": 100, "series_switches": 2, "switch_on_resistance": 0.002, "switch_quantity": 2}, 0.3),
    )
    def hot_drop(peak_current, series_switches, switch_on_resistance, switch_quantity):
        """Volts that the switches in the current's way take at its highest."""
        return peak_current * series_switches * 1.5 * switch_on_resistance / switch_quantity

    stage.give(
        "position_drop",
        2.5,
        "V",
        r"V_\mathrm{pos}",
        0.1,
        100,
        "What one switch of a bridge may drop: a bootstrap is refreshed through it, less by that [judgement].",
        "Drop of a bridge's switch",
        judgement=True,
    )

    @stage.operation(
        unit="V",
        symbol=r"V_{sw,max}",
        source="[judgement]",
        title="Drop allowed",
        tex=r"\begin{cases}\min({drop_share}\,{input_voltage},\,{series_switches}\,{position_drop})&{series_switches}>1\\{drop_share}\,{input_voltage}&\text{else}\end{cases}",
        example=({"drop_share": 0.08, "input_voltage": 96, "series_switches": 2, "position_drop": 2.5}, 5.0),
    )
    def allowed_drop(drop_share, input_voltage, series_switches, position_drop):
        """What the switches may drop: beyond it a start pulls the source down faster than it gives power, and a bridge's bootstraps are not refreshed."""
        share = drop_share * input_voltage
        return np.where(series_switches > 1, np.minimum(share, series_switches * position_drop), share)

    declare_position(stage)
    declare_bill(stage)


def _declare_checks(stage: Stage) -> None:
    # 1.10 less rounding: the clamp is set for exactly that.
    declare_stress(stage, "static_voltage", dynamic_hold=1.0999)
    stage.give(
        "channel_current",
        30.0,
        "A",
        r"I_\mathrm{ch}",
        1,
        500,
        "Current up to which one channel is usual; above it interleaved channels share more surely [judgement].",
        "Usual current per channel",
        judgement=True,
    )

    @stage.build(
        unit="",
        whole=True,
        symbol=r"n_\mathrm{ch}",
        source="[judgement] one channel up to its usual current",
        title="Channels usual",
        tex=r"\left\lceil\frac{\max({lasting_rms_current})}{channel_current}\right\rceil",
        example=({"lasting_rms_current": 45, "channel_current": 30}, 2),
    )
    def usual_channels(lasting_rms_current, channel_current):
        """Interleaved channels that practice takes for this current: advice; switches in parallel do it too, at any current."""
        return up(highest(lasting_rms_current) / channel_current)


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
    needs=("clamp_room",),
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


for _stage in (push_pull, full_bridge):
    _stage.give(
        "bus_inductance",
        8e-9,
        "H",
        r"L_\mathrm{bus}",
        0,
        1e-6,
        "Inductance of the loop of bulk capacitor and switches; it rings at turn-off where no clamp stands [judgement].",
        "Loop of bulk and switches",
        judgement=True,
    )


@full_bridge.operation(
    unit="V",
    symbol=r"V_\mathrm{DS,pk}",
    tex=r"{input_voltage}+\min\left(\frac{{bus_inductance}\,{peak_current}}{turn_off_time},\;{peak_current}\sqrt{\frac{bus_inductance}{{switch_quantity}\,{switch_output_capacitance}}}\right)",
    source="the opposite diode clamps leakage to the rail; the hard loop rings by L·I/t, at most by its own impedance",
    title="Switch voltage with spike",
    example=(
        {"input_voltage": 58, "bus_inductance": 8e-9, "peak_current": 90, "turn_off_time": 30e-9, "switch_quantity": 1, "switch_output_capacitance": 0.8e-9},
        82.0,
    ),
)
def drain_peak_voltage(input_voltage, bus_inductance, peak_current, turn_off_time, switch_quantity, switch_output_capacitance):
    """Highest voltage of one switch: the rail, and what the loop of bulk capacitor and switches adds at turn-off."""
    return input_voltage + ringing(bus_inductance, peak_current, turn_off_time, switch_quantity * switch_output_capacitance)


@full_bridge.build(
    unit="V",
    symbol=r"V_\mathrm{low}",
    tex=r"\max\frac{{hot_resistance}\,{peak_current}}{switch_quantity}",
    source="Ohm's law",
    title="Drop of the low-side switch",
)
def low_side_drop(hot_resistance, peak_current, switch_quantity):
    """Highest drop of a low-side switch while the bootstrap is refreshed: the current lifts the node by it."""
    return highest(hot_resistance * peak_current / switch_quantity)


for _name, _unit, _symbol, _text, _alone in (
    ("driven_voltage", "V", "V_p", "Voltage across the driven winding.", 24),
    ("driven_windings", "", "w", "Primary windings that take turns.", 2),
    ("series_switches", "", "n_s", "Switches in series.", 1),
    ("apparent_power_factor", "", "k_S", "VA of the primary over its watts.", 1.4142),
    ("saturation_share", "", "k_B", "Share of the saturation flux that may be used.", 0.5),
    ("pulse_power", "W", r"P_\mathrm{pulse}", "Power that passes switches and winding.", 900),
    ("flat_top_swing", "A", r"\Delta I_{2f}", "Swing of the pulses at twice the output frequency.", 10),
    ("low_side_drop", "V", r"V_\mathrm{low}", "Highest drop of the low-side switch during refresh.", 0.5),
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
word("static_factor", "", r"k_V", "Highest steady off-state voltage over the source voltage.", 2)
