"""A parts list pasted from a spreadsheet, and a drawer of one's own servos: all or nothing, told by row, nothing of the builder's lost."""

import pytest

from karakuri.actuators.label import from_label
from karakuri.errors import FileTrouble
from karakuri.exchange.parts_table import parts_of
from karakuri.files.servos import servos_from_text, servos_to_text
from karakuri.model.edit import apply
from karakuri.session.drawer import Drawer, drawer_file
from tests.figures import head


def pasted(text, rides_on="tilt"):
    before = head()
    return before, apply(before, parts_of(before, text, rides_on))


@pytest.mark.parametrize("between", ["\t", ";", ","])
def test_columns_are_known_by_their_names_in_any_order(between):
    rows = [
        ["up [cm]", "Part", "Weight (g)", "rides on", "note", "ahead"],
        ["56", "Skull, big", "412", "Tilt", "x", "35"],
        ["", "Wig", "", "", "", ""],
    ]
    text = "\n".join(between.join(f'"{cell}"' for cell in row) for row in rows)
    before, after = pasted(text, "base")
    skull, wig = after.parts[len(before.parts) :]
    assert (skull.name, skull.mass_g, skull.rides_on, skull.at_mm[2], skull.at_mm[0]) == (
        "Skull, big",
        412.0,
        "tilt",
        560.0,
        35.0,
    )
    assert skull.mass_origin == "guess" and skull.id == "skull_big"
    assert (wig.mass_g, wig.rides_on) == (None, "base")


def test_units_in_cells_and_doubled_names():
    before, after = pasted("name\tmass [oz]\tup [in]\nA\t1 lb\t2\nA\t3\t50 mm\n")
    one, two = after.parts[len(before.parts) :]
    assert one.mass_g == pytest.approx(453.592, abs=0.01) and one.at_mm[2] == pytest.approx(50.8)
    assert two.mass_g == pytest.approx(85.049, abs=0.01) and two.at_mm[2] == pytest.approx(50.0) and one.id != two.id


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "no parts list"),
        ("name\n", "no parts list"),
        ("mass\tup\n3\t4", "no column of names"),
        ("name\tmass\nA\tmany", "row 2, mass"),
        ("name\tmass\nA\t-3", "row 2"),
        ("name\tmass\nA\t1,200", "1200 or 1.200"),
        ("name\tmass\nA\t1e400", "row 2"),
        ("name\tmass\nA\t900000000", "row 2"),
        ("name\trides on\nA\tmoon", "row 2, rides on"),
        ("name\tmass\n\t4", "row 2, name"),
        ("name\n" + "A\n" * 401, "at most"),
        ("name\n" + "A" * 300_000, "at most"),
        ('name\tmass\n"A\n\x00\t3', "row 2"),
    ],
)
def test_what_cannot_be_taken_is_told_and_nothing_is(text, told):
    with pytest.raises(FileTrouble, match="(?s)" + told):
        parts_of(head(), text, "tilt")


@pytest.fixture
def drawer(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    return Drawer()


def mine(name="mine", torque=2.0):
    return from_label(name, torque_Nm=torque, speed_s_per_60deg=0.14, at_voltage_V=6.0, mass_g=60.0)


def test_a_drawer_is_kept_for_every_figure_and_given_away(drawer, tmp_path):
    drawer.put(mine(), mine("other", 1.0))
    drawer.put(mine(torque=3.0))
    again = Drawer()
    assert [s.name for s in again.servos()] == ["mine", "other"] and again.servos()[0] == mine(torque=3.0)
    again.write_to(tmp_path / "give.json")
    again.take_out("mine")
    assert [s.name for s in Drawer().servos()] == ["other"]
    assert again.take_from(tmp_path / "give.json") == 2 and len(Drawer().servos()) == 2
    assert servos_from_text(servos_to_text(again.servos()), "x") == again.servos()


@pytest.mark.parametrize("text", ["{", "[]", '{"format": "karakuri"}', '{"format": "karakuri servos", "version": 1, "servos": [{"name": "x"}]}',
                                  '{"format": "karakuri servos", "version": 1, "servos": [{"name": "x", "torque_Nm": -1}]}'])  # fmt: skip
def test_a_drawer_that_cannot_be_read_is_never_written_over(drawer, text, tmp_path):
    drawer_file().parent.mkdir(parents=True)
    drawer_file().write_text(text)
    assert drawer.servos() == () and drawer.trouble
    with pytest.raises(FileTrouble, match="left as it is"):
        drawer.put(mine())
    assert drawer_file().read_text() == text
    (tmp_path / "given.json").write_text(text)
    with pytest.raises(FileTrouble):
        Drawer().take_from(tmp_path / "given.json")
