"""The shipped parts against physics and published tables: an invented part must still be one that could exist."""

import numpy as np
import pytest

from rhombos.catalogue.loader import CatalogueError, load, read_table
from rhombos.core.parts.columns import PART_TYPES
from rhombos.core.parts.table import PLACING, Candidates, PartTable

TABLES = load()


def column(type_: str, name: str) -> np.ndarray:
    return TABLES[type_].columns[name]


@pytest.mark.parametrize(
    ("type_", "least"), [("mosfet", 16), ("rectifier", 8), ("core", 12), ("ferrite", 2), ("wire", 20), ("bulk", 8), ("link", 6), ("film", 10), ("fuse", 8)]
)
def test_there_is_something_to_choose_from(type_, least):
    assert len(TABLES[type_].codes) >= least


@pytest.mark.parametrize("type_", PART_TYPES)
def test_every_number_is_positive_and_every_part_is_described(type_):
    table = TABLES[type_]
    for name, values in table.columns.items():
        assert np.isfinite(values).all(), name
        # A wire is weighed by its length, a material by its core.
        assert (values >= 0).all() if name == "mass" else (values > 0).all(), name
    assert all(text.strip() for text in table.texts["description"])
    assert all(code == code.strip() and " " not in code for code in table.codes)


def test_mosfets_span_the_voltages_of_the_line_ups_and_obey_their_own_curves():
    rated = column("mosfet", "rated_voltage")
    assert rated.min() <= 40
    assert rated.max() >= 650
    assert (column("mosfet", "gate_drain_charge") < 0.6 * column("mosfet", "gate_charge")).all()
    assert (column("mosfet", "pulsed_current") > 2 * column("mosfet", "rated_current")).all()
    plateau = column("mosfet", "threshold_voltage") + column("mosfet", "rated_current") / column("mosfet", "transconductance")
    assert (plateau < 8).all(), "a drive of 10 V must turn every one of them fully on"
    assert (plateau < 0.6 * column("mosfet", "gate_rated_voltage")).all()


def test_mosfet_ratings_fit_their_cases():
    """At a case of 100 °C the rated current must heat the junction to its limit, roughly, and not far beyond it."""
    hot = column("mosfet", "on_resistance") * (1 + column("mosfet", "temperature_coefficient") * (column("mosfet", "maximum_temperature") - 298.15))
    rise = column("mosfet", "rated_current") ** 2 * hot * column("mosfet", "junction_resistance")
    room = column("mosfet", "maximum_temperature") - 373.15
    assert (rise < 1.3 * room).all()
    assert (rise > 0.03 * room).all()


def test_resistance_times_charge_rises_with_the_voltage():
    """Silicon's trade: what blocks more costs more of the product of on-resistance and gate charge."""
    product = column("mosfet", "on_resistance") * column("mosfet", "gate_charge")
    rated = column("mosfet", "rated_voltage")
    low, high = product[rated <= 60], product[rated >= 500]
    assert np.median(high) > 8 * np.median(low)
    correlation = np.corrcoef(np.log(rated), np.log(product))[0, 1]
    assert correlation > 0.85


def test_cores_are_bodies():
    area, length, volume = (column("core", f"effective_{n}") for n in ("area", "length", "volume"))
    np.testing.assert_allclose(volume, area * length, rtol=0.08)
    permeability = column("core", "inductance_factor") * length / (4e-7 * np.pi * area)
    assert ((permeability > 900) & (permeability < 3000)).all(), "ungapped power ferrite"
    assert (column("core", "mean_turn_length") > 2 * np.sqrt(np.pi * area)).all(), "no turn is shorter than a circle round the centre leg"
    assert (column("core", "window_area") < column("core", "winding_breadth") ** 2).all(), "the windows are broader than high"
    density = column("core", "mass") / volume
    assert ((density > 4000) & (density < 6500)).all(), "ferrite weighs 4.8 t/m³, the bobbin a little more"
    assert np.corrcoef(np.log(volume), np.log(column("core", "price")))[0, 1] > 0.9, "more ferrite costs more"


@pytest.mark.parametrize("row", range(len(TABLES["ferrite"].codes)))
def test_ferrites_lose_what_power_ferrites_lose(row):
    """Published classes stand between 50 and 500 kW/m³ at 100 kHz, 100 mT and 100 °C (IEC 61332 sets the points)."""
    k, a, b = (column("ferrite", n)[row] for n in ("steinmetz_coefficient", "frequency_exponent", "flux_exponent"))
    loss = k * 100e3**a * 0.1**b
    assert 30e3 < loss < 600e3
    assert 0.3 < column("ferrite", "saturation_flux")[row] < 0.45


def test_wire_gauges_are_the_series_of_astm_b258():
    table = TABLES["wire"]
    found = 0
    for code, diameter in zip(table.codes, table.columns["diameter"], strict=True):
        if code.startswith("CW-A"):
            number = int(code.removeprefix("CW-A"))
            assert diameter == pytest.approx(0.127e-3 * 92 ** ((36 - number) / 39), rel=0.01), code
            found += 1
    assert found >= 6


def test_enamel_is_thin_and_thinner_on_thin_wire():
    bare, over = column("wire", "diameter"), column("wire", "insulated_diameter")
    enamel = (over - bare) / 2
    assert (enamel > 4e-6).all()
    assert (over < 1.3 * bare).all()
    order = np.argsort(bare)
    assert enamel[order][-1] > 3 * enamel[order][0]


@pytest.mark.parametrize(("type_", "slowest"), [("bulk", 120e-6), ("link", 300e-6), ("film", 6e-6)])
def test_capacitors_have_believable_series_resistances(type_, slowest):
    assert (column(type_, "series_resistance") * column(type_, "capacitance") < slowest).all()
    loss = column(type_, "rated_ripple_current") ** 2 * column(type_, "series_resistance")
    assert (loss < 5).all(), "no can of this size gives off more"


def test_the_link_has_capacitors_of_500_volts():
    assert (column("link", "rated_voltage") >= 500).any()


def test_candidates_stand_cheapest_first_with_their_counts():
    candidates = Candidates(TABLES["mosfet"], (1, 2, 3), pieces=4)
    price = (candidates.columns["price"] * candidates.quantity + PLACING * (candidates.quantity - 1)) * 4
    assert (np.diff(price) >= 0).all()
    assert len(candidates.rows) == 3 * len(TABLES["mosfet"].codes)
    view = candidates.view(2, np.array([5, 0]))
    assert view.on_resistance.shape == (2, 1, 1)
    assert view.quantity[1, 0, 0] == candidates.quantity[0]
    with pytest.raises(AttributeError, match="no column 'colour'"):
        _ = view.colour


@pytest.mark.parametrize("text", ["", "code,description\nX,y\n", "code,description,diameter,insulated_diameter,price,mass,colour\nX,y,1m,1.1m,1,0,red\n"])
def test_a_file_with_other_columns_is_refused_naming_it(text):
    with pytest.raises(CatalogueError, match=r"wire\.csv: columns must be"):
        read_table("wire", "wire.csv", text)


def test_a_part_knows_its_record():
    table = PartTable("toy", ("A", "B"), {"size": np.array([1.0, 2.0])}, {"description": ("small", "big")})
    assert table.record("B") == {"code": "B", "type": "toy", "size": 2.0, "description": "big"}
    with pytest.raises(KeyError):
        table.record("C")


def test_charge_and_capacitance_of_every_gate_agree():
    """Up to the plateau on the input capacitance, across it on the drain's charge; the rest charges the fully-on gate, which holds somewhat more."""
    plateau = column("mosfet", "threshold_voltage") + column("mosfet", "rated_current") / column("mosfet", "transconductance")
    below = column("mosfet", "input_capacitance") * plateau
    above = (column("mosfet", "gate_charge") - below - column("mosfet", "gate_drain_charge")) / (column("mosfet", "charge_voltage") - plateau)
    share = above / column("mosfet", "input_capacitance")
    assert (share > 1.0).all(), "the drain's capacitance adds to the gate's once the switch is on"
    assert (share < 2.5).all()
    assert (column("mosfet", "full_on_voltage") > plateau + 1).all()
    assert (column("mosfet", "full_on_voltage") <= column("mosfet", "charge_voltage")).all()
