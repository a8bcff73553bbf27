"""The application as a person starts it: once, twice, killed, and with its database killed under it."""

import contextlib
import json
import os
import random
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request

import pytest

from rhombos.demo import tern_islet
from rhombos.demo.shelf import DEMOS
from rhombos.formats.design import write_design
from rhombos.launch.database import Database
from tests.chaos.starts import kill_at_random
from tests.conftest import Running

DESIGN = json.loads(write_design(tern_islet.first()))


def ask(running: Running, path: str, body: object = None, method: str | None = None) -> dict:
    request = urllib.request.Request(
        f"{running.base}/api/{path}", data=None if body is None else json.dumps(body).encode(), headers={"content-type": "application/json"}, method=method
    )
    with urllib.request.urlopen(request, timeout=10) as answer:
        return json.load(answer)


def test_it_starts_says_where_starts_once_and_stops_what_it_started(running):
    running.start()
    pid = running.database_pid()
    said = subprocess.run(
        [sys.executable, "-m", "rhombos.cli", "start"],
        env={**os.environ, "RHOMBOS_HOME": str(running.home), "PYTHONPATH": "src"},
        capture_output=True,
        text=True,
        timeout=30,
        check=False,
    )
    assert said.returncode == 0
    assert f"runs already: {running.base}" in said.stdout
    assert (running.home / "password").stat().st_mode & 0o777 == 0o600
    out = running.stop()
    assert running.base in out
    assert not os.path.exists(f"/proc/{pid}"), "the database it started is stopped"
    assert running.process.returncode == 0


def test_a_database_that_is_already_there_is_used_and_left_running(running, tmp_path):
    other = Database(tmp_path / "elsewhere")
    url = other.start()
    try:
        running.start(url=url)
        assert not (running.home / "mariadb").exists(), "no database of its own beside the one it was given"
        assert {p["title"] for p in ask(running, "projects")} == {demo.title for demo in DEMOS.values()}
        made = ask(running, "projects", {"title": "Kept elsewhere", "design": DESIGN})
        running.stop()
        assert other._left_behind() or other.process.poll() is None, "what it did not start it does not stop"
        running.start(url=url)
        assert ask(running, f"projects/{made['id']}")["title"] == "Kept elsewhere"
        assert len(ask(running, "projects")) == len(DEMOS) + 1, "the demos are loaded once"
        running.stop()
    finally:
        other.stop()


def test_a_database_that_does_not_answer_is_named_with_what_to_do(running):
    running.home.mkdir()
    said = subprocess.run(
        [sys.executable, "-m", "rhombos.launch.run"],
        env={**os.environ, "RHOMBOS_HOME": str(running.home), "RHOMBOS_DATABASE_URL": "mysql+pymysql://nobody:x@127.0.0.1:1/none", "PYTHONPATH": "src"},
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert said.returncode == 1
    assert "Preparing the database" in said.stdout
    assert "RHOMBOS_DATABASE_URL" in said.stdout
    assert "Traceback" not in said.stdout + said.stderr


def two_in_a_row() -> int:
    """A free port with a free one after it, below those that the system hands out to whoever asks for any."""
    for port in random.sample(range(20_000, 30_000), 200):
        with socket.socket() as one, socket.socket() as other, contextlib.suppress(OSError):
            one.bind(("127.0.0.1", port))
            other.bind(("127.0.0.1", port + 1))
            return port
    raise AssertionError("of two hundred ports none is free with the one after it")


def test_a_port_in_use_gives_way_to_the_next(running):
    wanted = running.port = two_in_a_row()
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", wanted))
        taken.listen()
        running.start(at=wanted + 1)
        assert ask(running, "health")["database"] == "up"
        assert f"Port {wanted} is in use; taking {wanted + 1}" in running.stop()


def test_nothing_acknowledged_is_lost_when_server_and_database_are_killed(running):
    """Kill -9 of MariaDB and of the server during a stream of saves; after a restart every acknowledged revision is there."""
    running.start()
    project = ask(running, "projects", {"title": "Stream", "design": DESIGN})["id"]
    acknowledged: list[int] = [1]
    stop = threading.Event()

    def stream() -> None:
        version = 1
        while not stop.is_set():
            try:
                saved = ask(
                    running,
                    f"projects/{project}/revisions",
                    {"version": version, "design": {**DESIGN, "title": f"save {version}"}, "message": f"save {version}"},
                )
            except urllib.error.HTTPError as error:
                error.close()
                time.sleep(0.05)
            except (OSError, ValueError):
                time.sleep(0.05)
            else:
                version = saved["version"]
                acknowledged.append(saved["number"])

    thread = threading.Thread(target=stream)
    thread.start()
    try:
        time.sleep(2.0)
        before = len(acknowledged)
        first = running.database_pid()
        os.kill(first, signal.SIGKILL)
        # It is started again by whoever started it, and saving goes on by itself.
        wait(lambda: len(acknowledged) > before + 1, 30)
        assert running.database_pid() != first
        os.kill(running.database_pid(), signal.SIGKILL)
        running.process.kill()
        running.process.communicate()
    finally:
        stop.set()
        thread.join()
    assert len(acknowledged) > 2
    running.start()
    found = {r["number"] for r in ask(running, f"projects/{project}")["revisions"]}
    assert set(acknowledged) <= found
    for number in acknowledged[-3:]:
        assert ask(running, f"projects/{project}/revisions/{number}")["design"]["lineup"] == DESIGN["lineup"]


def test_a_database_that_hangs_costs_a_solve_nothing_and_never_stops_a_stop(running):
    running.start()
    project = ask(running, "projects", {"title": "Hung", "design": DESIGN})["id"]
    ask(running, "solve", {"design": DESIGN})
    statuses: list[int] = []

    def save() -> None:
        try:
            ask(running, f"projects/{project}/draft", {"version": 1, "design": DESIGN}, "PUT")
        except urllib.error.HTTPError as error:
            statuses.append(error.code)
            error.close()
        except OSError:
            statuses.append(0)

    pid = running.database_pid()
    os.kill(pid, signal.SIGSTOP)
    saves = [threading.Thread(target=save) for _ in range(45)]
    for thread in saves:
        thread.start()
    time.sleep(0.5)
    for watts in (310.0, 320.0, 330.0):
        began = time.monotonic()
        ask(running, "solve", {"design": {**DESIGN, "givens": {**DESIGN["givens"], "load_1.rated_power": watts}}})
        assert time.monotonic() - began < 3, "a solve waits for no save"
    wait(lambda: len(statuses) > 3, 15)
    assert set(statuses) <= {0, 503}, "told as a database that does not answer"
    began = time.monotonic()
    running.stop(signal.SIGHUP)
    assert time.monotonic() - began < 35
    for thread in saves:
        thread.join()
    assert not os.path.exists(f"/proc/{pid}"), "a closed terminal stops the database as well, also one that hung"


def test_a_start_that_is_cut_short_is_recovered_by_the_next():
    """A first start and a later one, killed at random instants; `make chaos` kills two hundred."""
    assert kill_at_random(2, seed=int.from_bytes(os.urandom(2))) == []


@pytest.mark.parametrize("port", ["99999", "-1", "0", "8765x", "65536"])
def test_a_port_that_is_none_is_told_in_a_sentence(tmp_path, port):
    environment = {**os.environ, "RHOMBOS_HOME": str(tmp_path / "home"), "RHOMBOS_PORT": port, "PYTHONPATH": "src"}
    for folder in (tmp_path, *tmp_path.parents):
        if folder.is_relative_to("/tmp/"):
            folder.chmod(0o755)
    said = subprocess.run([sys.executable, "-m", "rhombos.launch.run"], env=environment, capture_output=True, text=True, timeout=60, check=False)
    assert said.returncode == 1
    assert "is not a port" in said.stdout
    assert "Traceback" not in said.stdout + said.stderr


def wait(until, seconds: float) -> None:
    end = time.monotonic() + seconds
    while not until():
        assert time.monotonic() < end, "in vain"
        time.sleep(0.1)


def test_the_schema_s_head_is_the_newest_migration(database_url):
    from alembic.script import ScriptDirectory

    from rhombos.store.migrate import HEAD, configuration, migrate

    assert ScriptDirectory.from_config(configuration(database_url)).get_heads() == [HEAD]
    migrate(database_url)


def test_a_server_killed_alone_leaves_a_database_that_the_next_start_takes_over(running):
    running.start()
    pid = running.database_pid()
    running.process.kill()
    running.process.communicate()
    assert os.path.exists(f"/proc/{pid}")
    running.start()
    assert running.database_pid() == pid
    assert ask(running, "health")["database"] == "up"
    running.stop()
    for _ in range(100):
        if not os.path.exists(f"/proc/{pid}"):
            break
        time.sleep(0.1)
    assert not os.path.exists(f"/proc/{pid}")
