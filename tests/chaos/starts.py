"""Starts that are cut short: everything is killed at a random instant, as by a power cut, and the next start must recover by itself.

`python -m tests.chaos.starts 200 [seed]`; every second kill hits a first start, in an empty home.
"""

import contextlib
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from rhombos.launch.database import Database, free_port

ROOT = Path(__file__).resolve().parents[2]
LONGEST = 9.0


def begin(home: Path, port: int) -> subprocess.Popen[str]:
    """A start in a session of its own, so that all of it can be killed."""
    environment = {**os.environ, "RHOMBOS_HOME": str(home), "RHOMBOS_PORT": str(port), "PYTHONPATH": str(ROOT / "src")}
    environment.pop("RHOMBOS_DATABASE_URL", None)
    return subprocess.Popen(
        [sys.executable, "-m", "rhombos.launch.run"],
        env=environment,
        cwd=ROOT,
        text=True,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        start_new_session=True,
    )


def cut(process: subprocess.Popen[str], home: Path) -> None:
    """Kill everything that works in a home, at once."""
    told = str(Database(home).home).encode()
    for entry in Path("/proc").iterdir():
        with contextlib.suppress(OSError, ValueError):
            if told in (entry / "cmdline").read_bytes():
                os.kill(int(entry.name), signal.SIGKILL)
    with contextlib.suppress(ProcessLookupError):
        os.killpg(process.pid, signal.SIGKILL)
    process.communicate()


def recovers(home: Path, port: int, patience: float = 60) -> str:
    """Start again; empty if it answers with its demo on the shelf and stops in order, else what it said."""
    process = begin(home, port)
    end = time.monotonic() + patience
    shelf = b""
    while time.monotonic() < end and process.poll() is None and b"Tern Islet" not in shelf:
        with contextlib.suppress(OSError), urllib.request.urlopen(f"http://127.0.0.1:{port}/api/projects", timeout=2) as answer:
            shelf = answer.read()
        time.sleep(0.1)
    process.send_signal(signal.SIGTERM)
    said, _ = process.communicate(timeout=60)
    return "" if b"Tern Islet" in shelf and process.returncode == 0 else said or "no answer"


def kill_at_random(count: int, seed: int) -> list[str]:
    """So many kills; what those said that did not recover."""
    dice = random.Random(seed)
    failed = []
    with tempfile.TemporaryDirectory() as folder:
        os.chmod(folder, 0o755)
        for k in range(count):
            home, port = Path(folder) / f"home{k // 2}", free_port()
            wait = dice.uniform(0, LONGEST if k % 2 == 0 else LONGEST / 2)
            process = begin(home, port)
            time.sleep(wait)
            cut(process, home)
            said = recovers(home, port)
            if said:
                failed.append(f"kill {k} after {wait:.2f} s ({'first start' if k % 2 == 0 else 'later start'}): {said}")
            if k % 2:
                shutil.rmtree(Database(home).home, ignore_errors=True)
    return failed


if __name__ == "__main__":
    told = kill_at_random(int(sys.argv[1]) if len(sys.argv) > 1 else 200, int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    print("\n".join(told) or "all recovered")
    sys.exit(bool(told))
