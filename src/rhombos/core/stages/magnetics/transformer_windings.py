"""The figures of one transformer winding, declared alike for the primary and the secondary (5.1)."""

from collections.abc import Callable
from typing import Any

import numpy as np

from rhombos.core.formulas.numeric import highest_lasting, one_of, up
from rhombos.core.graph.declare import Need, Stage
from rhombos.core.magnetics.copper import DENSITY, RHO_100
from rhombos.core.magnetics.winding import pulse_factor
from rhombos.core.parts.columns import WIRE
from rhombos.core.stages.names import with_names
from rhombos.core.stages.sizes import BY_OUTPUT_RESISTANCE, BY_SOURCE_RESISTANCE

DOW = "Dowell, Proc. IEE 113 (1966)"


TAILS = 1.15
"""Wire to buy over wire in the window [judgement]."""


def declare_winding(stage: Stage, side: str, windings: str) -> None:
    """Declare strands, layers, resistances, loss, length and mass of the winding `side`; `windings` names how many there are."""
    sub, title = side[0], side.capitalize()
    turns, strands, d, di = f"{side}_turns", f"{side}_strands", f"{side}_strand_diameter", f"{side}_strand_insulated_diameter"
    area, current = f"{side}_copper_area", f"{side}_rms_current"

    def define(name: str, names: tuple[str, ...], fn: Callable[..., Any], sentence: str, *, operation: bool = False, **options: Any) -> None:
        formula = with_names(fn, *names)
        formula.__name__, formula.__doc__ = f"{side}_{name}", sentence
        (stage.operation if operation else stage.build)(**options)(formula)

    one_sided = 2.0 if side == "primary" else np.inf
    one_sided_tex = "2" if side == "primary" else r"\infty"

    stage.pick(
        f"{side}_strand",
        "wire",
        WIRE,
        title=f"{title} strand",
        source="IEC 60317; Dowell, Proc. IEE 113 (1966)",
        needs=(
            Need("Twice the skin depth", "skin_depth", d, 0.5),
            Need("Whole strands close to the copper needed", area, f"{side}_stranded_area", 1 / 1.12),
            Need("Alternating over direct resistance", "ac_limit", f"{side}_lasting_ac_factor"),
        ),
        sentence=f"Wire with which the {side} loses least: the thickest that skin depth and the fields of its layers allow.",
    )
    define(
        "strands",
        (area, d),
        lambda a, x: up(a / (np.pi / 4 * x**2)),
        f"Strands in parallel of the {side}.",
        unit="",
        whole=True,
        symbol=f"n_{{str,{sub}}}",
        decided=True,  # no ratchet: the number belongs to the strand that was picked
        source="copper area over strand area",
        title=f"{title} strands",
        tex=rf"\left\lceil\frac{{{area}}}{{\tfrac{{\pi}}{{4}}{{{d}}}^2}}\right\rceil",
        example=({area: 7e-6, d: 0.5e-3}, 36),
    )
    define(
        "stranded_area",
        (strands, d),
        lambda k, x: k * np.pi / 4 * x**2,
        f"Copper that the {side}'s whole strands have.",
        unit="m^2",
        symbol=f"A_{{str,{sub}}}",
        source="circles",
        title=f"{title} copper of whole strands",
        tex=rf"{{{strands}}}\,\tfrac{{\pi}}{{4}}{{{d}}}^2",
        example=({strands: 36, d: 0.5e-3}, 7.0686e-6),
    )
    define(
        "layers",
        (windings, turns, strands, di, "core_winding_breadth", "interfaces"),
        lambda w, n, k, x, b, p: np.maximum(w * n * k * x / b / p, 1.0),
        f"Strand layers of the {side} between zero and peak field; interleaving divides them.",
        unit="",
        symbol=f"m_{sub}",
        source=DOW,
        title=f"{title} layers",
        tex=rf"\max\left(\frac{{{{{windings}}}{{{turns}}}{{{strands}}}{{{di}}}}}{{{{core_winding_breadth}}\,{{interfaces}}}},1\right)",
        example=({windings: 2, turns: 4, strands: 36, di: 0.56e-3, "core_winding_breadth": 26e-3, "interfaces": 2}, 3.1015),
    )
    define(
        "layer_thickness",
        (d, di, "skin_depth"),
        lambda x, y, depth: (np.pi / 4) ** 0.75 * x / depth * np.sqrt(x / y),
        f"Equivalent layer thickness of the {side} in skin depths, strands side by side over the breadth.",
        unit="",
        symbol=rf"\xi_{sub}",
        source=DOW,
        title=f"{title} layer thickness",
        tex=rf"\left(\tfrac{{\pi}}{{4}}\right)^{{0.75}}\frac{{{d}}}{{skin_depth}}\sqrt{{\frac{{{d}}}{{{di}}}}}",
        example=({d: 0.5e-3, di: 0.56e-3, "skin_depth": 0.38e-3}, 1.0372),
    )
    define(
        "dc_resistance",
        (turns, "core_mean_turn_length", strands, d),
        lambda n, length, k, x: RHO_100 * one_of("ohm*meter", x) * n * length / (k * np.pi / 4 * x**2),
        f"Direct-current resistance of one {side} winding at 100 °C.",
        unit="Ω",
        symbol=f"R_{{dc,{sub}}}",
        source="resistivity of copper at 100 °C",
        title=f"{title} resistance at 100 °C",
        tex=rf"\rho_{{100}}\frac{{{{{turns}}}{{core_mean_turn_length}}}}{{{{{strands}}}\,\tfrac{{\pi}}{{4}}{{{d}}}^2}}",
        example=({turns: 4, "core_mean_turn_length": 0.1, strands: 36, d: 0.5e-3}, 1.2824e-3),
    )
    define(
        "resistance_asked",
        (turns, "core_mean_turn_length", area, "ac_limit"),
        lambda n, length, a, limit: RHO_100 * one_of("ohm*meter", a) * n * length / a * limit,
        f"What one {side} winding may have by the copper asked for; whole strands have less. The ratio is chosen by it, so that no strand more or less asks for another turn.",
        unit="Ω",
        symbol=f"R_{{{sub},\\mathrm{{ask}}}}",
        source="resistivity of copper at 100 °C; AC factor at its limit",
        title=f"{title} resistance asked for",
        tex=rf"\rho_{{100}}\frac{{{{{turns}}}\,{{core_mean_turn_length}}}}{{{{{area}}}}}\,{{ac_limit}}",
        example=({turns: 4, "core_mean_turn_length": 0.1, area: 7.0686e-6, "ac_limit": 1.5}, 1.9237e-3),
    )
    define(
        "ac_factor",
        (f"{side}_layer_thickness", f"{side}_layers", "effective_duty", "turn_off_time", "switching_frequency", windings),
        lambda xi, m, duty, edge, f, w: pulse_factor(xi, m, duty / 2, edge * f, 1.0 * (w < one_sided)),
        f"Effective resistance of the {side} over its direct-current resistance, for the harmonics of its pulses.",
        operation=True,
        unit="",
        symbol=f"F_{sub}",
        source=DOW,
        title=f"{title} AC factor",
        empirical=True,
        tex=rf"\operatorname{{F_{{pulse}}}}\left({{{side}_layer_thickness}},\,{{{side}_layers}},\,\tfrac12{{effective_duty}},\,{{turn_off_time}}\,{{switching_frequency}},\,[{{{windings}}}<{one_sided_tex}]\right)",
        start=1.4,
        example=(
            {f"{side}_layer_thickness": 0.05, f"{side}_layers": 1, "effective_duty": 0.8, "turn_off_time": 40e-9, "switching_frequency": 40e3, windings: 1},
            1.0,
        ),
    )
    define(
        "lasting_ac_factor",
        (current, f"{side}_ac_factor"),
        lambda i, k: highest_lasting(i**2 * k) / highest_lasting(i**2),
        f"The {side}'s AC factor, weighed by the heat of each corner that lasts: short pulses at light load have the highest factor and no loss.",
        unit="",
        symbol=f"F_{{{sub},\\mathrm{{last}}}}",
        source=DOW,
        title=f"{title} AC factor, lasting",
        tex=rf"\frac{{\max_\mathrm{{lasting}}({{{current}}}^2\,{{{side}_ac_factor}})}}{{\max_\mathrm{{lasting}}({{{current}}}^2)}}",
        example=({current: 30, f"{side}_ac_factor": 1.3}, 1.3),
    )
    define(
        "resistance",
        (f"{side}_dc_resistance", f"{side}_ac_factor"),
        lambda r, k: r * k,
        f"Effective resistance of one {side} winding for its pulses, hot.",
        operation=True,
        unit="Ω",
        symbol=f"R_{sub}",
        source=DOW,
        title=f"{title} resistance, effective",
        tex=rf"{{{side}_dc_resistance}}\,{{{side}_ac_factor}}",
        start=2.6e-3 if side == "primary" else 0.5,
        grows=BY_SOURCE_RESISTANCE if side == "primary" else BY_OUTPUT_RESISTANCE,
    )
    define(
        "loss",
        (windings, current, f"{side}_resistance"),
        lambda w, i, r: w * i**2 * r,
        f"Copper loss of the {side}.",
        operation=True,
        unit="W",
        symbol=f"P_{{Cu,{sub}}}",
        source="Joule's law",
        title=f"{title} copper loss",
        tex=rf"{{{windings}}}\,{{{current}}}^2\,{{{side}_resistance}}",
    )
    define(
        "wire_length",
        (turns, "core_mean_turn_length"),
        lambda n, length: n * length,
        f"Length of one {side} winding, tails not counted.",
        unit="m",
        symbol=f"l_{sub}",
        source="turns times mean turn",
        title=f"{title} length",
        tex=rf"{{{turns}}}\,{{core_mean_turn_length}}",
    )
    define(
        "copper_mass",
        (windings, f"{side}_wire_length", strands, d),
        lambda w, length, k, x: DENSITY * one_of("kilogram/meter**3", x) * w * length * k * np.pi / 4 * x**2,
        f"Mass of the copper of the {side}.",
        unit="kg",
        symbol=f"m_{{Cu,{sub}}}",
        source="density of copper",
        title=f"{title} copper mass",
        tex=rf"8960\,\tfrac{{\mathrm{{kg}}}}{{\mathrm{{m}}^3}}\cdot{{{windings}}}\,{{{side}_wire_length}}\,{{{strands}}}\,\tfrac{{\pi}}{{4}}{{{d}}}^2",
        example=({windings: 2, f"{side}_wire_length": 0.4, strands: 36, d: 0.5e-3}, 0.050668),
    )
    define(
        "wire_to_order",
        (windings, f"{side}_wire_length"),
        lambda w, length: w * TAILS * length,
        f"Length of the {side}'s bundle to cut, with its tails.",
        unit="m",
        symbol=f"l_{{{sub},\\mathrm{{cut}}}}",
        source="[judgement] tails: 15 % more",
        title=f"{title} bundle to cut",
        tex=rf"1.15\,{{{windings}}}\,{{{side}_wire_length}}",
        example=({windings: 2, f"{side}_wire_length": 0.4}, 0.92),
    )
    define(
        "wire_price",
        (f"{side}_copper_mass", f"{side}_strand_price"),
        lambda mass, price: TAILS * mass * price * one_of("1/kilogram", mass),
        f"Price of the wire of the {side}, tails counted.",
        unit="credit",
        symbol=f"c_{sub}",
        source="catalogue, price of a kilogram; [judgement] tails: 15 % more",
        title=f"{title} wire",
        tex=rf"1.15\,{{{side}_copper_mass}}\,{{{side}_strand_price}}",
        example=({f"{side}_copper_mass": 0.05, f"{side}_strand_price": 20}, 1.15),
    )
    stage.order(
        f"{title} wire",
        f"{{{strands}}} × {{{d}}}",
        f"enamelled copper, {{{side}_wire_to_order}} of the bundle with tails, {{{side}_copper_mass}} net",
        price=f"{side}_wire_price",
    )
