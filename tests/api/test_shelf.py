"""The shelf: projects are renamed, copied, put away, deleted and brought back, and go out and in as whole archives."""

import copy
import json

import pytest

from rhombos.demo import tern_islet
from rhombos.formats.design import write_design

DESIGN = {**json.loads(write_design(tern_islet.first())), "title": "Ferry pier"}


@pytest.fixture(name="project")
def _project(client):
    """A project with two revisions, an edited draft and a decision."""
    id = client.post("/api/projects", json={"title": "Ferry pier", "design": DESIGN}).json()["id"]
    edited = {**DESIGN, "givens": {**DESIGN["givens"], "load_3.rated_power": 411.0}}
    saved = client.post(f"/api/projects/{id}/revisions", json={"version": 1, "design": edited, "message": "A smaller oven"}).json()
    further = {**edited, "givens": {**edited["givens"], "load_3.rated_power": 422.5}}
    client.put(f"/api/projects/{id}/draft", json={"version": saved["version"], "design": further})
    client.post(f"/api/projects/{id}/decisions", json={"title": "Oven", "reason": "the pier has one socket", "numbers": {"load_3.rated_power": 411}})
    return id


def row(client, id):
    return next((r for r in client.get("/api/projects").json() if r["id"] == id), None)


def of(client, id):
    return client.get(f"/api/projects/{id}").json()


def test_a_new_title_is_the_drafts_as_well_and_an_edit_under_way_is_told(client, project):
    before = of(client, project)["draft"]["version"]
    assert client.patch(f"/api/projects/{project}", json={"title": "  Ferry pier, north  "}).json()["title"] == "Ferry pier, north"
    found = of(client, project)
    assert found["title"] == found["draft"]["design"]["title"] == "Ferry pier, north"
    late = client.put(f"/api/projects/{project}/draft", json={"version": before, "design": DESIGN})
    assert late.status_code == 409
    assert late.json()["theirs"]["design"]["title"] == "Ferry pier, north"


@pytest.mark.parametrize("body", [{"title": ""}, {"title": "x" * 201}, {"title": "\ud800"}, {"standing": "burnt"}, {"head": 7}])
def test_what_is_no_title_and_no_place_to_stand_is_refused(client, project, body):
    answer = client.patch(f"/api/projects/{project}", content=json.dumps(body), headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert row(client, project)["title"] == "Ferry pier"


def test_what_is_put_away_or_deleted_comes_back_whole_and_untouched(client, project):
    before = of(client, project)
    for standing in ("away", "deleted", "shelf"):
        assert client.patch(f"/api/projects/{project}", json={"standing": standing}).json()["standing"] == standing
        assert row(client, project)["standing"] == standing
        assert of(client, project) == {**before, "standing": standing}


def test_only_what_stands_among_the_deleted_is_removed_for_good(client, project):
    answer = client.delete(f"/api/projects/{project}")
    assert answer.status_code == 409
    assert "delete it first" in answer.json()["message"]
    client.patch(f"/api/projects/{project}", json={"standing": "deleted"})
    assert client.delete(f"/api/projects/{project}").json() == {"id": project}
    assert row(client, project) is None
    for path in ("", "/revisions/1", "/archive"):
        assert client.get(f"/api/projects/{project}{path}").status_code == 404


def test_a_copy_begins_from_the_draft_and_goes_its_own_way(client, project):
    made = client.post(f"/api/projects/{project}/copies", json={"title": "South pier"}).json()["id"]
    found = of(client, made)
    assert (found["title"], found["draft"]["design"]["title"], found["head"]) == ("South pier", "South pier", 1)
    assert found["draft"]["design"]["givens"]["load_3.rated_power"] == 422.5
    assert "Ferry pier, revision 2" in found["message"]
    client.put(f"/api/projects/{made}/draft", json={"version": 1, "design": {**DESIGN, "title": "South pier"}})
    assert of(client, project)["draft"]["design"]["givens"]["load_3.rated_power"] == 422.5


def archive(client, id):
    answer = client.get(f"/api/projects/{id}/archive")
    assert "attachment" in answer.headers["content-disposition"]
    return answer.json()


def bring(client, told):
    return client.post("/api/import", content=json.dumps(told))


def test_an_archive_brings_everything_back(client, project):
    """Out, in, out: only the id is another."""
    told = archive(client, project)
    assert [r["message"] for r in told["revisions"]] == ["First sheet", "A smaller oven"]
    answer = bring(client, told)
    assert answer.status_code == 201, answer.text
    made = answer.json()["id"]
    assert archive(client, made) == told
    was, found = of(client, project), of(client, made)
    for table in ("revisions", "decisions"):
        assert [{**entry, "id": 0} for entry in found[table]] == [{**entry, "id": 0} for entry in was[table]]
    saved = client.post(f"/api/projects/{made}/revisions", json={"version": 1, "design": DESIGN, "message": "And on"}).json()
    assert saved["number"] == 3


def changed(told, **paths):
    told = copy.deepcopy(told)
    for path, value in paths.items():
        *way, last = path.split("__")
        at = told
        for step in way:
            at = at[int(step) if step.isdigit() else step]
        at[int(last) if last.isdigit() else last] = value
    return told


@pytest.mark.parametrize(
    ("path", "value", "said"),
    [
        ("revisions__1__number", 7, "stands in the place of revision 2"),
        ("revisions__0__parent", 1, "cannot come from revision 1"),
        ("draft__base", 9, "the draft begins from revision 9"),
        ("decisions__0__revision", 3, "was made at revision 3"),
        ("revisions", [], "revisions"),
        ("revisions__1__design__givens", {"battery.mood": 1.0}, "revisions.1.design.battery.mood"),
        ("draft__design__givens", {"corner.surge": 1.0}, "draft.design.corner.surge"),
        ("revisions__0__created", "yesterday", "revisions.0.created"),
        ("revisions__0__created", "2026-11-29T10:00:00+02:00", "no zone"),
        ("version", 2, "version"),
    ],
)
def test_an_archive_that_does_not_hold_together_is_refused_by_its_path_and_nothing_is_made(client, project, path, value, said):
    told, before = archive(client, project), len(client.get("/api/projects").json())
    answer = bring(client, changed(told, **{path: value}))
    assert answer.status_code == 422
    assert said in answer.text
    assert len(client.get("/api/projects").json()) == before


def test_a_project_of_many_revisions_fits_through_the_door(client, project):
    """Five hundred revisions are more than any other call may send."""
    told = archive(client, project)
    first = told["revisions"][0]
    told["revisions"] = [{**first, "number": k, "parent": k - 1, "message": f"{k}, " + "so " * 150} for k in range(1, 501)]
    assert len(json.dumps(told)) > 2 * 1024 * 1024
    made = bring(client, told)
    assert made.status_code == 201, made.text
    assert of(client, made.json()["id"])["head"] == 500
