"""Pulses of a joint's servo, on the Limits card: as calibrated, dated in the record, or as its class usually has them."""

from __future__ import annotations

import math
from datetime import datetime

import numpy as np

from karakuri.actuators.calibrate import tooth
from karakuri.actuators.generator import prescale, real_rate_hz, resolution_rad, tick_us
from karakuri.actuators.pulses import PulseMap, pulse_map
from karakuri.model.drive import Drive
from karakuri.model.edits import set_field
from karakuri.model.finding import Derivation
from karakuri.model.joint import Joint
from karakuri.model.record import Entry
from karakuri.model.record_edits import calibration, horn_off, measured_at, named_place, swapped
from karakuri.motion.frames import RATE_HZ
from karakuri.units import Quantity
from karakuri.wiring.plug_in import to_output
from karakuri.workbench.benches.bench import degrees
from karakuri.workbench.benches.trying_items import order_items
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Calc, Do, Fact, Head, Item, Note, Write, WriteText

PLACES = ("low end", "middle", "high end")


def pulse_items(desk: Desk, joint: Joint) -> list[Item]:
    """Angles and pulses of the three places, what they come to, and what was written down about them."""
    drive = desk.figure.drive_of(joint.id)
    if drive is None:
        return [Head("hp", "Pulses"), Note("np", "Pulses are known once a servo is fitted on the Drive bench.")]
    entry = desk.figure.calibrated(drive.id)
    mapped = pulse_map(desk.figure, joint, drive)
    items: list[Item] = [
        *order_items(desk, joint, drive, mapped, _output(desk, joint), lambda *end: _end(desk, joint, drive, *end)),
        Head("hp", "Pulses"),
        Note("np", _standing(entry, drive, desk)),
    ]
    for i, place in enumerate(PLACES):
        items += [
            Write(f"rec a{i}", f"Angle, {place}", degrees(math.degrees(mapped.three[0][i])), "angle", _write(desk, joint, drive, i, "angle")),
            Write(f"rec p{i}", f"Pulse, {place}", Quantity(mapped.three[1][i] * 1e-6, "pulse"), "pulse", _write(desk, joint, drive, i, "pulse")),
        ]  # fmt: skip
    items += [
        Do("turn", "It turns the other way", lambda: _turned(desk, joint, drive)),
        *_teeth(desk, joint, drive, mapped),
        Write("rec tooth", "Horn on tooth", _tooth(desk, drive), "count", lambda v: _calibrate(desk, joint, drive, horn_tooth=round(v)), "not noted"),
        Write("out", "Output of the board", Quantity(_output(desk, joint), "count"), "count", lambda v: _plug(desk, joint, drive, round(v))),
        *_resolution(joint, mapped),
        *_steps(desk, joint, mapped),
        *_named(desk, joint, drive, mapped),
    ]  # fmt: skip
    if entry is not None:
        items.append(Do("off", "The horn came off", lambda: desk.note(lambda: horn_off(drive.id, _now()))))
    past = [e for e in desk.figure.record if e.drive == drive.id]
    for n, e in enumerate(reversed(past[-4:])):
        items.append(Fact(f"e{n}", e.date.replace("T", " "), e.kind))
    return items


def _standing(entry: Entry | None, drive: Drive, desk: Desk) -> str:
    if entry is not None:
        return f"Calibrated {entry.date.replace('T', ' ')}; valid until the horn comes off."
    if any(e.drive == drive.id and e.kind == "horn off" for e in desk.figure.record):
        return "The horn has been off since it was calibrated: these are what its class usually has, an estimate. Write what you measure."
    return "Not calibrated: these are what its class usually has, an estimate. Step there, see where nothing grinds, and write what you measure."


def _now() -> str:
    return datetime.now().strftime("%Y-%m-%dT%H:%M:%S")


def _output(desk: Desk, joint: Joint) -> int:
    return next((o.number for o in desk.board.outputs() if o.joint == joint.id), 0)


def _tooth(desk: Desk, drive: Drive) -> Quantity | None:
    kept = desk.figure.calibration_of(drive.id)
    return Quantity(kept.horn_tooth, "count") if kept is not None and kept.horn_tooth is not None else None


def _usual(joint: Joint, drive: Drive, desk: Desk) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
    """Angles, degrees, and pulses, µs, as they are known now."""
    mapped = pulse_map(desk.figure, joint, drive)
    low, middle, high = (round(math.degrees(a), 3) for a in mapped.three[0])
    return (low, middle, high), mapped.three[1]


def _calibrate(desk: Desk, joint: Joint, drive: Drive, **measured: object) -> bool:
    """One more calibration in the record: what is known, with some of it measured anew."""
    return desk.note(lambda: calibration(desk.figure, drive.id, _now(), _usual(joint, drive, desk), **measured))


def _write(desk: Desk, joint: Joint, drive: Drive, which: int, what: str):
    def done(value: float) -> None:
        mapped = pulse_map(desk.figure, joint, drive)
        if what == "angle":
            angles = [round(math.degrees(a), 3) for a in mapped.three[0]]
            angles[which] = round(math.degrees(value), 3)
            _calibrate(desk, joint, drive, angles_deg=tuple(angles))
        else:
            pulses = list(mapped.three[1])
            pulses[which] = round(value * 1e6, 1)
            _calibrate(desk, joint, drive, pulses_us=tuple(pulses))

    return done


def _end(desk: Desk, joint: Joint, drive: Drive, which: int, angle_deg: float, pulse_us: float) -> None:
    """An end as it was found: its pulse, and the angle that is to be expected there; measure that too and write it."""
    angles, pulses = _usual(joint, drive, desk)
    new_angles, new_pulses = list(angles), list(pulses)
    new_angles[which], new_pulses[which] = angle_deg, pulse_us
    _calibrate(desk, joint, drive, angles_deg=tuple(new_angles), pulses_us=tuple(new_pulses))


def _turned(desk: Desk, joint: Joint, drive: Drive) -> None:
    mapped = pulse_map(desk.figure, joint, drive)
    _calibrate(desk, joint, drive, pulses_us=tuple(reversed(mapped.three[1])))


def _plug(desk: Desk, joint: Joint, drive: Drive, number: int) -> None:
    desk.edit(lambda: to_output(desk.figure, drive.id, number))


def _teeth(desk: Desk, joint: Joint, drive: Drive, mapped: PulseMap) -> list[Item]:
    """Which tooth to choose so that the middle is the middle, and what is left to trim."""
    off = desk.stands_off.get(drive.id)
    items: list[Item] = [
        Head("ht", "Horn on its spline"),
        Note("nt", "Send the middle pulse, put the horn on as near to the middle as it goes, and measure how far it stands off."),
        Write("teeth", "Teeth of its spline", Quantity(drive.mount.teeth, "count"), "count", lambda v: desk.edit(set_field(desk.figure, "drives", drive.id, ("mount", "teeth"), round(v), "teeth of the spline"))),
        Write("look off", f"Stands off, + {joint.ends[1]}", None if off is None else Quantity(off, "angle"), "angle", lambda v: desk.horn_stands_off(drive.id, v), "not noted", emptied=lambda: desk.horn_stands_off(drive.id, None)),
    ]  # fmt: skip
    if off is None:
        return items
    found, (angles, pulses) = tooth(off, drive.mount.teeth, mapped.us_per_rad), mapped.three
    way = joint.ends[1] if found.steps > 0 else joint.ends[0]
    words = (
        f"{abs(found.steps)} {'tooth' if abs(found.steps) == 1 else 'teeth'} toward {way}"
        if found.steps
        else "It is on the right tooth"
    )
    left, trimmed = desk.show(Quantity(abs(found.left), "angle")), pulses[1] + found.trim_us
    stands = tuple(
        round(math.degrees(angle + found.left), 3) for angle in angles
    )  # the servo turns as before, the horn stands otherwise on it
    items += [
        Note("tooth", f"{words}: a tooth is {360 / drive.mount.teeth:.1f}°. {left} are left then; where it was in the middle at {pulses[1]:.0f} µs it will be at {trimmed:.0f}."),
        Do("trim", "It is on that tooth now", lambda: _on_tooth(desk, joint, drive, stands)),
    ]  # fmt: skip
    return items


def _on_tooth(desk: Desk, joint: Joint, drive: Drive, stands: tuple[float, ...]) -> None:
    """The horn was put on another tooth: where it stands now is written down, and what was measured before is no more."""
    if _calibrate(desk, joint, drive, angles_deg=stands):
        desk.horn_stands_off(drive.id, None)


def _resolution(joint: Joint, mapped: PulseMap) -> list[Item]:
    per_deg = abs(mapped.us_per_rad) * math.pi / 180
    counts = Derivation(
        "One count of a 12-bit generator",
        "{0} ÷ ({1} × 4096) ÷ {2} per degree",
        (Quantity(1.0, "time"), Quantity(RATE_HZ, "count"), Quantity(per_deg * 1e-6, "pulse")),
        Quantity(resolution_rad(mapped.us_per_rad, RATE_HZ), "angle"),
    )
    return [
        Calc("res", counts),
        Note(
            "resn",
            f"A count is {tick_us(RATE_HZ):.3f} µs at 50 frames a second (prescale {prescale(RATE_HZ)}, really {real_rate_hz(prescale(RATE_HZ)):.2f} Hz at 25 MHz); a finer wish is rounded to it.",
        ),
    ]


def _steps(desk: Desk, joint: Joint, mapped: PulseMap) -> list[Item]:
    board = desk.board
    why = (
        ""
        if board.state in ("ready", "live")
        else "Join a board on the Rehearse bench and bring every joint to park first."
    )
    low, high = (math.radians(a) for a in joint.range_deg)
    middle = (low + high) / 2
    items: list[Do] = []
    for n, (words, place) in enumerate(
        (("Step to the low end", low), ("Step to the middle", middle), ("Step to the high end", high))
    ):
        us = float(mapped.pulse(np.array([place]))[0])
        items.append(
            Do(
                f"st{n}",
                f"{words}, {us:.0f} µs",
                lambda place=place, us=us: step_there(desk, joint, place, us),
                why if n == 2 else "",
            )
        )
        if why and n < 2:
            items[-1].why_not = " "
    return list(items)


def step_there(desk: Desk, joint: Joint, place: float, us: float) -> None:
    """Pose the joint there, and let the board go there at the pace of the sliders."""
    desk.set_pose(joint.id, place)
    desk.board.step_to(_output(desk, joint), us)


def _named(desk: Desk, joint: Joint, drive: Drive, mapped: PulseMap) -> list[Item]:
    kept = desk.figure.calibration_of(drive.id)
    places = kept.places if kept is not None else ()
    items: list[Item] = []
    for n, place in enumerate(places):
        angle = float(mapped.angle(np.array([place.pulse_us]))[0])
        items.append(
            Fact(
                f"np{n}",
                place.name,
                f"{place.pulse_us:.0f}",
                "µs",
                f"that is {math.degrees(angle):.1f}°".replace("-", "−"),
            )
        )

        items.append(Write(f"rec swap{n}", f"{place.name} is now", None, "pulse", lambda v, place=place: desk.note(lambda: swapped(desk.figure, drive.id, _now(), _usual(joint, drive, desk), place.name, round(v * 1e6, 1))), "as it was"))  # fmt: skip
    if places:
        items.append(Note("swap", "Where a part under the horn was swapped and the horn stayed on, measure one place anew: all go by as much, and the record says which."))  # fmt: skip

    def add(text: str) -> None:
        if not text.strip():
            return
        now = float(mapped.pulse(np.array([desk.place(joint.id)]))[0])
        desk.note(lambda: named_place(desk.figure, drive.id, _now(), _usual(joint, drive, desk), text, now))

    items.append(WriteText("rec name", "Name it here", "", add))
    return [*items, *_between(desk, joint, drive, mapped)]


def _between(desk: Desk, joint: Joint, drive: Drive, mapped: PulseMap) -> list[Item]:
    """What was measured between the three; where the joint stands now, its pulse may be written as measured."""
    kept, here = desk.figure.calibration_of(drive.id), desk.place(joint.id)
    items: list[Item] = [
        Fact(f"b{n}", f"Measured at {desk.show(degrees(angle))}", f"{pulse:.0f}", "µs")
        for n, (angle, pulse) in enumerate(kept.between if kept is not None else ())
    ]
    now = Quantity(float(mapped.pulse(np.array([here]))[0]) * 1e-6, "pulse")

    def write(value: float) -> None:
        desk.note(
            lambda: measured_at(
                desk.figure, drive.id, _now(), _usual(joint, drive, desk), math.degrees(here), value * 1e6
            )
        )

    return [*items, Write("rec here", "Pulse where it stands now", now, "pulse", write)]
