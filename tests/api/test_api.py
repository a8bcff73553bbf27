"""The HTTP interface over a real database."""

import json
from concurrent.futures import ThreadPoolExecutor

import pytest
from fastapi.testclient import TestClient

from rhombos.api.guard import BODY_LIMIT
from rhombos.api.service import Sheets
from rhombos.core.graph.errors import InputError, Unknown
from rhombos.core.graph.pictures import Seen
from rhombos.demo import tern_islet
from rhombos.formats.design import Design, write_design

DESIGN = json.loads(write_design(tern_islet.first()))
SECOND = json.loads(write_design(tern_islet.second()))


def fresh(client: TestClient, title: str = "Bench test") -> int:
    answer = client.post("/api/projects", json={"title": title, "design": DESIGN})
    assert answer.status_code == 201
    return answer.json()["id"]


def test_health_names_version_and_database(client):
    assert client.get("/api/health").json() == {"name": "rhombos", "version": "0.1.0", "database": "up"}


def test_the_demo_is_on_the_shelf_with_its_revisions_and_decision(client):
    shelf = client.get("/api/projects").json()
    demo = next(p for p in shelf if p["title"] == "Tern Islet field station")
    project = client.get(f"/api/projects/{demo['id']}").json()
    assert [r["number"] for r in project["revisions"]] == [3, 2, 1]
    assert project["decisions"][0]["title"] == "Push-pull front end"
    assert project["draft"]["design"]["parts"]["transformer.core"]["code"]
    assert project["catalogue_changes"] == []


@pytest.mark.parametrize("host", ["evil.example", "10.0.0.1:8765", "", "127.0.0.1.evil.example"])
def test_a_foreign_host_is_refused(client, host):
    assert 400 <= client.get("/api/health", headers={"host": host}).status_code < 500


@pytest.mark.parametrize(
    ("origin", "status"),
    [("http://evil.example", 403), ("null", 403), ("http://127.0.0.1:9999", 403), ("https://127.0.0.1:8765", 403), ("http://127.0.0.1:8765", 200)],
)
def test_a_foreign_origin_is_refused(client, origin, status):
    assert client.get("/api/health", headers={"origin": origin}).status_code == status


def test_a_large_body_is_refused_declared_or_not(client):
    assert client.post("/api/solve", content=b"x" * (BODY_LIMIT + 1)).status_code == 413

    def stream():
        for _ in range(40):
            yield b"x" * 60_000

    assert client.post("/api/solve", content=stream()).status_code == 413


def test_every_answer_carries_the_policy(client):
    for path in ("/", "/api/health", "/api/nothing", "/project/1/stages/link"):
        headers = client.get(path).headers
        assert "default-src 'none'" in headers["content-security-policy"]
        assert "unsafe" not in headers["content-security-policy"]
        assert headers["x-content-type-options"] == "nosniff"


def test_the_page_does_not_leave_its_folder(client):
    for path in ("/../pyproject.toml", "/assets/../../package.json", "/%2e%2e/package.json"):
        answer = client.get(path)
        assert answer.status_code == 404 or '<div id="root">' in answer.text
    assert client.get("/api/nothing").status_code == 404


def test_solve_answers_figures_picks_and_checks(client):
    sheet, meta = solved(client, DESIGN)
    assert len(meta["corners"]) == 11
    assert meta["corners"][meta["first"]]["id"] == "nominal_full"
    assert sheet["values"][meta["order"].index("battery.terminal_voltage")][2] == pytest.approx(25.7, abs=0.3)
    assert {c["verdict"] for c in sheet["checks"]} == {"holds"}
    assert (len(sheet["checks"]), len(sheet["picks"]), len(sheet["values"])) == (len(meta["checks"]), len(meta["picks"]), len(meta["order"]))


def solved(client, design):
    """The sheet of a design, and the line-up that its columns follow."""
    loads = ",".join(load["place"] for load in design["loads"])
    return client.post("/api/solve", json={"design": design}).json(), client.get(f"/api/lineups/{design['lineup']}", params={"loads": loads}).json()


def test_stages_are_kept_by_their_hash(client):
    meta = client.get("/api/lineups/ferrite_push_pull_link_bridge").json()
    now = client.get(f"/api/stages/{meta['stages']}")
    assert "immutable" in now.headers["cache-control"]
    assert {p["stage"] for p in meta["places"]} <= set(now.json()["stages"])
    assert now.json()["hash"] == meta["stages"]
    old = client.get("/api/stages/0123456789abcdef")
    assert old.headers["cache-control"] == "no-store", "an older text is not kept under a name that is not its own"


def test_words_come_for_the_open_place_only(client):
    far = {**DESIGN, "givens": {**DESIGN["givens"], "load_3.rated_power": 20000.0}}
    sheet = client.post("/api/solve", json={"design": far, "place": "battery"}).json()
    assert sheet["open"]["name"] == "battery"
    assert "cannot deliver" in sheet["open"]["notes"]["battery.terminal_voltage"]["unknown"]["lowest_full"]
    assert all(key.startswith("battery.") for key in (*sheet["open"]["notes"], *sheet["open"]["sentences"]))
    assert client.post("/api/solve", json={"design": far}).json()["open"] is None
    assert client.post("/api/solve", json={"design": far, "place": "flywheel"}).status_code == 422


def test_the_questions_of_one_edit_solve_once(client):
    """Five at once for the same design: one is solved, the others wait for it."""
    sheets = Sheets()
    design = Design.model_validate({**DESIGN, "givens": {**DESIGN["givens"], "load_3.rated_power": 371.5}})
    with ThreadPoolExecutor(5) as pool:
        found = list(pool.map(lambda _: sheets.solve(design), range(5)))
    assert sheets.solved == 1
    assert all(f is found[0] for f in found)
    wrong = design.model_copy(update={"givens": {"battery.cells": 0.0}})
    for _ in range(2):
        with pytest.raises(InputError):
            sheets.solve(wrong)


def test_a_circuit_that_is_probed_again_runs_once(client):
    """Another node, volts and amperes of everything: of the run that stands; another corner, another run; a look that is not there keeps nothing."""
    sheets = Sheets()
    design = Design.model_validate(DESIGN)
    model, sheet = sheets.solve(design)
    place = model.wiring.lineup.place("rectifier")
    look = place.stage.looks[0].title
    runs = [sheets.look(design, Seen(model, sheet, place, corner), look) for corner in (2, 2, 3, 2)]
    assert sheets.run == 2
    assert runs[0] is runs[1] is runs[3]
    assert runs[2] is not runs[0]
    with pytest.raises(Unknown):
        sheets.look(design, Seen(model, sheet, place, 2), "At night")
    assert sheets.run == 2


def test_more_load_moves_parts_and_verdicts(client):
    before, meta = solved(client, DESIGN)
    after, _ = solved(client, {**DESIGN, "givens": {**DESIGN["givens"], "load_3.rated_power": 1500.0}})
    assert after["values"][meta["order"].index("output.rated_active_power")] == pytest.approx(800 + 1130)
    moved = [p["key"] for p, a, b in zip(meta["picks"], before["picks"], after["picks"], strict=True) if a != b]
    assert {"input.fuse", "link.capacitor"} <= set(moved)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"givens": {"battery.cells": 0.0}}, "battery.cells"),
        ({"givens": {"nothing": 1.0}}, "givens"),
        ({"lineup": "steam"}, "lineup"),
        ({"choices": {"battery.chemistry": "salt"}}, "battery.chemistry"),
        ({"colour": 1}, "colour"),
        ({"givens": {"battery.sells": 8.0}}, "battery.sells"),
        ({"pins": {"transformer.primary_turn": {"value": 3.0}}}, "transformer.primary_turn"),
        ({"loads": [{"place": "battery", "title": "x"}], "givens": {}, "choices": {}, "pins": {}}, "loads"),
        ({"pins": {"transformer.core": {"part": "XX", "quantity": 1}}}, "transformer.core"),
    ],
)
def test_field_errors_name_the_field_what_was_given_and_what_is_allowed(client, change, field):
    answer = client.post("/api/solve", json={"design": {**DESIGN, **change}})
    assert answer.status_code == 422
    body = answer.json()
    assert any(field in str(f["field"]) or field in str(f["allowed"]) for f in body["fields"]), body
    assert all("allowed" in f and "given" in f for f in body["fields"])


def test_questions_about_a_figure(client):
    ask = {"design": DESIGN, "key": "transformer.peak_flux", "corner": "lowest_surge"}
    why = client.post("/api/why", json=ask).json()
    assert why["corner"] == "lowest_surge"
    assert {n["key"] for n in why["comes_from"]} >= {"battery.terminal_voltage", "transformer.primary_turns"}
    assert any(b["key"] == "oscillator.wanted_frequency" or b["held"] for b in client.post("/api/sensitivity", json=ask).json())
    sought = client.post(
        "/api/seek",
        json={"design": DESIGN, "key": "precharge.precharge_time", "corner": "nominal_full", "wanted": "480 ms", "move": "precharge.usual_closing_fraction"},
    ).json()
    assert sought["exact"]
    assert client.post("/api/why", json={**ask, "key": "no.such"}).status_code == 422
    for question in ("why", "sensitivity"):
        picked = client.post(f"/api/{question}", json={**ask, "key": "front.switch"})
        assert (picked.status_code, picked.json()["fields"][0]["field"]) == (422, "key"), "a part has no formula"
    assert client.post("/api/why", json={**ask, "corner": "noon"}).status_code == 422
    assert (
        client.post(
            "/api/seek",
            json={"design": DESIGN, "key": "precharge.precharge_time", "corner": "nominal_full", "wanted": "soon", "move": "precharge.usual_closing_fraction"},
        ).json()["error"]
        == "quantity"
    )


def test_remedies_curves_comparison_and_build(client):
    remedies = client.post("/api/remedies", json={"design": SECOND}).json()
    assert any(r["check"] == "transformer.flux" and r["sentence"] for r in remedies)
    for place in ("transformer", "precharge", "battery"):
        mine = client.post("/api/remedies", json={"design": SECOND, "place": place}).json()
        assert mine == [r for r in remedies if r["check"].startswith(f"{place}.")], place
    lost = client.post("/api/remedies", json={"design": SECOND, "place": "flywheel"})
    assert (lost.status_code, lost.json()["fields"][0]["field"]) == (422, "place")
    (losses, curves) = client.post("/api/pictures", json={"design": DESIGN, "place": "totals", "corner": "nominal_full"}).json()
    assert [s["name"] for s in curves["series"]] == ["lowest source", "nominal source", "highest source"]
    assert losses["bars"][0]["end"] == max(b["end"] for b in losses["bars"]), "the greatest loss stands first"
    compared = client.post("/api/compare", json={"design": DESIGN}).json()
    volts = next(r["numbers"] for r in compared["rows"] if r["title"] == "Front: static switch voltage")
    assert volts["ferrite_push_pull_link_bridge"][0] == pytest.approx(2 * volts["ferrite_bridge_link_bridge"][0], rel=1e-6), "the bridge halves the voltage"
    pack = client.post("/api/build", json={"design": DESIGN}).json()
    (card,) = pack["windings"]
    assert card["order"][0]["turns"] == card["order"][2]["turns"]
    assert pack["csv"].count("\n") == len(pack["parts"]) + 1


def test_scope_is_reduced_to_the_pixels_asked_for(client):
    seen = client.post("/api/scope", json={"design": DESIGN, "corner": "nominal_full", "pixels": 300}).json()
    assert len(seen["traces"]["output"]["v"]) <= 600
    assert seen["meters"]["output"]["true_rms"] == pytest.approx(230, rel=0.01)
    assert 1600 <= seen["edges"] < 1700, "two legs turn twice in each of 400 carrier periods; where a dead time holds a leg between, once more"
    bipolar = client.post("/api/scope", json={"design": DESIGN, "corner": "nominal_full", "modulation": "bipolar"}).json()
    assert bipolar["residue"] > seen["residue"]
    assert client.post("/api/scope", json={"design": DESIGN, "corner": "nominal_full", "pixels": 10}).status_code == 422


def test_a_stage_alone_and_quantities(client):
    stages = client.get("/api/stages").json()
    assert any(s["name"] == "bootstrap" for s in stages)
    alone = {
        "title": "A resistor",
        "lineup": "precharge_alone",
        "givens": {"outside.bank_capacitance": 100e-6},
        "pins": {"precharge.precharge_resistor": {"value": 4700}},
    }
    meta = client.get("/api/lineups/precharge_alone?loads=").json()
    values = client.post("/api/solve", json={"design": alone, "place": "precharge"}).json()["values"]
    assert values[meta["order"].index("precharge.time_constant")] == pytest.approx(0.47)
    assert client.post("/api/solve", json={"design": {**alone, "lineup": "nothing_alone"}}).status_code == 422
    assert client.post("/api/parse", json={"text": "3,3 mH", "unit": "H"}).json()["value"] == pytest.approx(3.3e-3)
    assert "decimal or thousands" in client.post("/api/parse", json={"text": "1,234", "unit": "H"}).json()["message"]


def test_drafts_carry_a_version_and_a_second_tab_gets_both_sides(client):
    id = fresh(client)
    mine = {**DESIGN, "givens": {**DESIGN["givens"], "battery.cells": 7.0}}
    assert client.put(f"/api/projects/{id}/draft", json={"version": 1, "design": mine}).json() == {"version": 2}
    answer = client.put(f"/api/projects/{id}/draft", json={"version": 1, "design": DESIGN})
    assert answer.status_code == 409
    assert answer.json()["theirs"]["version"] == 2
    assert answer.json()["theirs"]["design"]["givens"]["battery.cells"] == 7
    assert client.post(f"/api/projects/{id}/revisions", json={"version": 1, "design": DESIGN, "message": "late"}).status_code == 409


def test_revisions_are_appended_and_never_change(client):
    id = fresh(client)
    saved = client.post(f"/api/projects/{id}/revisions", json={"version": 1, "design": SECOND, "message": "three turns"}).json()
    assert saved == {"number": 2, "version": 2}
    first = client.get(f"/api/projects/{id}/revisions/1").json()["design"]
    assert first["pins"] == DESIGN["pins"]
    assert client.get(f"/api/projects/{id}/revisions/9").status_code == 404
    project = client.get(f"/api/projects/{id}").json()
    assert project["head"] == 2
    assert project["revisions"][0]["parent"] == 1
    decided = client.post(f"/api/projects/{id}/decisions", json={"title": "Foil", "reason": "at hand", "numbers": {"cost": 3.5}})
    assert decided.status_code == 201
    assert client.get(f"/api/projects/{id}").json()["decisions"][0]["revision"] == 2


@pytest.mark.parametrize(
    "change",
    [
        {"givens": {"battery.cells": 0.0}},
        {"givens": {"battery.sells": 8.0}},
        {"choices": {"battery.chemistry": "salt"}},
        {"pins": {"transformer.core": {"part": "XX", "quantity": 1}}},
        {"pins": {"totals.efficiency": {"value": 1.7}}},
    ],
)
def test_a_draft_that_cannot_be_solved_still_opens_and_is_no_revision(client, change):
    """Half an edit is kept as a draft; nobody is locked out of the project by it, and it is no record."""
    id = fresh(client)
    design = {**DESIGN, **change}
    assert client.put(f"/api/projects/{id}/draft", json={"version": 1, "design": design}).json() == {"version": 2}
    opened = client.get(f"/api/projects/{id}")
    assert opened.status_code == 200
    kept = opened.json()["draft"]["design"]
    assert all(kept[k] == design[k] for k in change if k not in ("pins", "loads"))
    assert client.post("/api/solve", json={"design": kept}).status_code == 422
    assert client.post(f"/api/projects/{id}/revisions", json={"version": 2, "design": kept, "message": "broken"}).status_code == 422
    assert client.get(f"/api/projects/{id}").json()["head"] == 1
    back = client.get(f"/api/projects/{id}/revisions/1").json()["design"]
    assert client.post("/api/solve", json={"design": back}).status_code == 200


@pytest.mark.parametrize("fault", [ZeroDivisionError, KeyError])
def test_what_goes_wrong_inside_is_told_as_an_answer_of_ours(client, monkeypatch, fault):
    """Not a bare line of text, nor "not found": an error that the page can show, which says what still holds."""

    def stumble(*_: object) -> None:
        raise fault("made up")

    monkeypatch.setattr("rhombos.api.questions.pictures_of", stumble, raising=True)
    plain = TestClient(client.app, base_url=str(client.base_url), raise_server_exceptions=False)
    answer = plain.post("/api/pictures", json={"design": DESIGN, "place": "link", "corner": "nominal_full"})
    assert answer.status_code == 500
    assert answer.json()["error"] == "inside"
    assert fault.__name__ in answer.json()["message"]
    assert "made up" not in answer.text, "what is inside stays inside"
    assert "default-src" in answer.headers["content-security-policy"]


def test_export_and_import_are_exact(client):
    id = fresh(client)
    text = client.get(f"/api/projects/{id}/revisions/1/file").text
    back = client.post("/api/import", content=text.encode()).json()["id"]
    assert client.get(f"/api/projects/{back}/revisions/1/file").text == text
    count = len(client.get("/api/projects").json())
    bad = client.post("/api/import", content=b'{"format": "rhombos-design",\n oops}')
    assert bad.status_code == 422
    assert "line 2" in bad.json()["message"]
    assert len(client.get("/api/projects").json()) == count, "a refused file changes nothing"


def test_a_changed_catalogue_is_reported_on_reopening(client):
    id = fresh(client)
    project = client.get(f"/api/projects/{id}").json()
    design = project["draft"]["design"]
    design["parts"]["transformer.core"]["price"] = 99.0
    client.put(f"/api/projects/{id}/draft", json={"version": 1, "design": design})
    assert client.get(f"/api/projects/{id}").json()["catalogue_changes"] == [
        {"pick": "transformer.core", "part": design["parts"]["transformer.core"]["code"], "what": "changed in the catalogue: price"}
    ]


def test_what_is_not_there_is_404(client):
    assert client.get("/api/projects/999999").status_code == 404
    assert client.get("/api/lineups/steam").status_code == 404
    assert client.put("/api/projects/999999/draft", json={"version": 1, "design": DESIGN}).status_code == 404


@pytest.mark.parametrize("wrong", [{"key": "no.such"}, {"move": "no.such"}, {"corner": "noon"}])
def test_a_seek_that_names_what_is_not_there_is_told_so(client, wrong):
    ask = {"design": DESIGN, "key": "precharge.precharge_time", "corner": "nominal_full", "wanted": "480 ms", "move": "precharge.usual_closing_fraction"}
    plain = TestClient(client.app, base_url=str(client.base_url), raise_server_exceptions=False)
    answer = plain.post("/api/seek", json={**ask, **wrong})
    assert answer.status_code in (404, 422)
    assert next(iter(wrong.values())) in answer.json()["message"]


def test_a_brief_opens_with_the_line_up_that_the_schools_would_take(client):
    small, large = (
        client.post("/api/opening", json={"design": {**DESIGN, "givens": {**DESIGN["givens"], "load_3.rated_power": w}}}).json() for w in (20.0, 900.0)
    )
    assert large["lineup"] == "ferrite_bridge_link_bridge"
    assert large["sentence"].startswith("Full bridge: ")
    assert small["sentence"].endswith(".")
    assert {small["lineup"], large["lineup"]} <= {row["id"] for row in client.get("/api/lineups").json()}


def test_a_schematic_and_its_probe(client):
    ask = {"design": DESIGN, "place": "filter", "corner": "nominal_full"}
    drawn = client.post("/api/schematic", json=ask).json()
    choke = next(p for p in drawn["parts"] if p["name"] == "choke")
    assert choke["text"].endswith("mH")
    assert choke["figure"] == "filter.filter_inductance"
    assert choke["nodes"][0] == "bridge"
    assert {"name": "out", "at": [15, 0], "named": True} in drawn["nodes"]
    look = drawn["looks"][1]
    told = client.post("/api/probe", json={**ask, "look": look["title"], "probes": look["probes"]}).json()
    assert [t["unit"] for t in told["traces"]] == ["V", "A", "A"]
    assert told["balance"] < 1e-6
    wrong = client.post("/api/probe", json={**ask, "look": look["title"], "probes": ["v moon"]})
    assert wrong.status_code == 422
    assert "nothing to probe at 'v moon'" in wrong.text
    assert client.post("/api/probe", json={**ask, "look": look["title"], "probes": []}).status_code == 422
    assert client.post("/api/probe", json={**ask, "look": look["title"], "probes": ["v out"] * 5}).status_code == 422
    assert client.post("/api/schematic", json={**ask, "place": "first_power"}).status_code == 404
