"""Whom a start believes, and as whom it goes on: folders and files that others could have made are refused, and root is given up."""

import os
import pwd
import stat
import sys
from pathlib import Path

from rhombos.launch.places import ROOT, LaunchError, say


def own_folder(folder: Path) -> None:
    """Refuse a folder that is a link, is not ours, or that others may write: they could have put a password or data of theirs there."""
    found = folder.lstat()
    who = _name(found.st_uid)
    if stat.S_ISLNK(found.st_mode):
        wrong = f"it is a link to {folder.readlink()}"
    elif not stat.S_ISDIR(found.st_mode):
        wrong = "it is no folder"
    elif found.st_uid != os.geteuid():
        wrong = f"it belongs to {who}, and this runs as {_name(os.geteuid())}"
    elif found.st_mode & 0o022:
        wrong = f"others may write in it (mode {stat.S_IMODE(found.st_mode):o})"
    else:
        return
    raise LaunchError(f"Trusting {folder}", wrong, f"set RHOMBOS_HOME to a folder of your own, or see to this one: chown, chmod go-w {folder}")


def read_secret(file: Path) -> str:
    """The text of a file that is ours alone; a link, another's file, or one that others can read is refused."""
    try:
        handle = os.open(file, os.O_RDONLY | os.O_NOFOLLOW)
    except OSError as error:
        raise LaunchError(f"Reading {file}", error.strerror or str(error), "it is to be a plain file of yours; nothing that was saved is lost") from None
    with os.fdopen(handle) as f:
        found = os.fstat(f.fileno())
        if found.st_uid != os.geteuid() or found.st_mode & 0o077:
            raise LaunchError(
                f"Trusting {file}",
                f"it belongs to {_name(found.st_uid)} with mode {stat.S_IMODE(found.st_mode):o}",
                f"chown it to yourself and chmod 600 {file}",
            )
        return f.read().strip()


def give_up_root(account: str) -> None:
    """As root, go on as `account`, which can change nothing but the database's own files; where it could not read the program, say so and stay."""
    if os.geteuid() != 0:
        return
    entry = pwd.getpwnam(account)
    needed = [ROOT, Path(sys.prefix), Path(os.__file__).resolve(), Path(sys.executable).resolve()]
    closed = next((p for place in needed for p in (place, *place.parents) if not p.stat().st_mode & (0o001 if p.is_dir() else 0o004)), None)
    if closed is not None:
        say(f"The server goes on as root: {closed}, which it needs, is closed to {account}.")
        return
    os.setgroups([])
    os.setgid(entry.pw_gid)
    os.setuid(entry.pw_uid)


def _name(uid: int) -> str:
    try:
        return pwd.getpwuid(uid).pw_name
    except KeyError:
        return f"account {uid}"
