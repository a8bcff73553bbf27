"""Design files, the command line, the parts list."""

import csv
import io
import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from typer.testing import CliRunner

from rhombos.cli import app
from rhombos.demo import tern_islet
from rhombos.demo.shelf import DEMOS
from rhombos.formats.build_pack import parts_csv, parts_list
from rhombos.formats.design import DesignError, read_design, schema, write_design
from rhombos.formats.sheet.columns import columns_json
from rhombos.formats.sheet.explain import pick_json
from rhombos.formats.sheet.meta import lineup_json

RUN = CliRunner()


@given(
    st.dictionaries(st.sampled_from(["battery.cells", "load_1.count", "output.thd_limit"]), st.floats(1, 20) | st.floats(0.001, 1), max_size=3),
    st.text(min_size=1, max_size=60),
)
@settings(max_examples=40, deadline=None)
def test_a_design_round_trips_exactly(givens, title):
    design = tern_islet.second().model_copy(
        update={"title": title, "givens": {**tern_islet.second().givens, **{k: v for k, v in givens.items() if k == "battery.cells" or v <= 1}}}
    )
    try:
        text = write_design(design)
        again = read_design(text)
    except (DesignError, UnicodeEncodeError):
        return
    assert again == design
    assert write_design(again) == text


@pytest.mark.parametrize(
    ("spoil", "where"),
    [
        (lambda d: d.pop("title"), "title"),
        (lambda d: d.update(version=2), "version"),
        (lambda d: d.update(extra=1), "extra"),
        (lambda d: d.update(lineup="steam"), "lineup"),
        (lambda d: d["givens"].update({"battery.cells": -3}), "battery.cells"),
        (lambda d: d["givens"].update({"Battery": 3}), "givens"),
        (lambda d: d["pins"].update({"transformer.primary_turns": {}}), "a pin holds"),
        (lambda d: d["choices"].update({"battery.chemistry": "salt"}), "battery.chemistry"),
        (lambda d: d.update(loads=[]), "load row"),
        (lambda d: d["givens"].update({"battery.sells": 8.0}), "battery.sells"),
        (lambda d: d["loads"].append({"place": "front", "title": "x"}), "is the name of what every line-up has"),
        (lambda d: d["pins"].update({"transformer.core": {"part": "XX99"}}), "XX99"),
    ],
)
def test_bad_files_are_refused_with_the_path_at_fault(spoil, where):
    raw = json.loads(write_design(tern_islet.first()))
    spoil(raw)
    with pytest.raises(DesignError) as error:
        read_design(json.dumps(raw))
    assert where in str(error.value)


def test_broken_json_names_the_line():
    with pytest.raises(DesignError, match="line 2"):
        read_design('{\n "title": ,\n}')
    with pytest.raises(DesignError, match="NaN"):
        read_design('{"title": "x", "givens": {"battery.cells": NaN}}')


def test_the_published_schema_is_the_one_in_the_docs():
    with open("docs/design.schema.json", encoding="utf-8") as f:
        assert json.load(f) == schema()


def test_a_sheet_as_json_has_no_nan_and_says_why_a_value_is_missing():
    design = tern_islet.first()
    model = design.model()
    meta, sheet = lineup_json(model), model.solve(design.inputs())
    out = columns_json(model, sheet, "totals")
    json.dumps([meta, out], allow_nan=False)
    assert len(out["values"]) == len(meta["order"])
    assert out["values"][meta["order"].index("totals.efficiency")][5] is None
    assert "without load" in out["open"]["notes"]["totals.efficiency"]["does_not_apply"]["nominal_none"]
    keys = [p["key"] for p in meta["picks"]]
    assert set(out["picks"][keys.index("front.switch")]) == {"part", "quantity", "fits", "pinned"}
    told = pick_json(model, sheet, "front.switch")
    assert told["runners_up"][0]["need"]
    checks = [c["key"] for c in meta["checks"]]
    assert out["checks"][checks.index("transformer.flux")]["verdict"] == "holds"


def test_the_parts_list_adds_up_and_its_csv_is_harmless():
    design = tern_islet.first()
    model = design.model()
    rows = parts_list(model, model.solve(design.inputs()))
    for row in rows:
        if row["price"] is not None:
            assert row["total"] == pytest.approx(row["price"] * row["quantity"])
    assert [r["quantity"] for r in rows if r["what"] == "Diode"] == [4]
    back = list(csv.DictReader(io.StringIO(parts_csv([*rows, {**rows[0], "part": "=HYPERLINK(1)"}]))))
    assert len(back) == len(rows) + 1
    assert back[-1]["part"].startswith("'=")


def test_solve_on_the_command_line(tmp_path):
    file = tmp_path / "d.json"
    written = RUN.invoke(app, ["demo", "tern-islet"])
    file.write_text(written.stdout, encoding="utf-8")
    answer = json.loads(RUN.invoke(app, ["solve", str(file), "--json"]).stdout)
    assert len(answer["figures"]["battery.terminal_voltage"]["values"]) == 11
    assert answer["figures"]["battery.terminal_voltage"]["unit"] == "V"
    assert {c["verdict"] for c in answer["checks"].values()} == {"holds"}
    text = RUN.invoke(app, ["solve", str(file)]).stdout
    assert "transformer.primary_turns" in text
    assert "holds    transformer.flux" in text


def test_the_command_line_refuses_and_says_why(tmp_path):
    bad = tmp_path / "bad.json"
    bad.write_text('{"format": "rhombos-design"}', encoding="utf-8")
    for words, match in (
        (["solve", str(bad)], "title"),
        (["solve", str(tmp_path / "none.json")], "No such file"),
        (["demo", "atlantis"], "no demo"),
        (["work", "nothing.time_constant"], "no stage"),
        (["work", "precharge.time_constant", "current_limit=5000"], "is outside"),
        (["work", "precharge.time_constant", "oops"], "not name=value"),
    ):
        result = RUN.invoke(app, words)
        assert result.exit_code == 2
        assert match in result.output


def test_figures_and_demos_are_listed():
    rows = json.loads(RUN.invoke(app, ["figures", "--json"]).stdout)
    flux = next(r for r in rows if r["stage"] == "transformer" and r["name"] == "peak_flux")
    assert flux["unit"] == "T"
    assert flux["source"]
    assert "driven_voltage" in flux["needs"]
    assert {r["name"] for r in json.loads(RUN.invoke(app, ["demo", "--json"]).stdout)} == set(DEMOS)
    worked = json.loads(RUN.invoke(app, ["work", "precharge.time_constant", "precharge_resistor=4k7", "bank_capacitance=100u", "--json"]).stdout)
    assert worked["values"] == [pytest.approx(0.47)]


def test_a_design_of_earlier_days_opens_with_what_was_typed():
    """Givens that stand elsewhere, or are figures now, or are read by nothing: none is lost in silence, none is refused."""
    old = json.loads(write_design(tern_islet.first()))
    old["givens"] |= {"front.ambient_temperature": 308.15, "rectifier.choke_resistance": 0.21, "transformer.ac_allowance": 1.4, "bootstrap.low_side_drop": 0.4}
    old["givens"].pop("output.ambient_temperature", None)
    design = read_design(json.dumps(old))
    assert design.givens["output.ambient_temperature"] == 308.15
    assert {k: design.pins[k].value for k in ("rectifier.choke_resistance", "bridge.low_side_drop")} == {
        "rectifier.choke_resistance": 0.21,
        "bridge.low_side_drop": 0.4,
    }
    assert not {"front.ambient_temperature", "transformer.ac_allowance", "bootstrap.low_side_drop"} & set(design.givens)
    sheet = design.model().solve(design.inputs())
    assert sheet.value("rectifier.choke_resistance")[0] == 0.21
    assert read_design(write_design(design)) == design
    old["givens"] = {"bootstrap.gate_pull_down": 22e3}
    assert read_design(json.dumps(old)).givens == {"bridge_gates.pull_down": 22e3}
    alone = {k: old[k] for k in ("format", "version", "title", "givens")} | {"lineup": "bootstrap_alone"}
    assert read_design(json.dumps(alone)).givens == {"outside.pull_down": 22e3}, "alone it is read from outside"
