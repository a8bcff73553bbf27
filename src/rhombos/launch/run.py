"""`rhombos start`: database, migrations, demo data, server; stops exactly what it started."""

import fcntl
import os
import signal
import socket
import sys
import time
from pathlib import Path
from types import FrameType
from typing import IO

import uvicorn

from rhombos import __version__
from rhombos.launch.database import Database, LaunchError
from rhombos.launch.seed import load_demo
from rhombos.store.migrate import migrate
from rhombos.store.repository import Store

DEFAULT_PORT = 8765
ROOT = Path(__file__).resolve().parents[3]


def home() -> Path:
    """Where this installation keeps its data: RHOMBOS_HOME, else `.rhombos` in the project."""
    return Path(os.environ.get("RHOMBOS_HOME", str(ROOT / ".rhombos")))


def say(text: str) -> None:
    """A line to the person who starts it."""
    print(text, flush=True)


def main() -> int:
    """Start everything; 0 after an orderly stop, 1 where a step failed."""
    folder = home()
    folder.mkdir(parents=True, exist_ok=True)
    lock = (folder / "lock").open("a+")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        lock.seek(0)
        say(f"Rhombos runs already: {lock.read().strip() or 'it is just starting'}")
        return 0
    database: Database | None = None
    signal.signal(signal.SIGTERM, _interrupt)
    try:
        url = os.environ.get("RHOMBOS_DATABASE_URL")
        if url is None:
            database = Database(folder)
            say("Starting the database …")
            url = database.start()
        _serve(url, lock)
        return 0
    except LaunchError as error:
        say(str(error))
        return 1
    except KeyboardInterrupt:
        return 0
    finally:
        if database is not None:
            say("Stopping the database …")
            database.stop()


def _interrupt(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def _serve(url: str, lock: IO[str]) -> None:
    from rhombos.api.app import make_app

    began = time.monotonic()
    store = Store(url)
    try:
        migrate(url)
        load_demo(store)
    except Exception as error:
        raise LaunchError("Preparing the database", str(error).split("\n")[0][:400], "check RHOMBOS_DATABASE_URL, or remove .rhombos to begin anew") from error
    page = ROOT / "web" / "dist"
    if not (page / "index.html").exists():
        raise LaunchError("Finding the page", f"{page} holds no build", "run `make start`, which builds it")
    listener, port = _listen()
    address = f"http://127.0.0.1:{port}/"
    lock.seek(0)
    lock.truncate()
    lock.write(address)
    lock.flush()
    server = uvicorn.Server(uvicorn.Config(make_app(store, page), log_level="warning", access_log=False, server_header=False, timeout_graceful_shutdown=3))
    say(f"Rhombos {__version__} is at {address}  (ready in {time.monotonic() - began:.1f} s; Ctrl-C stops it)")
    server.run(sockets=[listener])


def _listen() -> tuple[socket.socket, int]:
    """A listening socket on the wanted port, or the next free one; says which."""
    try:
        wanted = int(os.environ.get("RHOMBOS_PORT", DEFAULT_PORT))
    except ValueError:
        raise LaunchError("Reading RHOMBOS_PORT", f"{os.environ['RHOMBOS_PORT']!r} is not a port", "give a number from 1 to 65535") from None
    for port in range(wanted, wanted + 50):
        listener = socket.socket()
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind(("127.0.0.1", port))
        except OSError:
            listener.close()
            continue
        if port != wanted:
            say(f"Port {wanted} is in use; taking {port}.")
        return listener, port
    raise LaunchError("Opening a port", f"{wanted} to {wanted + 49} are all in use", "set RHOMBOS_PORT to a free one")


if __name__ == "__main__":
    sys.exit(main())
