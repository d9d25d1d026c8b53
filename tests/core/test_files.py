"""Figure files: round trips, every fault with its path, newer versions, saves that die, recovery."""

import json
import os
import subprocess
import sys
import threading
import time
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.demo import owl_path
from karakuri.errors import EditRefused, FileChanged, FileTrouble
from karakuri.files.disk import WRITTEN, load, save, write_files
from karakuri.files.schema import schema
from karakuri.files.text import from_text, to_text
from karakuri.model.edit import Add, Edit, Remove, Set, apply
from karakuri.model.edits import add_part, remove_item
from karakuri.model.ids import new_id
from karakuri.model.joint_edits import remove_joint
from karakuri.model.sides import twin_part
from karakuri.session import copies
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
    (lambda d: d["parts"][0].update(mass_g=-5), "parts[skull].mass_g", "at least 0"),
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
    (lambda d: d["joints"].append({"id": "tilt", "name": "again"}), "joints", "twice"),
    (lambda d: d.update(postures=[]), "postures", "at least one"),
    (lambda d: d.update(version=3), "version", "newer"),
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


def test_killed_two_hundred_times_while_saving_all_is_old_or_new_and_whole(tmp_path):
    """The file, the copy for a crash, and nothing left behind. In a process of its own, for it is forked."""
    state = {"XDG_STATE_HOME": str(tmp_path / "state"), "PYTHONPATH": os.pathsep.join(map(str, sys.path))}
    (tmp_path / "figures").mkdir()
    script = Path(__file__).with_name("killed_200.py")
    done = subprocess.run(
        [sys.executable, str(script), str(tmp_path / "figures")],
        env=os.environ | state,
        capture_output=True,
        text=True,
        timeout=200,
    )
    assert done.returncode == 0 and done.stdout.startswith("200 kills"), done.stdout + done.stderr


def test_session_saves_undoes_and_recovers(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    target = tmp_path / "head.karakuri"
    session = Session(head())
    assert session.dirty and session.save(target.with_suffix("")) == target and not session.dirty
    assert last_figures() == (target,)
    session.edit(add_part(part("lamp", "tilt", 40.0, (0.0, 0.0, 150.0))))
    session.edit(Edit("drag", (Set(("parts", "lamp", "at_mm"), (1.0, 0.0, 150.0)),), "drag lamp"))
    session.edit(Edit("drag", (Set(("parts", "lamp", "at_mm"), (2.0, 0.0, 150.0)),), "drag lamp"))
    assert session.keep_copy() and session.kept and not session.worth_keeping
    kept = session.kept_at
    crashed = Session.open(target)
    assert crashed.recoverable() is None  # that session is still open: nothing has crashed
    copies.closed(session._ident)  # gone without having closed
    copy = crashed.recoverable()
    assert copy.place == kept and copy.name == session.figure.name
    assert crashed.recover(copy) is crashed
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


def crashed(session):
    session.keep_copy()
    copies.closed(session._ident)


def touch(session, grams):
    session.edit(Edit("m", (Set(("parts", session.figure.parts[0].id, "mass_g"), grams),)))


@pytest.mark.parametrize("name", ["plain", "with [brackets]", "a*b?", "ümlaut é", "n" * 180, "x.12345.autosave"])
def test_a_copy_is_of_its_own_figure_and_of_no_other(name, tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    target, other = tmp_path / f"{name}.karakuri", tmp_path / "other.karakuri"
    Session(head()).save(other)
    session = Session(fig1())
    session.save(target)
    target.chmod(0o640)
    touch(session, 77.0)
    crashed(session)
    assert session.kept_at.stat().st_mode & 0o777 == 0o640
    assert Session.open(other).recoverable() is None and Session(head()).recoverable() is None
    found = Session.open(target).recoverable()
    assert found is not None and found.figure().parts[0].mass_g == 77.0
    os.utime(target, (time.time() + 5, time.time() + 5))  # saved since by another hand: the copy is old
    assert Session.open(target).recoverable() is None and not session.kept_at.exists()


def test_a_figure_never_saved_comes_back_as_itself_and_a_template_untouched_does_not(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    untouched = Session.from_template(owl_path())
    crashed(untouched)
    assert untouched.kept_at is None and Session().recoverable() is None
    session = Session(head())
    touch(session, 55.0)
    crashed(session)
    fresh = Session(fig1())
    copy = fresh.recoverable()
    back = fresh.recover(copy)
    assert back is not fresh and back.figure == session.figure and fresh.figure == fig1() and back.dirty
    copy.drop()
    assert Session().recoverable() is None


def test_a_process_number_used_again_is_another_process(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    session = Session(head())
    touch(session, 55.0)
    crashed(session)
    said = json.loads(session.kept_at.read_text())
    session.kept_at.write_text(json.dumps(said | {"process": 1, "since": "1"}))
    assert Session().recoverable() is not None
    alive = Path("/proc/1/stat").read_text().rpartition(")")[2].split()[19]
    session.kept_at.write_text(json.dumps(said | {"process": 1, "since": alive}))
    assert Session().recoverable() is None


def test_nothing_can_be_kept_is_told_and_a_copy_beside_the_file_is_found(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    (tmp_path / "state").write_text("a file where the folder should be")
    session = Session(head())
    session.save(tmp_path / "a.karakuri")
    touch(session, 44.0)
    crashed(session)
    assert session.kept_at.parent == tmp_path and Session.open(tmp_path / "a.karakuri").recoverable() is not None
    homeless = Session(head())
    touch(homeless, 33.0)
    assert not homeless.keep_copy()


def test_two_hands_on_one_file_are_asked_and_nothing_is_lost(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    target = tmp_path / "shared.karakuri"
    Session(head()).save(target)
    mine, theirs = Session.open(target), Session.open(target)
    touch(mine, 11.0)
    touch(theirs, 22.0)
    theirs.save()
    with pytest.raises(FileChanged, match="another program"):
        mine.save()
    assert load(target) == theirs.figure and mine.dirty and mine.changed_on_disk
    mine.take_theirs()
    assert mine.figure == theirs.figure and not mine.dirty
    mine.undo()
    assert mine.figure.parts[0].mass_g == 11.0
    theirs.save()
    mine.save(over=True)
    assert load(target).parts[0].mass_g == 11.0


def test_overlapping_saves_leave_the_newest(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    session = Session(head())
    session.save(tmp_path / "a.karakuri")
    for n in range(60):
        touch(session, float(n))
        threads = [threading.Thread(target=session.save)]
        threads[0].start()
        touch(session, n + 0.5)
        threads.append(threading.Thread(target=session.save))
        threads[1].start()
        for thread in threads:
            thread.join()
        assert load(tmp_path / "a.karakuri") == session.figure and not session.dirty


def test_what_may_not_be_written_is_told_and_not_made(tmp_path):
    figure = head()
    target = tmp_path / "read-only.karakuri"
    save(figure, target)
    target.chmod(0o444)
    gone = tmp_path / "unmounted" / "a.karakuri"
    os.mkfifo(tmp_path / "pipe.karakuri")
    (tmp_path / "loop.karakuri").symlink_to(tmp_path / "loop.karakuri")
    for path in (target, gone, tmp_path / "pipe.karakuri", tmp_path / "loop.karakuri", tmp_path):
        with pytest.raises(FileTrouble):
            save(fig1(), path)
    assert load(target) == figure and not gone.parent.exists()
    for path in (tmp_path / "pipe.karakuri", tmp_path / "loop.karakuri", tmp_path, gone):
        with pytest.raises(FileTrouble):
            load(path)
    assert not [p for p in tmp_path.iterdir() if p.name.endswith(".part")]


def test_edits_are_atomic_refused_with_reasons_and_re_hang():
    figure = fig1()
    with pytest.raises(EditRefused, match=r"at least 0\.1"):
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


def test_an_export_replaces_only_its_own_files(tmp_path):
    out = tmp_path / "player"
    write_files(out, {"main.cpp": b"one", "Makefile": b"m"})
    write_files(out, {"main.cpp": b"two", "Makefile": b"m"})
    assert (out / "main.cpp").read_bytes() == b"two"
    (out / "Makefile").write_bytes(b"my own port")
    with pytest.raises(FileTrouble, match="in the way"):
        write_files(out, {"main.cpp": b"three", "Makefile": b"m2"})
    assert (out / "main.cpp").read_bytes() == b"two" and (out / "Makefile").read_bytes() == b"my own port"


@pytest.mark.parametrize("kind", ["file", "link", "folder", "dangling", "loop", "manifest"])
def test_an_export_leaves_what_is_not_its_own(tmp_path, kind):
    out, mine = tmp_path / "home", tmp_path / "mine"
    out.mkdir()
    mine.write_bytes(b"mine")
    there = out / "main.cpp"
    match kind:
        case "file":
            there.write_bytes(b"mine")
        case "link":
            there.symlink_to(mine)
        case "folder":
            there.mkdir()
        case "dangling":
            there.symlink_to(tmp_path / "gone")
        case "loop":
            there.symlink_to(there)
        case _:
            (out / WRITTEN).symlink_to(mine)
    with pytest.raises(FileTrouble, match="in the way"):
        write_files(out, {"Makefile": b"m", "main.cpp": b"x"})
    assert mine.read_bytes() == b"mine" and not (out / "Makefile").exists() and not (tmp_path / "gone").exists()
