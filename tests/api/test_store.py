"""The store under two hands at once, and the launcher's small parts."""

import threading
from pathlib import Path

import pytest

from rhombos.launch.database import Database, _reachable, _short_socket, free_port
from rhombos.launch.places import LaunchError
from rhombos.store.repository import Conflict, NotFound, Store


def test_of_two_saves_from_the_same_version_exactly_one_wins(store):
    id = store.create("Race", '{"a": 1}', "bench A", "first")
    outcomes: list[str] = []
    gate = threading.Barrier(6)

    def save(k: int) -> None:
        gate.wait()
        try:
            store.save_draft(id, 1, f'{{"a": {k}}}', "Race")
        except Conflict:
            outcomes.append("conflict")
        else:
            outcomes.append("saved")

    threads = [threading.Thread(target=save, args=(k,)) for k in range(6)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert sorted(outcomes) == ["conflict"] * 5 + ["saved"]
    assert store.project(id)["draft"]["version"] == 2


def test_revisions_number_themselves_without_gaps_whoever_saves(store):
    id = store.create("Numbers", '{"a": 1}', "bench A", "first")
    lock = threading.Lock()

    def save() -> None:
        for _ in range(4):
            with lock:
                version = store.project(id)["draft"]["version"]
                store.save_revision(id, version, '{"a": 2}', "bench B", "again")

    threads = [threading.Thread(target=save) for _ in range(3)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    project = store.project(id)
    assert sorted(r["number"] for r in project["revisions"]) == list(range(1, 14))
    assert project["head"] == 13
    assert {r["parent"] for r in project["revisions"]} == set(range(13))


def test_the_shelf_tells_the_newest_message_and_the_last_touched_first(store):
    old, new = (store.create(title, '{"a": 1}', "bench A", f"{title} begins") for title in ("Shelf one", "Shelf two"))
    store.save_revision(old, 1, '{"a": 2}', "bench A", "Turns as wound")
    shelf = store.projects()
    rows = {row.id: row for row in shelf}
    assert (rows[old].message, rows[old].head) == ("Turns as wound", 2)
    assert rows[new].message == "Shelf two begins"
    assert [row.touched for row in shelf] == sorted((row.touched for row in shelf), reverse=True)
    assert store.project(old)["message"] == "Turns as wound"


def test_a_conflict_carries_the_other_side_whole(store):
    id = store.create("Sides", '{"a": 1}', "bench A", "first")
    store.save_draft(id, 1, '{"a": 7}', "Sides, renamed")
    with pytest.raises(Conflict) as error:
        store.save_revision(id, 1, '{"a": 8}', "bench B", "late")
    assert error.value.theirs["version"] == 2
    assert error.value.theirs["design"] == {"a": 7}
    assert len(store.project(id)["revisions"]) == 1, "nothing of a refused save is left"
    assert store.project(id)["title"] == "Sides, renamed"


def test_words_survive_as_they_were_written(store):
    id = store.create("Žofín — 45 °C, Ω, 雪, 🔋", '{"a": "µ"}', "bench A", "Grüße")
    project = store.project(id)
    assert project["title"] == "Žofín — 45 °C, Ω, 雪, 🔋"
    assert project["revisions"][0]["message"] == "Grüße"
    assert store.revision(id, 1) == '{"a": "µ"}'


def test_what_is_not_there_is_said(store):
    for ask in (
        lambda: store.project(10**6),
        lambda: store.revision(1, 10**6),
        lambda: store.save_draft(10**6, 1, "{}", "x"),
        lambda: store.decide(10**6, "t", "r", {}, "a"),
    ):
        with pytest.raises(NotFound):
            ask()


def test_facts_are_noted_once_and_replaced(store):
    assert store.fact("nobody") is None
    store.note("a-fact", "1")
    store.note("a-fact", "2")
    assert store.fact("a-fact") == "2"


def test_a_database_that_is_away_is_not_alive():
    assert not Store(f"mysql+pymysql://nobody:x@127.0.0.1:{free_port()}/none").alive()


def test_a_failed_step_says_which_why_and_what_to_do():
    error = LaunchError("Opening a port", "all in use", "set RHOMBOS_PORT")
    assert str(error) == "Opening a port failed: all in use\n  What to do: set RHOMBOS_PORT"


def test_a_missing_server_is_named(monkeypatch, tmp_path):
    monkeypatch.setattr("rhombos.launch.database.shutil.which", lambda _: None)
    monkeypatch.setattr(Path, "exists", lambda _: False)
    with pytest.raises(LaunchError, match="is not installed"):
        Database.__new__(Database).begin()


def test_socket_paths_stay_within_the_system_s_limit(tmp_path):
    assert len(_short_socket(tmp_path / ("deep" * 40))) < 100
    assert _short_socket(Path("/x/run")) == "/x/run/mariadb.sock"


def test_a_home_that_the_unprivileged_account_cannot_reach_moves(tmp_path, monkeypatch):
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    monkeypatch.setattr("rhombos.launch.database.os.geteuid", lambda: 0)
    assert _reachable(closed / "home").parent == Path("/var/lib")
    monkeypatch.setattr("rhombos.launch.database.os.geteuid", lambda: 1000)
    assert _reachable(closed / "home") == closed / "home"


def test_of_projects_touched_within_a_second_the_last_stands_first(store):
    ids = [store.create(f"Quick {k}", "{}", "bench A", "begun") for k in range(5)]
    store.save_draft(ids[1], 1, '{"a": 1}', "Quick 1")
    here = [row.id for row in store.projects() if row.id in ids]
    assert here == [ids[1], ids[4], ids[3], ids[2], ids[0]]
