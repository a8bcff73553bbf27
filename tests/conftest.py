"""A throw-away MariaDB for the whole run, a store on it, a client, and the running application."""

import os
import signal
import subprocess
import sys
import sysconfig
import time
import urllib.request
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from hypothesis import settings

from rhombos.api.app import make_app
from rhombos.launch.database import Database, free_port
from rhombos.launch.seed import load_demo
from rhombos.store.migrate import migrate
from rhombos.store.repository import Store

ROOT = Path(__file__).resolve().parents[1]
# How long an example takes says something of the machine, not of the code.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")


LONGEST = ("ui/test_legible.py", "api/test_running.py", "ui/test_access.py", "api/test_workers.py", "ui", "campaign", "api", "fuzz")
"""Files and folders that take longest, first: what is short fills up what is left, so that neither half of a run waits for the other."""


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Files one after the other as `LONGEST` says."""
    here = ROOT / "tests"

    def place(item: pytest.Item) -> int:
        file = item.path.relative_to(here).as_posix()
        return next((k for k, part in enumerate(LONGEST) if file == part or file.startswith(f"{part}/")), len(LONGEST))

    items.sort(key=place)


def _fresh(tmp_path_factory: pytest.TempPathFactory, name: str) -> Database:
    """A database of its own, in a folder that its account may enter."""
    home = tmp_path_factory.mktemp(name)
    for folder in (home, *home.parents):
        if folder != Path("/tmp") and folder.is_relative_to("/tmp"):
            folder.chmod(0o755)
    return Database(home)


@pytest.fixture(scope="session", name="database_url")
def _database_url(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    database = _fresh(tmp_path_factory, "database")
    url = database.start()
    migrate(url)
    yield url
    database.stop()


@pytest.fixture(scope="module", name="own_database")
def _own_database(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A database that a module has for itself, empty."""
    database = _fresh(tmp_path_factory, "own")
    yield database.start()
    database.stop()


@pytest.fixture(scope="session", name="store")
def _store(database_url: str) -> Iterator[Store]:
    store = Store(database_url)
    load_demo(store)
    yield store
    store.engine.dispose()


@pytest.fixture(scope="session", name="client")
def _client(store: Store) -> Iterator[TestClient]:
    with TestClient(make_app(store, ROOT / "web" / "dist"), base_url="http://127.0.0.1:8765") as client:
        yield client


@dataclass
class Running:
    """The application as `rhombos start` runs it, in a home of its own."""

    home: Path
    port: int
    process: subprocess.Popen[str] | None = None

    @property
    def base(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self, patience: float = 60, at: int | None = None, url: str | None = None, python: Path | None = None) -> None:
        """Start and wait until it answers, at the port asked for or where it is expected to move to; `url` names a database, `python` another interpreter."""
        environment = {**os.environ, "RHOMBOS_HOME": str(self.home), "RHOMBOS_PORT": str(self.port), "PYTHONPATH": str(ROOT / "src")}
        if python:
            environment["PYTHONPATH"] += f":{sysconfig.get_path('purelib')}"
        environment.pop("RHOMBOS_DATABASE_URL", None)
        if url:
            environment["RHOMBOS_DATABASE_URL"] = url
        self.process = subprocess.Popen(
            [str(python or sys.executable), "-m", "rhombos.launch.run"], env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, cwd=ROOT
        )
        self.port = at or self.port
        end = time.monotonic() + patience
        while time.monotonic() < end:
            try:
                with urllib.request.urlopen(f"{self.base}/api/health", timeout=2):
                    return
            except OSError:
                assert self.process.poll() is None, self.process.stdout.read()
                time.sleep(0.1)
        raise AssertionError("the application did not start")

    def stop(self, sign: int = signal.SIGTERM) -> str:
        assert self.process is not None
        self.process.send_signal(sign)
        said, _ = self.process.communicate(timeout=40)
        return said

    def database_pid(self) -> int:
        return int((Database(self.home).run / "mariadb.pid").read_text())


@pytest.fixture(name="running")
def _running(tmp_path: Path) -> Iterator[Running]:
    for folder in (tmp_path, *tmp_path.parents):
        if folder != Path("/tmp") and folder.is_relative_to("/tmp"):
            folder.chmod(0o755)
    running = Running(tmp_path / "home", free_port())
    yield running
    if running.process is not None and running.process.poll() is None:
        running.stop()
    left = Database(running.home)._left_behind()
    if left:
        os.kill(left, signal.SIGTERM)
