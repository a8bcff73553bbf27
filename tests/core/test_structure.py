"""What every line-up must be, read off its wiring: power carried on, losses counted, judgements about like things."""

import itertools
import re

import pytest

from rhombos.core.graph.errors import WiringError
from rhombos.core.graph.telling import telling
from rhombos.core.lineups import STAGES, TITLES
from rhombos.core.suitability import SUITABILITY, WAVEFORMS
from rhombos.core.vocabulary import VOCABULARY
from rhombos.formats.design import of_sample


@pytest.fixture(scope="module", name="wiring", params=list(TITLES))
def _wiring(request):
    return of_sample(request.param).model().wiring


def readers(wiring, key):
    return {wiring.nodes[i].key for i in wiring.children[wiring.index[key]]}


def test_every_stage_of_the_path_hands_its_power_to_the_one_before(wiring):
    path = wiring.path()
    for place, following in itertools.pairwise(path):
        if place.stage.name == "battery":
            assert f"{following.name}.input_power" in wiring.index
            continue
        node = wiring.nodes[wiring.index[f"{place.name}.input_power"]]
        # By way of figures of its own, where not all of it is handed on at once.
        own = [a for a in node.args if wiring.nodes[a].place == place.name]
        given = {wiring.nodes[a].key for i in (node.index, *own) for a in wiring.nodes[i].args}
        assert f"{following.name}.input_power" in given, f"{place.name} does not draw what {following.name} draws"
        assert any(".every_loss" in wiring.nodes[a].key for a in node.args), f"{place.name} adds no losses"


def test_every_loss_is_counted_once_in_its_host_and_once_in_the_whole(wiring):
    losses = [n for n in wiring.nodes if n.figure.name == "loss"]
    assert len(losses) >= len(wiring.lineup.path)
    for node in losses:
        place = wiring.lineup.place(node.place)
        collectors = [k for k in readers(wiring, node.key) if ".every_loss" in k]
        assert [k for k in collectors if k.endswith("every_loss_line_up")], f"{node.key} is missing in the whole"
        if place.stage.name in ("battery", "output", "load") or place.host == "battery":
            continue  # what hangs on the pack draws beside the converter
        hosts = [k for k in collectors if k.endswith("every_loss_host")]
        assert len(hosts) == 1, f"{node.key} is counted by {hosts}"
        assert hosts[0].split(".")[0] == place.draws_at


def test_checks_compare_like_with_like(wiring):
    for check in wiring.checks:
        demand, capability = (wiring.nodes[i].figure.unit for i in (check.demand, check.capability))
        assert demand == capability, f"{check.key}: {demand or '1'} against {capability or '1'}"
        for level in (check.fail, check.hold):
            if not isinstance(level, float):
                assert wiring.nodes[level].figure.unit == "", f"{check.key}: a level is a pure number"
            else:
                assert 0.1 <= level <= 5
        if isinstance(check.fail, float) and isinstance(check.hold, float):
            assert check.fail <= check.hold, f"{check.key} would hold before it stops failing"


def test_remedies_name_what_can_be_moved(wiring):
    for check in wiring.checks:
        place = wiring.lineup.place(check.place)
        for move in check.check.remedies:
            try:
                node = wiring.nodes[wiring.resolve(place, move.figure)]
            except WiringError:
                continue  # a template shared with the other front end
            assert node.figure.kind in ("given", "build", "published"), f"{check.key} would move {node.key}, which follows from others"
            assert move.reach > 1


def test_what_people_can_be_hurt_by_is_said_to_them(wiring):
    dangerous = {check.place for check in wiring.checks if check.check.harm == "people"}
    assert dangerous, "a link of hundreds of volts harms people"
    for place in wiring.lineup.places:
        if place.section == "link" and place.stage.path:
            assert place.stage.hazards, f"{place.name} stands on the link and says nothing of it"


def test_the_telling_words_name_what_the_line_up_has(wiring):
    choices = {f"{place.name}.{name}" for place in wiring.lineup.places for name in place.stage.choices}
    for place in wiring.lineup.places:
        told = telling(wiring, place)
        assert place.stage.telling or place.section == "whole", place.name
        for key in re.findall(r"\{(.*?)\}", told):
            assert key in wiring.index or key in choices, f"{place.name} tells {key}"
        assert re.sub(r"\{.*?\}", "", told) == re.sub(r"\{.*?\}", "", place.stage.telling)


def test_telling_words_may_name_what_an_attachment_makes(wiring):
    others = set()
    choices = {f"{place.name}.{name}" for place in wiring.lineup.places for name in place.stage.choices}
    for place in wiring.lineup.places:
        named = re.findall(r"\{([\w.]+)\}", telling(wiring, place))
        assert set(named) <= wiring.index.keys() | choices, place.name
        others |= {name for name in named if not name.startswith(f"{place.name}.")}
    assert "oscillator.switching_frequency" in others or "switching_frequency" not in wiring.lineup.place("front").stage.telling


@pytest.mark.parametrize("name", STAGES)
def test_givens_start_within_their_own_range_and_say_what_they_are(name):
    for figure in STAGES[name].figures.values():
        if figure.kind != "given":
            continue
        assert isinstance(figure.default, float)
        assert figure.low is None or figure.default >= figure.low, figure.name
        assert figure.high is None or figure.default <= figure.high, figure.name
        assert figure.symbol, figure.name
        assert figure.sentence.endswith((".", ")")), figure.name


@pytest.mark.parametrize("name", STAGES)
def test_formulas_are_whole_tex(name):
    for figure in STAGES[name].figures.values():
        tex = figure.tex
        assert tex.count("{") == tex.count("}"), figure.name
        assert tex.count(r"\left") == tex.count(r"\right"), figure.name
        depth = 0
        for mark in re.findall(r"[{}]", tex):
            depth += 1 if mark == "{" else -1
            assert depth >= 0, f"{figure.name} closes what it has not opened"
        for word in re.findall(r"\\([A-Za-z]+)", tex.replace(r"\\", " ")):
            assert word in KNOWN_TEX, f"{figure.name} writes \\{word}"


KNOWN_TEX = {
    *("frac", "tfrac", "sqrt", "left", "right", "max", "min", "text", "mathrm", "hat", "cdot", "sum", "int", "quad", "circ", "ln", "exp", "log"),
    *(
        "sin",
        "cos",
        "tan",
        "arctan",
        "arctanh",
        "lceil",
        "rceil",
        "lfloor",
        "rfloor",
        "pm",
        "le",
        "ge",
        "approx",
        "mid",
        "overline",
        "operatorname",
        "angle",
        "begin",
        "end",
        "Big",
        "big",
        "cases",
        "dfrac",
        "uparrow",
        "downarrow",
        "infty",
        "zeta",
        "kappa",
    ),
    *(
        "pi",
        "tau",
        "rho",
        "Delta",
        "delta",
        "theta",
        "lambda",
        "sigma",
        "eta",
        "xi",
        "mu",
        "Phi",
        "Omega",
        "phi",
        "varphi",
        "omega",
        "Gamma",
        "epsilon",
        "alpha",
        "beta",
    ),
}


@pytest.mark.parametrize("name", STAGES)
def test_decisions_name_a_safe_side_or_say_that_they_are_decided(name):
    for figure in STAGES[name].figures.values():
        if figure.kind == "build" and figure.safe is not None:
            assert figure.decided, f"{figure.name} has a safe side, so a held sheet keeps it"
        if figure.kind == "operation":
            assert figure.safe is None
            assert not figure.decided


def test_every_name_that_crosses_stages_has_a_sentence_and_a_sensible_value_alone():
    for name, word in VOCABULARY.items():
        assert word.sentence, name
        assert re.fullmatch(r"[a-z][a-z0-9_]*", name)
        if word.alone is not None:
            assert word.alone == word.alone


def test_every_kind_of_load_is_judged_on_every_waveform():
    kinds = STAGES["load"].choices["type"].options if "type" in STAGES["load"].choices else next(iter(STAGES["load"].choices.values())).options
    assert set(SUITABILITY) == set(kinds)
    for kind, judged in SUITABILITY.items():
        assert tuple(judged) == WAVEFORMS, kind
        assert judged["sine"].verdict == "holds", "the sine is what the grid gives"
        assert all(s.words for s in judged.values())
        assert judged["DC link"].verdict != "holds" or "," in judged["DC link"].words, f"{kind}: DC is never without a condition"


@pytest.mark.parametrize("id", TITLES)
def test_what_is_decided_once_leads_back_to_nothing_and_comes_after_all_it_reads(id):
    design = of_sample(id)
    model = design.model()
    plan = model.plan(frozenset())
    behind, repeated = set(plan.behind), {*plan.moving, *(i for item in plan.items if item.tears for i in item.nodes)}
    assert behind & plan.decided, "some decisions are"
    assert not behind & repeated

    def reads(i: int) -> set[int]:
        return {*plan.args[i], *(plan.cones[i].inputs if i in plan.cones else ())}

    assert not any(reads(i) & behind for i in repeated)
    seen: set[int] = set()
    for i in plan.behind:
        assert not reads(i) & behind - seen, model.wiring.nodes[i].key
        seen.add(i)
