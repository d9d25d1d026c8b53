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
from tests.figures import fig1, head


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
