"""Figures over a given as comma-separated values: held, sized anew, and what is refused."""

import csv
from io import StringIO

import numpy as np
import pytest
from typer.testing import CliRunner

from rhombos.cli import app
from rhombos.demo import tern_islet
from rhombos.formats.design import write_design

RUN = CliRunner()
GIVEN = "load_3.rated_power"


@pytest.fixture(scope="module", name="file")
def _file(tmp_path_factory):
    path = tmp_path_factory.mktemp("curve") / "tern.json"
    path.write_text(write_design(tern_islet.first()), encoding="utf-8")
    return str(path)


def told(*words):
    done = RUN.invoke(app, ["sweep", *words])
    assert done.exit_code == 0, done.output
    head, *rows = csv.reader(StringIO(done.stdout))
    return head, np.array([[float(cell or "nan") for cell in row] for row in rows])


@pytest.mark.parametrize("resized", [False, True])
def test_a_curve_is_what_sheets_say_one_by_one(file, resized):
    design = tern_islet.first()
    model, inputs = design.model(), design.inputs()
    sheet = model.solve(inputs)
    words = ["--figure", "totals.efficiency", "--figure", "totals.total_cost", "--corner", "nominal_full", "--corner", "highest_surge"]
    head, rows = told(file, GIVEN, "250 W", "0.4k", "--count", "3", *words, *(["--resized"] if resized else []))
    assert head == [f"{GIVEN} [W]", "totals.efficiency [] nominal_full", "totals.efficiency [] highest_surge", "totals.total_cost [credit]"]
    for watts, nominal, surge, cost in rows:
        alone = model.solve(inputs.with_given(GIVEN, watts), build=None if resized else model.build_of(sheet))
        assert nominal == pytest.approx(alone.at("totals.efficiency", "nominal_full"), rel=1e-6)
        assert surge == pytest.approx(alone.at("totals.efficiency", "highest_surge"), rel=1e-6)
        assert cost == pytest.approx(alone.value("totals.total_cost")[0], rel=1e-6)
    assert rows[:, 0].tolist() == [250.0, 325.0, 400.0]
    assert (np.ptp(rows[:, 3]) > 0) == resized, "a build that is held costs what it costs"


def test_what_is_not_known_is_left_empty_and_without_names_all_that_moves_is_told(file):
    head, rows = told(file, GIVEN, "300", "9000", "--count", "4", "--corner", "lowest_full")
    assert len(head) > 200
    column = head.index("totals.efficiency [] lowest_full")
    assert np.isfinite(rows[0, column])
    assert np.isnan(rows[-1, column])


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ((GIVEN, "2x", "4"), "'x' is not a unit"),
        ((GIVEN, "2", "4e9"), "is outside 0 W to 20 kW"),
        (("load_3.rated_pow", "2", "4"), "'load_3.rated_pow' is no figure of this line-up"),
        (("totals.efficiency", "0.2", "0.4"), "(totals.efficiency) is no given"),
        ((GIVEN, "200", "400", "--corner", "noon"), "there is no corner 'noon'; there are lowest_full"),
        ((GIVEN, "200", "400", "--figure", "front.colour"), "'front.colour' is no figure"),
    ],
)
def test_what_cannot_be_told_is_refused_before_anything_is(file, words, said):
    done = RUN.invoke(app, ["sweep", file, *words])
    assert done.exit_code == 2
    assert said in done.stderr
    assert done.stdout == ""


def test_what_moves_nothing_is_said_to_and_sized_anew_all_that_is_worked_out_is_told(file):
    done = RUN.invoke(app, ["sweep", file, "precharge.wanted_time", "1", "2"])
    assert (done.exit_code, done.stdout) == (2, "")
    assert "nothing hangs on" in done.stderr
    head, rows = told(file, GIVEN, "250", "400", "--count", "2", "--corner", "nominal_full", "--resized")
    assert any(cell.startswith("link.link_setpoint") for cell in head)
    assert len(head) > 800
    assert rows.shape == (2, len(head))
