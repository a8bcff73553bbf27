"""What may be in a call or a file: all that could be misread, cannot be stored or is out of all measure is refused in words, never by a fault."""

import copy
import json
import warnings

import pytest
from fastapi.testclient import TestClient

from rhombos.demo import tern_islet
from rhombos.formats.design import write_design

DESIGN = json.loads(write_design(tern_islet.first()))
SECOND = json.loads(write_design(tern_islet.second()))


def changed(base=DESIGN, **tables):
    design = copy.deepcopy(base)
    for table, entries in tables.items():
        if isinstance(entries, dict):
            design[table].update(entries)
        else:
            design[table] = entries
    return design


def refused(answer, *words):
    assert answer.status_code == 422, answer.text
    said = answer.json()
    assert said["fields"], said
    for word in words:
        assert word in answer.text, answer.text


def pin(value):
    return {"value": value, "part": None, "quantity": 1, "reason": "to see"}


@pytest.mark.parametrize("axis", ["source_level", "load_fraction", "surge", "surge_by_watts"])
def test_a_file_cannot_switch_the_worst_corners_off(client, axis):
    """With the battery nominal at every corner the failing demo would hold."""
    eased = changed(SECOND, givens={f"corner.{axis}": 1.0})
    for path, body in (("solve", {"design": eased}), ("import", eased), ("projects", {"title": "x", "design": eased})):
        refused(client.post(f"/api/{path}", json=body), f"corner.{axis}")
    refused(client.post("/api/solve", json={"design": changed(SECOND, pins={f"corner.{axis}": pin(1.0)})}), f"corner.{axis}")


@pytest.mark.parametrize("place", ["corner", "outside", "front", "transformer"])
def test_a_load_row_cannot_take_a_name_that_every_line_up_has(client, place):
    refused(client.post("/api/solve", json={"design": changed(loads=[{"place": place, "title": "Lamp"}])}), place)


@pytest.mark.parametrize(
    ("key", "value"),
    [
        ("totals.efficiency", 1.7),
        ("transformer.primary_turns", -1),
        ("transformer.primary_turns", 0),
        ("transformer.primary_turns", 3.5),
        ("filter.filter_inductance", -1e-3),
        ("front.switch_quantity", 0),
    ],
)
def test_a_pin_is_held_to_what_such_a_thing_can_be(client, key, value):
    refused(client.post("/api/solve", json={"design": changed(pins={key: pin(value)})}), key)


SURROGATE = '"\\ud800"'


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("projects/1/decisions", f'{{"title":"t","reason":"r","numbers":{{"a":{SURROGATE}}}}}'),
        ("projects/1/decisions", f'{{"title":"t","reason":"r","numbers":{{{SURROGATE}:1}}}}'),
        ("projects/1/decisions", f'{{"title":{SURROGATE},"reason":"r","numbers":{{}}}}'),
        ("projects/1/decisions", '{"title":"t","reason":"a\\u0000b","numbers":{}}'),
        ("projects/1/decisions", json.dumps({"title": "t", "reason": "r", "numbers": {str(k): "x" * 200 for k in range(400)}})),
        ("projects/1/decisions", json.dumps({"title": "t", "reason": "r", "numbers": {}, "author": "a" * 100})),
        ("parse", f'{{"text":{SURROGATE},"unit":"V"}}'),
        ("solve", f'{{"design":{{"title":{SURROGATE}}}}}'),
        ("scope", '{"design":{},"pixels":1' + "0" * 40 + "}"),
    ],
)
def test_what_cannot_be_stored_is_refused_and_the_project_still_opens(client, path, body):
    answer = client.post(f"/api/{path}", content=body, headers={"content-type": "application/json"})
    refused(answer)
    assert client.get("/api/projects/1").status_code == 200


@pytest.mark.parametrize(
    ("raw", "words"),
    [
        (b'{"title": "F\xf6hn"}', "UTF-8"),
        (b'{"title": "a", "title": "b"}', "said twice"),
        (b"[" * 100_000, "nested"),
        (b'{"a":' * 100_000, "nested"),
        (b'{"version": ' + b"1" * 5000 + b"}", "digits"),
        (b'{"givens": {"battery.cells": NaN}}', "NaN"),
        (b'{"title": "\\ud800"}', "half of a character"),
        (b'{"title": ', "line 1"),
    ],
)
def test_a_file_that_could_be_misread_is_refused_with_its_place(client, raw, words):
    before = len(client.get("/api/projects").json())
    refused(client.post("/api/import", content=raw), words)
    assert len(client.get("/api/projects").json()) == before


def test_what_older_rules_let_in_can_still_be_read(client, store):
    """A draft and a revision with a load row named as a stage, as they could once be stored."""
    old = json.dumps(changed(loads=[{"place": "front", "title": "Lamp"}]))
    id = store.create("Old", old, "bench A", "as it was")
    assert client.get(f"/api/projects/{id}").json()["draft"]["design"]["loads"][0]["place"] == "front"
    assert client.get(f"/api/projects/{id}/revisions/1").json()["design"]["loads"][0]["place"] == "front"


def test_a_file_with_a_byte_order_mark_is_read_and_its_letters_are_kept(client):
    design = changed(title="Überseestation «Möwe» 冷库")
    made = client.post("/api/import", content=b"\xef\xbb\xbf" + json.dumps(design, ensure_ascii=False).encode())
    assert client.get(f"/api/projects/{made.json()['id']}").json()["title"] == design["title"]


@pytest.mark.parametrize("path", ["solve", "projects/1/decisions"])
def test_a_body_nested_beyond_measure_or_in_no_encoding_is_told_in_our_form(client, path):
    for body in (b"[" * 90_000, b'{"a": "\xff\xfe"}'):
        answer = client.post(f"/api/{path}", content=body, headers={"content-type": "application/json"})
        assert 400 <= answer.status_code < 500
        assert answer.json()["message"]


@pytest.mark.parametrize(
    "headers", [{"host": "["}, {"origin": "http://["}, {"host": "127.0.0.1/evil"}, {"host": "x@127.0.0.1"}, {"origin": "http://127.0.0.1:8765/"}]
)
def test_hosts_and_origins_that_are_none_are_refused(client, headers):
    assert client.get("/api/health", headers=headers).status_code in (403, 421)


def test_what_is_not_asked_that_way_is_told_in_our_form(client):
    assert client.get("/api/solve").json()["error"] in ("refused", "not_found")
    assert client.delete("/api/projects").status_code == 405
    assert client.delete("/api/projects").json()["message"] == "DELETE is not asked of /api/projects"


def test_names_that_no_file_can_have_are_not_found(tmp_path, store):
    from fastapi.testclient import TestClient

    from rhombos.api.app import make_app

    (tmp_path / "index.html").write_text("page")
    with TestClient(make_app(store, tmp_path), base_url="http://127.0.0.1:8765") as served:
        for path in ("/%00", "/index.html%00.js", "/" + "a" * 300 + ".js"):
            assert served.get(path).status_code == 404, path


OVERLOADED = changed(givens={"load_3.rated_power": 16000.0})
UNDRAWN = [
    changed(givens={"load_3.rated_power": 5000.0, "battery.cells": 1.0}),
    changed(pins={"filter.filter_capacitance": pin(0.0)}),
    changed(pins={"filter.filter_inductance": pin(1e-300)}),
    changed(lineup="ferrite_bridge_link_bridge", givens={"bridge.wanted_carrier": 200e3, "bridge.dead_time": 4.5e-6}),
    changed(pins={"rectifier.choke_rms_current": pin(5.0)}),
    OVERLOADED,
]


@pytest.mark.parametrize("design", UNDRAWN)
def test_where_a_figure_is_unknown_build_scope_and_seek_say_so(client, design):
    """The overloaded design is the one that a person most needs them for."""
    build = client.post("/api/build", json={"design": design})
    assert build.status_code == 200, build.text
    assert "NaN" not in build.text
    corners = [c["id"] for c in client.get(f"/api/lineups/{design['lineup']}?loads=load_1,load_2,load_3").json()["corners"]]
    for corner in corners:
        scope = client.post("/api/scope", json={"design": design, "corner": corner})
        assert scope.status_code in (200, 422), scope.text
        if scope.status_code == 422:
            assert "nothing can be drawn" in scope.json()["message"]
    ask = {"design": design, "key": "totals.efficiency", "corner": "nominal_full", "wanted": "0.9", "move": "battery.cells"}
    assert client.post("/api/seek", json=ask).status_code in (200, 422)


def test_answers_are_compressed_where_that_is_asked_for(client):
    whole = client.post("/api/solve", json={"design": DESIGN}, headers={"accept-encoding": "identity"})
    small = client.post("/api/solve", json={"design": DESIGN}, headers={"accept-encoding": "gzip"})
    assert small.headers["content-encoding"] == "gzip"
    assert small.json() == whole.json()
    assert int(small.headers["content-length"]) < 0.4 * len(whole.content)


@pytest.mark.parametrize(("host", "compressed"), [("127.0.0.1", False), ("::1", False), ("192.0.2.7", True), ("", True)])
def test_the_answers_to_this_machine_itself_are_sent_as_they_are(client, host, compressed):
    here = TestClient(client.app, base_url=str(client.base_url), client=(host, 50000))
    answer = here.post("/api/solve", json={"design": DESIGN}, headers={"accept-encoding": "gzip"})
    assert ("content-encoding" in answer.headers) is compressed
    assert answer.json()["values"]


@pytest.mark.parametrize("place", ["link", "cutoff", "input"])
def test_the_pictures_of_a_place_where_nothing_is_known_are_drawn_empty(client, place):
    """One cell cannot carry the load at any corner."""
    asked = {"design": changed(givens={"battery.cells": 1.0}), "place": place, "corner": "nominal_full"}
    with warnings.catch_warnings(action="error"):
        answer = client.post("/api/pictures", json=asked)
    assert answer.status_code == 200
    assert "null" in answer.text


def test_runners_up_are_told_where_a_need_is_pinned_and_is_the_same_for_every_part(client):
    pins = {"transformer.full_duty_flux": pin(-1.0)}
    answer = client.post("/api/pick", json={"design": changed(pins=pins), "key": "transformer.core", "corner": "nominal_full"})
    assert answer.status_code == 200
    assert len(answer.json()["runners_up"]) > 2


def test_line_ups_are_compared_where_the_tightest_check_is_unknown(client):
    """A load that a single cell cannot carry: there are checks that nobody can judge, and the line-ups say so."""
    answer = client.post("/api/compare", json={"design": changed(SECOND, givens={"battery.cells": 1.0, "load_3.rated_power": 5000.0})})
    assert answer.status_code == 200
    tightest = [column["tightest"] for column in answer.json()["columns"]]
    # Where some corner is known its margin is told, with the verdict that nobody can give for all.
    assert all(t["verdict"] == "unknown" for t in tightest if t["margin"] is None)
    assert any(t["margin"] is None for t in tightest)
