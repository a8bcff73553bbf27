"""Compiled code kept between runs: found again, never trusted when damaged, never mistaken for another formula's."""

from pathlib import Path

import numpy as np
import pytest

from rhombos.core.graph.compiled.machine import MACHINE, Fact, Key, Machine
from rhombos.core.stages.front import clamp
from rhombos.formats.kept_code import MOST_FILES, KeptCode, folder, name_of

FACTS = [Fact([0, 2], 1, [1]), None]
CODE = b"\x7fELF\nnot really"
FORMULAS: list[Key] = [(f.fn, len(f.params)) for f in clamp.clamp.figures.values() if f.fn is not None]


@pytest.fixture(name="keeper")
def _keeper(tmp_path: Path) -> KeptCode:
    return KeptCode(tmp_path / "code")


def files(keeper: KeptCode) -> list[Path]:
    return sorted(keeper.where.iterdir()) if keeper.where.exists() else []


def test_what_was_kept_is_found_again(keeper):
    assert keeper.load(FORMULAS, "here") is None
    keeper.save(FORMULAS, "here", (CODE, FACTS))
    assert keeper.load(FORMULAS, "here") == (CODE, FACTS)
    assert keeper.load(FORMULAS, "another processor") is None
    assert keeper.load(FORMULAS[1:], "here") is None
    assert keeper.load([(fn, count + 1) for fn, count in FORMULAS], "here") is None


@pytest.mark.parametrize("harm", [lambda b: b[:-1], lambda b: b"", lambda b: b.replace(b"ELF", b"ELG"), lambda b: b"{}\n" + b, lambda b: b"[1]\nx"])
def test_a_damaged_file_is_as_good_as_none(keeper, harm):
    keeper.save(FORMULAS, "here", (CODE, FACTS))
    (path,) = files(keeper)
    path.write_bytes(harm(path.read_bytes()))
    assert keeper.load(FORMULAS, "here") is None


def test_a_folder_that_cannot_be_written_costs_nothing_else(tmp_path):
    (tmp_path / "taken").write_text("a file where the folder should be")
    keeper = KeptCode(tmp_path / "taken" / "code")
    keeper.save(FORMULAS, "here", (CODE, FACTS))
    assert keeper.load(FORMULAS, "here") is None


def test_the_oldest_go_when_there_are_many(keeper):
    for k in range(MOST_FILES + 5):
        keeper.save(FORMULAS, f"host {k}", (CODE, FACTS))
    assert len(files(keeper)) == MOST_FILES
    assert keeper.load(FORMULAS, f"host {MOST_FILES + 4}") is not None


def test_a_formula_from_elsewhere_or_over_arrays_has_no_name(keeper):
    table = np.array([1.0, 2.0])

    def from_a_test(x):
        return x * table[0]

    assert name_of([(from_a_test, 1)], "here") is None
    keeper.save([(from_a_test, 1)], "here", (CODE, FACTS))
    assert files(keeper) == []


def test_what_a_formula_closes_over_is_part_of_its_name():
    names = {}
    for side in ("primary", "secondary"):
        fn = clamp_like(side)
        names[side] = name_of([(fn, len(fn.__code__.co_varnames[: fn.__code__.co_argcount]))], "here")
    assert None not in names.values()
    assert names["primary"] != names["secondary"]


def clamp_like(side: str):
    from rhombos.core.stages.magnetics.transformer import transformer

    return transformer.figures[f"{side}_ac_factor"].fn


def test_a_second_machine_runs_the_kept_code_without_compiling(keeper, monkeypatch):
    def double(machine: Machine) -> Machine:
        machine.keeper = keeper
        return machine

    first, second = double(Machine()), double(Machine())
    codes = first.compile(FORMULAS)
    assert len(files(keeper)) == 1
    monkeypatch.setattr("rhombos.core.graph.compiled.machine._written", lambda formulas: pytest.fail("compiled again"))
    again = second.compile(FORMULAS)
    assert [c is None for c in codes.values()] == [c is None for c in again.values()]
    for key, code in again.items():
        if code is not None:
            assert code.address
            assert code.unreduced == codes[key].unreduced
    assert MACHINE is not second


def test_the_folder_can_be_named(monkeypatch, tmp_path):
    monkeypatch.setenv("RHOMBOS_CACHE", str(tmp_path / "here"))
    assert folder() == tmp_path / "here"
    monkeypatch.delenv("RHOMBOS_CACHE")
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    assert folder() == tmp_path / "rhombos"
