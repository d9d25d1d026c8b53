"""The study in a process of its own: the same answers, the same objects, the newest order, and begun again when it dies."""

import contextlib
import os
import pickle
import signal
import subprocess
import sys
import time

import pytest

from karakuri import heap
from karakuri.course import Course, GivenUp
from karakuri.demo import owl_path
from karakuri.files.disk import load
from karakuri.model.edit import Edit, Set, apply
from karakuri.study import answers
from karakuri.study import courier as post
from karakuri.study import line as lines
from karakuri.study.answers import Answers
from karakuri.study.courier import STUDY, WINDOW, Courier
from karakuri.study.line import Line
from karakuri.study.orders import Broke, Finished, GiveUp, Offer, Order, Remedied, Studied, Went, portable
from karakuri.study.reuse import Reuse
from karakuri.study.studied import same_body
from karakuri.study.study import study
from tests.figures import head, scored


@pytest.fixture
def line():
    made = Line()
    yield made
    made.close()


def until(line, kind, number, seconds=60.0):
    """Answers up to the first of a kind and number."""
    end, seen = time.monotonic() + seconds, []
    while time.monotonic() < end:
        answer = line.read()
        seen.append(answer)
        if isinstance(answer, kind) and answer.number == number:
            return seen
        assert answer is not None
    raise AssertionError(f"no {kind.__name__} {number}")


def verdicts(done):
    return {f.id: (f.verdict, f.reserve) for f in done.findings}


def heavier(figure, grams):
    return apply(figure, Edit("m", (Set(("parts", "skull", "mass_g"), grams),)))


def test_it_answers_what_is_answered_in_place(line):
    figure = head(mass_g=900.0)
    line.send(Order(1, figure, False))
    theirs, ours = until(line, Finished, 1), []
    Answers(ours.append, lambda: 1).order(Order(1, figure, False))
    assert [type(a) for a in theirs] == [type(a) for a in ours]
    assert verdicts(theirs[0].study) == verdicts(ours[0].study)
    found = {a.finding: [r.edit.name for r in a.remedies] for a in theirs if isinstance(a, Remedied)}
    assert found == {a.finding: [r.edit.name for r in a.remedies] for a in ours if isinstance(a, Remedied)} and any(
        found.values()
    )
    holds = next(f for f in theirs[0].study.findings if f.verdict == "holds")
    line.send(Offer(1, holds.id))
    assert until(line, Remedied, 1)[-1].finding == holds.id


def test_after_a_quiet_while_it_answers_as_before(line):
    """It tidies up once nothing came for a second; what was sent before is known still."""
    figure = head(mass_g=900.0)
    line.send(Order(1, figure, False))
    until(line, Finished, 1)
    time.sleep(heap.IDLE_S + 0.3)
    line.send(Order(2, heavier(figure, 950.0), False))
    done = until(line, Studied, 2)[-1].study
    assert verdicts(done) == verdicts(study(heavier(figure, 950.0)))


def test_what_did_not_change_is_the_same_object(line):
    """So that what compares by identity, such as same_body, works on both sides."""
    owl = load(owl_path())
    line.send(Order(1, owl, True))
    one = until(line, Studied, 1)[-1].study
    assert one.figure is owl and one.results.figure is owl
    assert all(r.joint is owl.joint(r.joint.id) for r in one.results.joints)
    edited = apply(owl, Edit("m", (Set(("parts", "reading_lamp", "mass_g"), 300.0),)))
    line.send(Order(2, edited, True))
    two = until(line, Studied, 2)[-1].study
    assert two.figure is edited and same_body(two.figure, edited)
    before = {id(f) for f in one.findings}
    assert sum(id(f) in before for f in two.findings) > 0.5 * len(two.findings)
    assert sum(a is b for a, b in zip(one.results.joints, two.results.joints, strict=True)) == len(one.results.joints)


def test_the_newest_order_wins(line):
    figure = scored(*[], mass_g=300.0)
    for number in range(1, 12):
        line.send(Order(number, heavier(figure, 300.0 + number), False))
    answers = until(line, Finished, 11)
    assert (
        next(a for a in answers if isinstance(a, Studied) and a.number == 11).study.figure.part("skull").mass_g == 311.0
    )
    assert len([a for a in answers if isinstance(a, Studied)]) < 11


def killed(line):
    os.kill(line._process.process.pid, signal.SIGKILL)


def test_one_that_dies_is_begun_again_once_and_then_it_is_told(line):
    line.send(Order(1, head(), True))
    until(line, Studied, 1)
    killed(line)
    assert until(line, Studied, 1)[-1].study.findings  # the newest order was given again
    killed(line)
    assert until(line, Broke, 1)[-1].why == lines.ENDED
    line.send(Order(2, heavier(head(), 200.0), True))
    assert until(line, Studied, 2)[-1].study.figure.part("skull").mass_g == 200.0


def test_closing_wakes_the_one_who_reads(line):
    line.send(Order(1, head(), True))
    until(line, Studied, 1)
    process = line._process.process
    line.close()
    assert line.read() is None and process.poll() is not None
    line.send(Order(2, head(), True))  # after that nothing is begun
    assert line._process is None


def test_where_no_process_can_be_begun_that_is_said(monkeypatch):
    def refused():
        raise OSError(11, "Resource temporarily unavailable")

    monkeypatch.setattr(lines, "launch", refused)
    with pytest.raises(OSError, match="unavailable"):
        Line().send(Order(1, head(), True))


@pytest.mark.parametrize(("bound", "most"), [("MOST", 40), ("MOST_BYTES", 40_000)])
def test_both_ends_begin_anew_after_many_things(bound, most, monkeypatch):
    monkeypatch.setattr(post, bound, most)
    window, other = Courier(WINDOW), Courier(STUDY)
    figure = head()
    for number in range(60):
        figure = heavier(figure, 100.0 + number)
        if window.full:
            window.clear()
            other.clear()
        order = other.unpack(window.pack(Order(number, figure, True)))
        assert order.figure == figure
        done = portable(Studied(number, study(order.figure, quick=True), 0.0))
        back = window.unpack(other.pack(done, (*done.study.findings, *done.study.results.joints)))
        assert back.study.figure is figure and verdicts(back.study) == verdicts(done.study)
        assert len(window._known) < 250 and len(other._known) < 250


def test_an_answer_of_before_both_began_anew_is_dropped(line, monkeypatch):
    line.send(Order(1, head(), True))
    until(line, Studied, 1)
    monkeypatch.setattr(post, "MOST", 1)
    line.send(Order(2, heavier(head(), 222.0), True))
    monkeypatch.setattr(post, "MOST", 6000)
    assert until(line, Studied, 2)[-1].study.figure.part("skull").mass_g == 222.0
    with contextlib.suppress(AssertionError):
        line.send(Order(3, heavier(head(), 223.0), True))
        assert until(line, Studied, 3)[-1].number == 3


def test_after_a_process_was_refused_the_next_order_begins_one(line, monkeypatch):
    line.send(Order(1, head(), True))
    until(line, Studied, 1)
    real = lines.launch

    def refused():
        raise OSError(11, "Resource temporarily unavailable")

    monkeypatch.setattr(lines, "launch", refused)
    killed(line)
    assert "unavailable" in until(line, Broke, 1)[-1].why and line.read() is None
    monkeypatch.setattr(lines, "launch", real)
    line.send(Order(2, heavier(head(), 210.0), True))
    assert until(line, Studied, 2)[-1].study.figure.part("skull").mass_g == 210.0


def test_a_study_given_up_at_any_moment_leaves_nothing_behind(monkeypatch):
    """Given up between any two pieces of work, and then made: the same findings as without."""
    figure = load(owl_path())
    wanted = [(f.id, f.verdict, f.reserve) for f in study(figure).findings]
    moments = []
    study(figure, course=Course(went=lambda what, share: moments.append((what, share))))
    assert {what.split()[0] for what, _ in moments} == {"joint", "the"} and all(0 <= share < 1 for _, share in moments)
    reuse = Reuse()
    for k in range(0, len(moments), 2):
        left = iter(range(k))
        with pytest.raises(GivenUp):
            study(figure, reuse, course=Course(stop=lambda left=left: next(left, None) is None))
    done = study(figure, reuse)
    assert [f[:2] for f in wanted] == [(f.id, f.verdict) for f in done.findings]
    assert [f[2] or 0.0 for f in wanted] == pytest.approx([f.reserve or 0.0 for f in done.findings], rel=1e-6)


def test_a_long_study_tells_how_far_it_is_and_ends_when_nobody_waits(monkeypatch):
    monkeypatch.setattr(answers, "FIRST_AFTER_S", 0.0)
    monkeypatch.setattr(answers, "EACH_S", -1.0)
    told, latest = [], [3]
    desk = answers.Answers(told.append, lambda: latest[0])
    desk.order(Order(3, load(owl_path()), quick=False))
    went = [answer for answer in told if isinstance(answer, Went)]
    assert len(went) > 4 and any(isinstance(answer, Studied) for answer in told)
    assert all(answer.number == 3 and 0 <= answer.share <= 1 for answer in went)
    told.clear()
    latest[0] = 5
    desk.order(Order(4, load(owl_path()), quick=False))
    assert told == []


def test_what_is_given_up_is_not_answered_and_the_next_order_is(line):
    line.send(Order(1, load(owl_path()), quick=False))
    line.send(GiveUp(2))
    line.send(Order(3, head(), quick=False))
    answers_seen = until(line, Finished, 3)
    assert not any(isinstance(answer, Finished) and answer.number < 3 for answer in answers_seen)


def test_who_only_shows_an_answer_reads_no_rules_for_it(tmp_path):
    """A window waits for its first answer; all the rules would be read from disk with it."""
    packed = tmp_path / "answer"
    packed.write_bytes(pickle.dumps(portable(Studied(1, study(load(owl_path()), quick=True), 0.0)), protocol=5))
    script = (
        "import pickle, sys\n"
        "answer = pickle.loads(open(sys.argv[1], 'rb').read())\n"
        "print(len(answer.study.findings), 'karakuri.checks.rules' in sys.modules, 'karakuri.study.study' in sys.modules)\n"
    )
    said = subprocess.run([sys.executable, "-c", script, str(packed)], capture_output=True, text=True, check=True)
    count, *read = said.stdout.split()
    assert int(count) > 20 and read == ["False", "False"]


def test_a_branch_answers_like_a_program_of_its_own_and_ends_with_the_wire():
    """Begun where this process has next to nothing: in a fresh Python."""
    script = (
        "from karakuri.study.launch import branch\n"
        "from karakuri.study.line import Line\n"
        "from karakuri.study.orders import Order\n"
        "from karakuri.demo import owl_path\n"
        "from karakuri.files.disk import load\n"
        "def serve(wire):\n"
        "    from karakuri.study.process import main\n"
        "    return main([str(wire)])\n"
        "made = branch(serve)\n"
        "line = Line(made)\n"
        "line.send(Order(1, load(owl_path()), False))\n"
        "answer = line.read()\n"
        "while not hasattr(answer, 'study'):\n"  # on a slow machine it tells first how far it is
        "    answer = line.read()\n"
        "print(sorted((f.id, f.verdict) for f in answer.study.findings))\n"
        "print(made.process.pid, made.process.poll())\n"
        "line.close()\n"
        "print(made.process.poll())\n"
    ).replace("\\\n", "\n")
    out = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, timeout=120, check=True
    ).stdout.splitlines()
    assert out[0] == str(sorted((f.id, f.verdict) for f in study(load(owl_path())).findings))
    assert out[1].endswith(" None") and int(out[2]) <= 0
    with pytest.raises(ProcessLookupError):
        os.kill(int(out[1].split()[0]), 0)


def test_a_branch_that_breaks_says_so_and_is_told_from_one_that_works():
    script = "from karakuri.study.launch import branch\nmade = branch(lambda wire: 1 // 0)\nmade.process.wait(10)\nprint(made.process.returncode)\n"
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, timeout=60, check=True)
    assert done.stdout.strip() == "1" and "ZeroDivisionError" in done.stderr
