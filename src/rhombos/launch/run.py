"""`rhombos start`: database, migrations, demo data, server; stops exactly what it started."""

import fcntl
import os
import signal
import sys
from types import FrameType

from rhombos.launch.database import ACCOUNT, Database
from rhombos.launch.places import LaunchError, home, say, wanted_port
from rhombos.launch.trust import give_up_root, own_folder
from rhombos.launch.workers import wanted_workers


def main() -> int:
    """Start everything; 0 after an orderly stop, 1 where a step failed."""
    folder = home()
    folder.mkdir(parents=True, exist_ok=True, mode=0o755)
    try:
        # Before anything is opened in it.
        own_folder(folder.resolve())
    except LaunchError as error:
        say(str(error))
        return 1
    lock = (folder / "lock").open("a+")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        lock.seek(0)
        say(f"Rhombos runs already: {lock.read().strip() or 'it is just starting'}")
        return 0
    database: Database | None = None
    signal.signal(signal.SIGTERM, _interrupt)
    # A closed terminal stops it as Ctrl-C does: nothing that was started stays behind.
    signal.signal(signal.SIGHUP, _as_terminate)
    try:
        wanted_port()
        wanted_workers()
        url = os.environ.get("RHOMBOS_DATABASE_URL") or None
        if url is None:
            database = Database(folder)
            say(f"Starting the database; the data are in {database.home} …")
            database.begin()
        # The heavy imports run while the database comes up.
        from rhombos.launch.serve import serve

        if url is None and database is not None:
            url = database.ready()
            give_up_root(ACCOUNT)
        serve(url or "", lock, database.watch if database is not None else lambda: None)
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


def _as_terminate(number: int, frame: FrameType | None) -> None:
    os.kill(os.getpid(), signal.SIGTERM)


def _interrupt(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


if __name__ == "__main__":
    sys.exit(main())
