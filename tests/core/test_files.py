"""Figure files: round trips, every fault with its path, newer versions, saves that die, recovery."""

import json
import os
import signal
import subprocess
import sys
import time

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.demo import owl_path
from karakuri.errors import EditRefused, FileTrouble
from karakuri.files.disk import load, save
from karakuri.files.schema import schema
from karakuri.files.text import from_text, to_text
from karakuri.model.edit import Add, Edit, Remove, Set, apply
from karakuri.model.edits import add_part, new_id, remove_item, remove_joint, twin_part
from karakuri.session.places import last_figures
from karakuri.session.session import Session
from tests.figures import fig1, head, part, random_figure


@given(st.integers(0, 10_000), st.integers(0, 6))
@settings(max_examples=60, deadline=None)
def test_round_trip(seed, joints):
    figure = random_figure(seed, joints, slides=True)
    text = to_text(figure)
    assert from_text(text) == figure
    assert to_text(from_text(text)) == text


def test_the_demo_obeys_the_shipped_schema_and_round_trips():
    data = json.loads(owl_path().read_text("utf-8"))
    jsonschema.Draft202012Validator.check_schema(schema())
    jsonschema.validate(data, schema())
    assert to_text(load(owl_path())) == owl_path().read_text("utf-8")
    data["parts"][0]["shape"].pop("kind")
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(data, schema())


def test_a_file_by_hand_needs_few_fields():
    figure = from_text(
        '{"joints": [{"id": "tilt", "name": "Tilt"}], "parts": [{"id": "a", "name": "a", "rides_on": "tilt", "mass_g": 300}]}'
    )
    assert figure.joint("tilt").range_deg == (-30.0, 30.0)


GOOD = {"format": "karakuri figure", "version": 1, "joints": [{"id": "tilt", "name": "Tilt"}],
        "parts": [{"id": "skull", "name": "skull", "rides_on": "tilt", "mass_g": 300}]}  # fmt: skip


@pytest.mark.parametrize(("change", "path", "says"), [
    (lambda d: d["parts"][0].update(mass_g=-5), "parts[skull].mass_g", "greater than or equal to 0"),
    (lambda d: d["parts"][0].update(mass_g="heavy"), "parts[skull].mass_g", "number"),
    (lambda d: d["parts"][0].update(weight=5), "parts[skull].weight", "no such field"),
    (lambda d: d["parts"][0].pop("name"), "parts[skull].name", "a value"),
    (lambda d: d["parts"][0].update(at_mm=[1, 2]), "parts[skull].at_mm[2]", "a value"),
    (lambda d: d["parts"][0].update(rides_on="neck"), "parts.skull.rides_on", "there is no joint 'neck'"),
    (lambda d: d["parts"][0].update(shape={"kind": "cone"}), "parts[skull].shape.kind", "box"),
    (lambda d: d["parts"][0].update(shape={"size_mm": [1, 2, 3]}), "parts[skull].shape.kind", "none"),
    (lambda d: d["joints"][0].update(range_deg=[30, -30]), "joints[tilt]", "low to high"),
    (lambda d: d["joints"][0].update(axis=[0, 0, 0]), "joints[tilt]", "direction"),
    (lambda d: d["joints"][0].update(rides_on="tilt"), "joints.tilt.rides_on", "rides on itself"),
    (lambda d: d["joints"].append({"id": "tilt", "name": "again"}), "parts and joints", "twice"),
    (lambda d: d.update(postures=[]), "postures", "at least one"),
    (lambda d: d.update(version=2), "version", "newer"),
    (lambda d: d.update(format="other"), "format", "another kind"),
])  # fmt: skip
def test_every_fault_is_told_with_its_path(change, path, says):
    data = json.loads(json.dumps(GOOD))
    change(data)
    with pytest.raises(FileTrouble) as told:
        from_text(json.dumps(data), "head.karakuri")
    assert path in str(told.value), str(told.value)
    assert says in str(told.value), str(told.value)


def test_all_faults_at_once_and_texts_that_are_no_json():
    data = json.loads(json.dumps(GOOD))
    data["parts"][0].update(mass_g=-1, colour="red")
    data["joints"][0]["stop_tolerance_deg"] = -2
    with pytest.raises(FileTrouble) as told:
        from_text(json.dumps(data))
    assert len(told.value.faults) == 3
    for text, says in (("{", "line 1"), ("[1]", "object"), ("[" * 100_000, "cannot be read"), ('{"parts": [{"id": "a", "name": "a", "mass_g": NaN}]}', "mass_g"),
                       ('{"parts": 1e400}', "parts")):  # fmt: skip
        with pytest.raises(FileTrouble, match=says):
            from_text(text)


def test_files_that_are_not_there_or_not_text(tmp_path):
    with pytest.raises(FileTrouble, match="cannot be read"):
        load(tmp_path / "none.karakuri")
    (tmp_path / "a.karakuri").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(FileTrouble, match="not text"):
        load(tmp_path / "a.karakuri")


def test_a_save_that_cannot_be_leaves_the_old_file_and_no_litter(tmp_path):
    target = tmp_path / "head.karakuri"
    save(head(), target)
    before = target.read_text()
    folder = tmp_path / "file"
    folder.write_text("x")
    with pytest.raises(FileTrouble, match="cannot be written"):
        save(fig1(), folder / "inside.karakuri")
    assert target.read_text() == before and sorted(p.name for p in tmp_path.iterdir()) == ["file", "head.karakuri"]


def test_killed_while_saving_the_file_is_old_or_new_and_whole(tmp_path):
    target = tmp_path / "f.karakuri"
    script = ("import sys; from pathlib import Path; from karakuri.files.disk import save; from tests.figures import random_figure\n"
              "a, b = random_figure(1, 6), random_figure(2, 6); save(a, Path(sys.argv[1])); print('go', flush=True)\n"
              "while True:\n  save(b, Path(sys.argv[1])); save(a, Path(sys.argv[1]))")  # fmt: skip
    kinds = {to_text(random_figure(s, 6)) for s in (1, 2)}
    for wait in (0.003, 0.011, 0.023):
        child = subprocess.Popen([sys.executable, "-c", script, str(target)], stdout=subprocess.PIPE)
        child.stdout.readline()
        time.sleep(wait)
        os.kill(child.pid, signal.SIGKILL)
        child.wait()
        child.stdout.close()
        assert target.read_text() in kinds


def test_session_saves_undoes_and_recovers(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    target = tmp_path / "head.karakuri"
    session = Session(head())
    assert session.dirty and session.save(target.with_suffix("")) == target and not session.dirty
    assert last_figures() == (target,)
    session.edit(add_part(part("lamp", "tilt", 40.0, (0.0, 0.0, 150.0))))
    session.edit(Edit("drag", (Set(("parts", "lamp", "at_mm"), (1.0, 0.0, 150.0)),), "drag lamp"))
    session.edit(Edit("drag", (Set(("parts", "lamp", "at_mm"), (2.0, 0.0, 150.0)),), "drag lamp"))
    kept = session.autosave()
    assert kept is not None and kept.parent == tmp_path and session.autosave() is None
    crashed = Session.open(target)  # the first session is gone without having closed
    place = crashed.recoverable()
    assert place == kept
    crashed.recover(place)
    assert crashed.figure == session.figure and crashed.dirty
    assert crashed.undo() and crashed.figure == head()
    assert session.undo() and session.figure.part("lamp").at_mm == (0.0, 0.0, 150.0)
    assert session.redo() and session.figure.part("lamp").at_mm == (2.0, 0.0, 150.0)
    session.undo()
    session.undo()
    assert not session.undo() and not session.dirty
    crashed.redo()
    crashed.save()
    assert not kept.exists() and crashed.recoverable() is None


def test_autosave_goes_to_the_state_folder_where_the_own_cannot_be_written(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    never_saved = Session(head())
    assert never_saved.autosave().parent == tmp_path / "state" / "karakuri"
    lost = Session(fig1(), tmp_path / "gone" / "x.karakuri")
    (tmp_path / "gone").write_text("a file where the folder was")
    lost.edit(add_part(part("lamp", "base", 40.0, (0.0, 0.0, 0.0))))
    assert lost.autosave().parent == tmp_path / "state" / "karakuri"
    assert Session(None).recoverable() is not None


def test_edits_are_atomic_refused_with_reasons_and_re_hang():
    figure = fig1()
    with pytest.raises(EditRefused, match="greater than 0"):
        apply(figure, Edit("x", (Set(("supply", "current_A"), 9.0), Set(("supply", "voltage_V"), -1.0))))
    with pytest.raises(EditRefused, match="no 'nose'"):
        apply(figure, Edit("x", (Remove("parts", "nose"),)))
    with pytest.raises(EditRefused, match="there is no field"):
        apply(figure, Edit("x", (Set(("parts", "jaw", "weight"), 1.0),)))
    with pytest.raises(EditRefused, match="twice"):
        apply(figure, Edit("x", (Add("parts", figure.part("jaw")),)))
    with pytest.raises(EditRefused, match="rides on itself"):
        apply(figure, Edit("x", (Set(("joints", "pan", "rides_on"), "roll"),)))
    hung = apply(figure, remove_joint(figure, "tilt"))
    assert hung.joint("roll").rides_on == "pan" and hung.part("tilt_link").rides_on == "pan"
    with pytest.raises(EditRefused, match="at least one posture"):
        remove_item(figure, "postures", "level")
    assert new_id(figure, "Skull!") == "skull_2"
    twin = apply(figure, twin_part(figure, "eye_l"))
    assert twin.parts[-1].at_mm == (55.0, -32.0, 75.0)


def test_a_material_in_use_and_a_joint_that_is_followed_stay():
    owl = load(owl_path())
    used = apply(owl, Edit("x", (Set(("parts", "yoke", "material"), "birch_ply"),)))
    with pytest.raises(EditRefused, match="yoke is made of it"):
        remove_item(used, "materials", "birch_ply")
    from karakuri.model.joint import Follow, Joint

    lid = Joint(id="lid", name="Lid", role="follows", follows=Follow(joint="beak"))
    followed = apply(owl, Edit("x", (Add("joints", lid),)))
    with pytest.raises(EditRefused, match="Lid follows it"):
        remove_joint(followed, "beak")
