"""The command line: verdicts as exit status, pose as numbers, schema; the core without a window."""

import json
import subprocess
import sys

import jsonschema
import pytest

from karakuri.cli.main import run
from karakuri.demo import owl_path
from karakuri.files.disk import save
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Supply
from karakuri.model.moves import Row
from tests.figures import fig1, head, scored


def answer(capsys, *arguments):
    status = run(list(arguments))
    out = capsys.readouterr()
    return status, out.out, out.err


def test_check_says_by_its_status(tmp_path, capsys):
    well = apply(
        head(200.0, servo="class_25", stops_deg=(-45.0, 45.0)), Edit("x", (Set(("supply",), Supply(current_A=20.0)),))
    )
    for figure, want in ((well, 0), (head(3000.0), 1), (head(200.0, servo="class_25"), 3), (head(servo=None), 3)):
        save(figure, tmp_path / "f.karakuri")
        assert answer(capsys, "check", str(tmp_path / "f.karakuri"))[0] == want
    (tmp_path / "bad.karakuri").write_text('{"parts": [{"id": "A"}]}')
    status, out, err = answer(capsys, "check", str(tmp_path / "bad.karakuri"))
    assert status == 2 and "parts[A].id" in err and not out


def test_check_as_json_and_in_other_units(capsys):
    status, out, _ = answer(capsys, "check", str(owl_path()), "--json")
    findings = json.loads(out)["findings"]
    assert status == 1 and findings[0]["verdict"] == "fails"
    compared = [f for f in findings if f["verdict"] == "fails" and f["reserve"] is not None and f["demand"] is not None]
    assert compared and all(f["demand"] > f["capacity"] for f in compared)
    assert "oz·in" in answer(capsys, "check", str(owl_path()), "--units", "inch")[1]


def test_pose(tmp_path, capsys):
    save(fig1(), tmp_path / "f.karakuri")
    path = str(tmp_path / "f.karakuri")
    status, out, _ = answer(capsys, "pose", path, "--set", "tilt=30", "--json")
    rows = {row["joint"]: row for row in json.loads(out)["joints"]}
    assert status == 0
    assert rows["tilt"]["holding_torque_Nm"] == pytest.approx(-0.847, abs=5e-4)
    assert rows["roll"]["carried_mass_kg"] == pytest.approx(1.418)
    for bad, says in (("nose=1", "expected one of pan"), ("tilt=up", "a number"), ("tilt=inf", "finite")):
        status, _, err = answer(capsys, "pose", path, "--set", bad)
        assert status == 2 and says in err
    assert answer(capsys, "pose", path, "--posture", "lying")[0] == 2


def test_schema_and_the_whole_without_qt(capsys):
    jsonschema.Draft202012Validator.check_schema(json.loads(answer(capsys, "schema")[1]))
    code = ("import sys; sys.modules['PyQt6'] = None\nfrom karakuri.cli.main import run\n"
            f"sys.exit(run(['check', {str(owl_path())!r}]))")  # fmt: skip
    assert subprocess.run([sys.executable, "-c", code], capture_output=True).returncode == 1


def test_size_of_every_joint_over_the_score(capsys):
    status, out, _ = answer(capsys, "size", str(owl_path()), "--json")
    rows = json.loads(out)["joints"]
    assert status == 0 and len(rows) == 8
    assert set(rows[0]) == {
        "joint", "moved_by", "worst_hold_Nm", "worst_hold_at_s", "peak_Nm", "peak_at_s", "rms_Nm", "top_speed_deg_per_s", "top_speed_at_s", "reserves",
    }  # fmt: skip
    assert set(rows[0]["reserves"]) == {"held", "passing", "rms", "speed"}
    assert "neck_tilt" in answer(capsys, "size", str(owl_path()))[1]


def test_export_of_frames_and_players(tmp_path, capsys):
    owl = str(owl_path())
    status, _, err = answer(capsys, "export", owl, "--to", str(tmp_path / "f.csv"))
    assert status == 0 and "Beak: 57 frames were held" in err
    assert (tmp_path / "f.csv").read_text().startswith("time_s,neck_pan_channel [deg]")
    status, _, err = answer(capsys, "export", owl, "--to", "player", str(tmp_path / "p"), "--pulses", "i2c")
    assert status == 0 and "bytes of flash" in err
    assert (tmp_path / "p" / "firmware.cpp").exists() and "channel 3 of the generator" in (
        tmp_path / "p" / "README.txt"
    ).read_text()
    for wrong in (["player"], [str(tmp_path / "f.txt")], ["a.csv", "b.csv"]):
        assert answer(capsys, "export", owl, "--to", *wrong)[0] == 2
    save(head(), tmp_path / "still.karakuri")
    status, _, err = answer(capsys, "export", str(tmp_path / "still.karakuri"), "--to", str(tmp_path / "g.csv"))
    assert status == 2 and "no score yet" in err and not (tmp_path / "g.csv").exists()
    assert answer(capsys, "play", str(tmp_path / "still.karakuri"), "--board", "stand-in")[0] == 2


def test_play_on_the_stand_in(tmp_path, capsys, monkeypatch):
    figure = scored(Row(0.1, 0.3, 10.0), Row(0.6, 0.3, 0.0), length_s=1.0, mass_g=40.0, ranges=(-12.0, 12.0))
    save(figure, tmp_path / "f.karakuri")
    status, _, err = answer(capsys, "play", str(tmp_path / "f.karakuri"), "--board", "stand-in", "--once", "--powered")
    assert status == 0 and "Every joint is at park." in err and "late by more than 4 ms" in err
    monkeypatch.setattr("builtins.input", lambda _: "no")
    status, _, err = answer(capsys, "play", str(tmp_path / "f.karakuri"), "--board", "stand-in")
    assert status == 1 and "Not confirmed; nothing was moved." in err and "pinched" in err
    assert answer(capsys, "play", str(tmp_path / "f.karakuri"), "--board", "tcp:127.0.0.1:1", "--powered")[0] == 1
