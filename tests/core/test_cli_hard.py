"""The command line where it hurts: no traceback, whatever the files and streams it is given."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from karakuri.demo import owl_path

OWL = str(owl_path())


def karakuri(*arguments, cwd=None, **streams):
    """Run it as a process of its own, bounded in time."""
    streams = {"stdin": subprocess.DEVNULL, "stdout": subprocess.PIPE, "stderr": subprocess.PIPE} | streams
    return subprocess.run([sys.executable, "-m", "karakuri", *arguments], cwd=cwd, timeout=60, check=False, **streams)


def make(folder: Path, kind: str, name: str = "odd.karakuri") -> str:
    at = folder / name
    {
        "fifo": lambda: os.mkfifo(at),
        "loop of links": lambda: ((folder / "b").symlink_to(at), at.symlink_to(folder / "b")),
        "folder": at.mkdir,
        "endless": lambda: at.symlink_to("/dev/zero"),
        "nowhere": lambda: at.symlink_to(folder / "gone"),
        "empty": at.touch,
    }[kind]()
    return str(at)


@pytest.mark.parametrize("kind", ["fifo", "loop of links", "folder", "endless", "nowhere", "empty"])
def test_a_figure_that_is_no_file_is_told(kind, tmp_path):
    done = karakuri("check", make(tmp_path, kind))
    assert (
        done.returncode == 2 and b"odd.karakuri" in done.stderr and b"Traceback" not in done.stderr and not done.stdout
    )


@pytest.mark.parametrize("arguments", [("schema",), ("check", OWL, "--json")])
def test_a_full_disk_a_closed_pipe_and_no_output_at_all(arguments):
    with open("/dev/full", "wb") as full:
        done = karakuri(*arguments, stdout=full)
    assert done.returncode == 2 and b"No space left" in done.stderr and b"Traceback" not in done.stderr
    read, write = os.pipe()
    os.close(read)
    done = karakuri(*arguments, stdout=write)
    os.close(write)
    assert done.returncode == 0 and not done.stderr
    closed = subprocess.run(["sh", "-c", 'exec "$@" >&-', "sh", sys.executable, "-m", "karakuri", *arguments], timeout=60,
                            stdin=subprocess.DEVNULL, stderr=subprocess.PIPE, check=False)  # fmt: skip
    assert closed.returncode in (0, 1, 2, 3) and b"Traceback" not in closed.stderr


@pytest.mark.parametrize("kind", ["fifo", "loop of links", "folder"])
def test_frames_and_players_go_into_nothing_odd(kind, tmp_path):
    table = make(tmp_path, kind, "odd.csv")
    done = karakuri("export", OWL, "--to", table)
    assert done.returncode == 2 and b"Traceback" not in done.stderr and b"written" in done.stderr
    done = karakuri("export", OWL, "--to", "player", table)
    assert b"Traceback" not in done.stderr and (done.returncode == 0) == (kind == "folder")
    done = karakuri("play", OWL, "--board", table)
    assert done.returncode == 1 and b"nothing was moved" in done.stderr and b"parks by itself" not in done.stderr


@pytest.mark.parametrize("closed", [False, True])
def test_the_end_of_input_is_a_no(closed):
    command = [sys.executable, "-m", "karakuri", "play", OWL, "--board", "stand-in"]
    if closed:
        command = ["sh", "-c", 'exec "$@" <&-', "sh", *command]
    done = subprocess.run(command, stdin=subprocess.DEVNULL, capture_output=True, timeout=60, check=False)
    assert (
        done.returncode == 1 and b"Not confirmed; nothing was moved." in done.stderr and b"Traceback" not in done.stderr
    )
