"""Whom a start believes: as root and as nobody in particular, with homes and files that others could have made."""

import os
import pwd
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

import pytest

from rhombos.launch.database import ACCOUNT
from rhombos.launch.places import LaunchError
from rhombos.launch.trust import own_folder, read_secret
from tests.conftest import ROOT

as_root = pytest.mark.skipif(os.geteuid() != 0, reason="only root can make what belongs to another")
NOBODY = pwd.getpwnam("nobody").pw_uid


def folder(path: Path, mode: int = 0o755) -> Path:
    path.mkdir()
    path.chmod(mode)
    return path


def test_a_folder_of_ours_is_trusted(tmp_path):
    own_folder(folder(tmp_path / "mine"))


@pytest.mark.parametrize("mode", [0o775, 0o757, 0o777])
def test_a_folder_in_which_others_may_write_is_not(tmp_path, mode):
    with pytest.raises(LaunchError, match="others may write") as told:
        own_folder(folder(tmp_path / "open", mode))
    assert "RHOMBOS_HOME" in told.value.remedy


def test_a_link_is_not(tmp_path):
    (tmp_path / "link").symlink_to(folder(tmp_path / "mine"))
    with pytest.raises(LaunchError, match="link"):
        own_folder(tmp_path / "link")


@as_root
def test_another_s_folder_is_not(tmp_path):
    theirs = folder(tmp_path / "theirs")
    os.chown(theirs, NOBODY, -1)
    with pytest.raises(LaunchError, match="belongs to nobody"):
        own_folder(theirs)


def test_a_secret_is_a_plain_file_of_ours_that_nobody_else_reads(tmp_path):
    file = tmp_path / "password"
    file.write_text("mine\n")
    file.chmod(0o600)
    assert read_secret(file) == "mine"
    file.chmod(0o644)
    with pytest.raises(LaunchError, match="mode 644"):
        read_secret(file)
    file.chmod(0o600)
    (tmp_path / "link").symlink_to(file)
    with pytest.raises(LaunchError):
        read_secret(tmp_path / "link")


def test_a_home_that_somebody_else_made_is_refused_in_words_and_left_alone(running):
    running.home.mkdir()
    running.home.chmod(0o777)
    environment = {**os.environ, "RHOMBOS_HOME": str(running.home), "PYTHONPATH": str(ROOT / "src")}
    said = subprocess.run([sys.executable, "-m", "rhombos.launch.run"], env=environment, capture_output=True, text=True, timeout=60, check=False, cwd=ROOT)
    assert said.returncode == 1
    assert "others may write in it" in said.stdout
    assert "Traceback" not in said.stdout + said.stderr
    assert not (running.home / "mariadb").exists()


DEBIANS = Path("/usr/bin/python3")
"""An interpreter that every account may use; the one that runs the tests may lie in root's own folder."""


@as_root
@pytest.mark.skipif(not DEBIANS.exists() or sys.version_info[:2] != (3, 11), reason="no interpreter here that others may use as well")
def test_root_is_given_up_and_the_database_is_started_again_without_it(running):
    running.start(python=DEBIANS)
    who = pwd.getpwnam(ACCOUNT).pw_uid
    for pid in (running.process.pid, running.database_pid()):
        assert os.stat(f"/proc/{pid}").st_uid == who
    os.kill(running.database_pid(), signal.SIGKILL)
    for _ in range(100):
        time.sleep(0.2)
        try:
            assert os.stat(f"/proc/{running.database_pid()}").st_uid == who
            break
        except OSError:
            continue
    else:
        raise AssertionError("the database did not come back")
    out = running.stop()
    assert f"the data are in {running.home}" in out


@as_root
def test_what_root_writes_follows_no_link_that_the_database_s_account_could_make(running, tmp_path):
    """The account owns `run`: it puts links to a file of root's in the place of all that was ever written there."""
    running.start()
    running.stop()
    target = tmp_path / "secret"
    target.write_text("root's own")
    for name in ("port", "my.cnf", "console.log", "mariadb.pid"):
        link = running.home / "run" / name
        link.unlink(missing_ok=True)
        link.symlink_to(target)
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        running.port = s.getsockname()[1]
    (running.home / "run" / "mariadb.pid").unlink()
    running.start()
    running.stop()
    assert target.read_text() == "root's own"
