"""A rectifier with its capacitor behind an inverter's output: what it draws, and what it does to the sine (1.2, 8.1)."""

import numpy as np

from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.schematic import Course, Part, Schematic, Worked
from rhombos.core.circuit.solved import circuit_of
from rhombos.core.circuit.switched.march import Run
from rhombos.core.circuit.switched.repeat import repeat
from rhombos.core.graph.declare import Move, Stage
from rhombos.core.graph.pictures import Seen, Table, Way
from rhombos.core.units import show

CREST = "charge that the load takes in half a period, at the crest of the sine"

rectifier_load = Stage("rectifier_load", "Rectifier load", path=False, telling="{direct_voltage}")
rectifier_load.hazard("ac_voltage", "sine_voltage")
rectifier_load.hazard("dc_voltage", "direct_voltage")
rectifier_load.give("sine_voltage", 230.0, "V", "V_o", 1, 1e4, "Rms voltage of the source, open.", "Source")
rectifier_load.give("sine_frequency", 50.0, "Hz", "f_o", 10, 1e3, "Frequency of the source.", "Frequency")
rectifier_load.give(
    "source_resistance", 1.0, "Ω", "R_s", 1e-3, 1e3, "Resistance of the source with its wiring: the output's own at this frequency.", "Source resistance"
)
rectifier_load.give(
    "source_inductance", 1.5e-3, "H", "L_s", 1e-7, 1, "Inductance of the source: the filter's choke where nothing regulates it.", "Source inductance"
)
rectifier_load.give("bank_capacitor", 220e-6, "F", "C", 1e-9, 1, "Capacitor behind the rectifier.", "Capacitor")
rectifier_load.give("load_power", 150.0, "W", "P", 0.01, 1e5, "What the load takes from the capacitor.", "Load")
rectifier_load.give("diode_drop", 0.8, "V", "V_F", 0.05, 5, "Forward voltage of a diode; two lie in series.", "Forward voltage")
rectifier_load.give("ripple_allowed", 0.15, "", r"\delta", 1e-3, 0.9, "Ripple of the capacitor that the load stands, of its voltage.", "Ripple allowed")
rectifier_load.give("crest_allowed", 10.0, "A", r"\hat I_\mathrm{max}", 1e-3, 1e4, "Peak that the inverter gives before it limits.", "Inverter gives")


@rectifier_load.build(
    unit="V",
    symbol=r"\hat V_d",
    source="crest of the sine less two diodes",
    title="Direct voltage, highest",
    tex=r"\sqrt2\,{sine_voltage}-2\,{diode_drop}",
    example=({"sine_voltage": 230, "diode_drop": 0.8}, 323.67),
)
def direct_voltage(sine_voltage, diode_drop):
    """Where the capacitor stands without load."""
    return np.sqrt(2) * sine_voltage - 2 * diode_drop


@rectifier_load.build(
    unit="Ω",
    symbol="R",
    source="power over voltage",
    title="Load as a resistance",
    tex=r"\frac{{direct_voltage}^2}{load_power}",
    example=({"direct_voltage": 320, "load_power": 160}, 640),
)
def load_resistance(direct_voltage, load_power):
    """Resistance that takes the load's watts at the highest voltage."""
    return direct_voltage**2 / load_power


@rectifier_load.build(
    unit="V",
    symbol=r"\Delta V",
    source=CREST,
    title="Ripple, at most",
    tex=r"\frac{load_power}{2\,{sine_frequency}\,{bank_capacitor}\,{direct_voltage}}",
    example=({"load_power": 150, "sine_frequency": 50, "bank_capacitor": 220e-6, "direct_voltage": 323.7}, 21.06),
)
def rectified_ripple(load_power, sine_frequency, bank_capacitor, direct_voltage):
    """What the capacitor loses from crest to crest, if the load took all of the time between them."""
    return load_power / (2 * sine_frequency * bank_capacitor * direct_voltage)


@rectifier_load.build(
    unit="V", symbol=r"\Delta V_\mathrm{max}", source="share of the voltage", title="Ripple that is allowed", tex=r"{ripple_allowed}\,{direct_voltage}"
)
def most_ripple(ripple_allowed, direct_voltage):
    """Ripple that may be."""
    return ripple_allowed * direct_voltage


@rectifier_load.build(
    unit="A",
    symbol=r"\hat I",
    source="a half sine of current over the conduction angle of a stiff source",
    title="Peak of the current, stiff source",
    tex=r"\frac{\pi}{2}\,\frac{load_power}{direct_voltage}\,\frac{\pi}{\operatorname{arccos}\left(1-\min\left(\frac{rectified_ripple}{direct_voltage},\,1\right)\right)}",
    example=({"load_power": 150, "direct_voltage": 323.7, "rectified_ripple": 21.06}, 6.301),
)
def crest_current(load_power, direct_voltage, rectified_ripple):
    """The charge of half a period drawn while the sine stands above the capacitor; a soft source draws it for longer, and lower."""
    angle = np.arccos(1 - np.minimum(rectified_ripple / direct_voltage, 1.0))
    return np.pi / 2 * load_power / direct_voltage * np.pi / angle


rectifier_load.check(
    "ripple",
    title="Capacitor holds the load",
    demand="rectified_ripple",
    capability="most_ripple",
    fail=1.0,
    hold=1.0,
    harm="none",
    sentence="The capacitor loses {demand} between crests; the load stands {capability}.",
    why="The load drops out in the valleys, or draws its watts at a lower voltage.",
    remedies=(Move("bank_capacitor", "up", 10.0), Move("load_power", "down", 10.0)),
)
rectifier_load.check(
    "crest",
    title="Inverter gives the crest",
    demand="crest_current",
    capability="crest_allowed",
    fail=1.0,
    hold=1.2,
    harm="none",
    sentence="Behind a stiff source its crest is {demand}; the inverter gives {capability}.",
    why="The limit cuts the crest, the sine flattens, and lights flicker.",
    remedies=(Move("bank_capacitor", "down", 10.0), Move("crest_allowed", "up", 10.0)),
)

_DIODES = (
    ("first", (6, 1), (6, -2), "Diode 1"),
    ("second", (6, 7), (6, 5), "Diode 2"),
    ("third", (9, 4), (9, -2), "Diode 3"),
    ("fourth", (9, 7), (9, 5), "Diode 4"),
)
rectifier_load.draw(
    Schematic(
        (
            Part("sine", "source", (0, 1), (0, 4), (Worked(("sine_voltage",), lambda v: v * 2**0.5),), frequency="sine_frequency", neighbour=True),
            Part("resistor", "source_resistance", (0, 1), (3, 1), ("source_resistance",), "Its resistance", neighbour=True),
            Part("inductor", "source_inductance", (3, 1), (6, 1), ("source_inductance",), "Its inductance", neighbour=True),
            *(Part("diode", name, start, end, (0.02,), title, forward="diode_drop") for name, start, end, title in _DIODES),
            Part("capacitor", "bank", (12, -2), (12, 7), ("bank_capacitor",), "Capacitor", checks=("ripple", "crest")),
            Part("resistor", "load", (15, -2), (15, 7), ("load_resistance",)),
        ),
        (((6, 5), (6, 1)), ((0, 4), (9, 4)), ((9, 5), (9, 4)), ((6, -2), (15, -2)), ((6, 7), (15, 7))),
        ((9, 4),),
        {"live": (6, 1), "direct": (15, -2), "minus": (15, 7)},
    )
)


@rectifier_load.look("Over an output period", "v live", "v bank", "i source_resistance")
def period(seen: Seen) -> Course:
    """One period of the source."""
    return Course(1 / seen.at("sine_frequency"))


SAMPLES, ORDERS = 8192, 40


def drawn_by(run: Run, voltage: float) -> dict[str, float]:
    """What meters show of a period: rms and crest of the current, crest factor, watts, power factor, THD of current and of the voltage left, its crest over a sine's."""
    times = np.arange(SAMPLES) / SAMPLES * run.seconds
    current, volts = run.current("source_resistance", times), run.voltage("live", "0", times)
    rms, left = float(np.sqrt(np.mean(current**2))), float(np.sqrt(np.mean(volts**2)))
    watts = float(np.mean(current * volts))

    def distortion(wave: np.ndarray) -> float:
        lines = np.abs(np.fft.rfft(wave))[: ORDERS + 1]
        return float(np.sqrt((lines[2:] ** 2).sum()) / lines[1])

    peak = float(np.abs(run.current("source_resistance", run.times(4000))).max())
    return {
        "rms": rms,
        "peak": peak,
        "crest": peak / rms,
        "watts": watts,
        "factor": watts / (rms * left),
        "current distortion": distortion(current),
        "distortion": distortion(volts),
        "raised": float(np.abs(volts).max()) / (np.sqrt(2) * voltage) - 1,
        "ripple": float(np.ptp(run.across("bank", times))),
    }


@rectifier_load.picture("What it draws, and what is left of the sine")
def measured(seen: Seen) -> Table:
    """The same load behind this source, a stiff one and one twice as soft, simulated."""
    rows = []
    for title, factor in (("a tenth of the source's impedance", 0.1), ("this source", 1.0), ("twice its impedance", 2.0)):

        def at(name: str, factor: float = factor) -> float:
            return seen.at(name) * (factor if name in ("source_resistance", "source_inductance") else 1.0)

        try:
            stage = seen.place.stage.schematic
            assert stage is not None
            told = drawn_by(repeat(circuit_of(stage, at), (), 1 / at("sine_frequency")), at("sine_voltage"))
        except CircuitError:
            rows.append(Way([title, *["not known"] * 5], "unknown", factor == 1))
            continue
        peak = told["peak"]
        verdict = "holds" if 1.2 * peak <= seen.at("crest_allowed") else "tight" if peak <= seen.at("crest_allowed") else "fails"
        numbers = [show(peak, "A", 3), f"{told['crest']:.2f}", f"{told['factor']:.2f}", f"{100 * told['distortion']:.1f} %", f"{100 * told['raised']:+.1f} %"]
        rows.append(Way([title, *numbers], verdict, factor == 1))  # type: ignore[arg-type]
    note = "Crest factor and power factor of the current; distortion (to the 40th) and crest, against the source's, of the voltage that is left for everybody else: an inductance can lift it."
    return Table(["Behind", "Peak", "Crest factor", "Power factor", "Distortion", "Crest"], rows, note)
