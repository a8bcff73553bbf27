"""Resistance, core loss, price and mass of a choke scaled from its energy and inductance, until it is designed turn by turn (5.3)."""

from rhombos.core.formulas.numeric import highest_lasting
from rhombos.core.graph.declare import Stage
from rhombos.core.stages.names import with_names

REFERENCE_SWING = 0.3
"""Ripple over saturation current at which the reference's core loss is stated."""
SCALED = "[judgement] size by the energy at saturation: volume, and with it price, mass and core loss, by its 0.75th power"


def declare_choke(
    stage: Stage, prefix: str, inductance: str, saturation: str, ripple: str, *, reference: float, price: float, mass: float, core_loss: float
) -> None:
    """Declare `energy`, `resistance`, `core_loss`, `price` and `mass` of a choke, named with `prefix`; the numbers are those of a choke of `reference` joules.

    `ripple` names the full ripple that its core loss is stated for.
    """

    def declare(name, fn, sentence, names, **options):
        fn.__name__, fn.__doc__ = prefix + name, sentence
        stage.build(**options)(with_names(fn, *names))

    declare(
        "energy",
        lambda henry, ampere: henry * ampere**2 / 2,
        "Energy that the choke holds at the current to which it must not saturate: it sets the size of the core.",
        (inductance, saturation),
        unit="J",
        symbol=r"E_L",
        source="field energy",
        title="Energy of the choke",
        tex=rf"\tfrac12{{{inductance}}}\,{{{saturation}}}^2",
        example=({inductance: 1.5e-3, saturation: 4}, 12e-3),
    )
    declare(
        "resistance",
        lambda henry, seconds: henry / seconds,
        "Resistance of the choke, hot; pin it to what was wound.",
        (inductance, f"{prefix}time_constant"),
        unit="Ω",
        symbol=r"R_L",
        source="[judgement] inductance over resistance of chokes of this kind",
        title="Choke resistance",
        tex=rf"\frac{{{{{inductance}}}}}{{{{{prefix}time_constant}}}}",
    )
    declare(
        "core_loss",
        lambda energy, swing, ampere: core_loss * (energy / reference) ** 0.75 * (highest_lasting(swing) / ampere / REFERENCE_SWING) ** 2,
        "Core loss of the choke at its full ripple: by volume, and by the square of the flux's swing in the saturation flux; pin it to what was measured.",
        (f"{prefix}energy", ripple, saturation),
        unit="W",
        symbol=r"P_\mathrm{Fe}",
        source="[judgement] volume by the energy's 0.75th power, loss by the square of the swing",
        title="Choke core loss",
        empirical=True,
        tex=rf"{core_loss:g}\left(\frac{{{{{prefix}energy}}}}{{{reference:g}\,\mathrm{{J}}}}\right)^{{0.75}}\left(\frac{{\max_\mathrm{{lasting}}({{{ripple}}})}}{{{REFERENCE_SWING:g}\,{{{saturation}}}}}\right)^2",
        example=({f"{prefix}energy": 16 * reference, ripple: 1.0, saturation: 1 / REFERENCE_SWING}, 8 * core_loss),
    )
    for name, unit, symbol, title, at_reference, sentence in (
        ("price", "credit", "c_L", "Price of the choke", price, "Price of the choke, wound; pin it to what is asked for."),
        ("mass", "kg", "m_L", "Mass of the choke", mass, "Mass of the choke; pin it to what it weighs."),
    ):
        declare(
            name,
            lambda energy, at=at_reference: at * (energy / reference) ** 0.75,
            sentence,
            (f"{prefix}energy",),
            unit=unit,
            symbol=symbol,
            source=SCALED,
            title=title,
            empirical=True,
            tex=rf"{at_reference:g}\left(\frac{{{{{prefix}energy}}}}{{{reference:g}\,\mathrm{{J}}}}\right)^{{0.75}}",
            example=({f"{prefix}energy": 16 * reference}, 8 * at_reference),
        )
