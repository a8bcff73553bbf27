"""Tern Islet field station: 24 V LiFePO4 to 230 V 50 Hz sine for a sample freezer, laptops and lamps."""

from rhombos.formats.design import Design, PinnedValue, of_sample


def first() -> Design:
    """The first revision: holds everywhere."""
    return of_sample("ferrite_push_pull_link_bridge")


def second() -> Design:
    """The second revision: two turns of foil and a smaller precharge resistor at hand, and a second freezer."""
    base = first()
    return base.model_copy(
        update={
            "givens": {**base.givens, "load_1.count": 2.0},
            "pins": {
                **base.pins,
                "transformer.primary_turns": PinnedValue(value=2.0, reason="the foil at hand makes two turns"),
                "precharge.resistor_pulse_energy": PinnedValue(value=130.0, reason="the resistor at hand"),
            },
        }
    )
