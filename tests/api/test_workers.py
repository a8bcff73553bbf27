"""Several server processes behind one address: what dies is started again, what hangs is not all, and none stays behind."""

import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import Running


def children(pid: int) -> set[int]:
    """The server processes that a start has made (the database is none of them)."""
    found = (int(t) for task in Path(f"/proc/{pid}/task").iterdir() for t in (task / "children").read_text().split())
    return {c for c in found if b"rhombos.launch" in Path(f"/proc/{c}/cmdline").read_bytes()}


def answers(running: Running, patience: float) -> bool:
    """Whether a connection of its own is answered."""
    try:
        with urllib.request.urlopen(f"{running.base}/api/health", timeout=patience) as answer:
            return answer.status == 200
    except OSError:
        return False


def until(holds: Callable[[], bool], patience: float = 20) -> None:
    end = time.monotonic() + patience
    while not holds():
        assert time.monotonic() < end, "it did not come about"
        time.sleep(0.05)


@pytest.fixture(name="two")
def _two(running, monkeypatch):
    monkeypatch.setenv("RHOMBOS_WORKERS", "2")
    running.start()
    assert len(children(running.process.pid)) == 2
    return running


def test_one_that_died_is_started_again_and_said(two):
    before = children(two.process.pid)
    killed = min(before)
    os.kill(killed, signal.SIGKILL)
    # Until it is dead it may still take a connection with it.
    until(lambda: killed not in children(two.process.pid))
    # Whoever was given its socket waits for the next one.
    assert all(answers(two, 20) for _ in range(12))
    after = children(two.process.pid)
    assert len(after) == 2
    assert after - before, "another process"
    assert killed not in after
    assert "A server process ended (killed by signal 9); starting another" in two.stop()


def test_killed_again_and_again_on_a_busy_machine_it_goes_on(two):
    """A process that dies closes its pipe before it can be waited for: seen in between, it is no process that ends at once."""
    busy = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(3)]
    try:
        for _ in range(2):
            killed = min(children(two.process.pid))
            os.kill(killed, signal.SIGKILL)
            until(lambda: killed not in children(two.process.pid))  # noqa: B023 - asked at once
            assert all(answers(two, 20) for _ in range(4))
            until(lambda: len(children(two.process.pid)) == 2)
            # Not so often that it would be an end as soon as it is started.
            time.sleep(2.1)
    finally:
        for process in busy:
            process.kill()
            process.wait()
    assert two.process.poll() is None


def test_one_that_hangs_is_not_all(two):
    hung = min(children(two.process.pid))
    os.kill(hung, signal.SIGSTOP)
    try:
        # Connections are spread by the system: of twenty, some reach each.
        got = {answers(two, 0.7) for _ in range(20)}
    finally:
        os.kill(hung, signal.SIGCONT)
    assert got == {True, False}


def test_none_outlives_the_one_that_started_them(two):
    left = children(two.process.pid)
    two.process.kill()
    two.process.communicate()
    until(lambda: not any(os.path.exists(f"/proc/{pid}") for pid in left))
    two.start()
    assert answers(two, 5), "the same port is free again at once"


def test_a_stop_ends_all_of_them(two):
    left = children(two.process.pid)
    two.stop()
    assert two.process.returncode == 0
    assert not any(os.path.exists(f"/proc/{pid}") for pid in left)


@pytest.mark.parametrize("typed", ["0", "two", "-1", "1000"])
def test_a_number_of_processes_that_is_none_is_refused_in_words(tmp_path, typed):
    said = subprocess.run(
        [sys.executable, "-m", "rhombos.launch.run"],
        env={**os.environ, "RHOMBOS_HOME": str(tmp_path), "RHOMBOS_WORKERS": typed, "PYTHONPATH": "src"},
        capture_output=True,
        text=True,
        timeout=30,
        check=False,
    )
    assert said.returncode == 1
    assert "RHOMBOS_WORKERS" in said.stdout
    assert "1 to 64" in said.stdout
