"""Entries of the record: what is written down when something was measured or a horn came off."""

from __future__ import annotations

from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.figure import Figure
from karakuri.model.record import Calibration, Entry, NamedPlace

Three = tuple[float, float, float]


def calibration(figure: Figure, drive_id: str, date: str, usual: tuple[Three, Three], **measured: Any) -> Entry:
    """One more calibration: what was known, or the `usual` angles, degrees, and pulses, µs, with some of it measured anew."""
    kept = figure.calibration_of(drive_id)
    known = dict(kept) if kept is not None else {"angles_deg": usual[0], "pulses_us": usual[1]}
    return Entry(date=date, kind="calibration", drive=drive_id, calibration=Calibration(**(known | measured)))


def named_place(
    figure: Figure, drive_id: str, date: str, usual: tuple[Three, Three], name: str, pulse_us: float
) -> Entry:
    """A calibration with a named place more; a name used before is given the new pulse."""
    kept = figure.calibration_of(drive_id)
    others = tuple(p for p in (kept.places if kept is not None else ()) if p.name != name.strip())
    if not name.strip():
        raise EditRefused("A place wants a name; nothing was written.")
    place = NamedPlace(name=name.strip(), pulse_us=round(pulse_us, 1))
    return calibration(figure, drive_id, date, usual, places=(*others, place))


def measured_at(
    figure: Figure, drive_id: str, date: str, usual: tuple[Three, Three], angle_deg: float, pulse_us: float
) -> Entry:
    """A calibration with one more angle, degrees, and its pulse, µs, between the ends; one that was measured there before is measured anew."""
    kept = figure.calibration_of(drive_id)
    others = tuple(each for each in (kept.between if kept is not None else ()) if abs(each[0] - angle_deg) >= 0.5)
    return calibration(figure, drive_id, date, usual, between=(*others, (round(angle_deg, 2), round(pulse_us, 1))))


def moved(places: tuple[NamedPlace, ...], name: str, measured_us: float) -> tuple[tuple[str, float, float], ...]:
    """What each named place is now, (name, before, now) µs, after a part under a horn that stayed on was swapped and one place was measured anew: the servo
    turns as before, so all go by as much. Raises EditRefused where there is no such place."""
    before = {place.name: place.pulse_us for place in places}
    if name not in before:
        raise EditRefused(f"No place is called “{name}”; nothing was written.")
    by = measured_us - before[name]
    return tuple((place.name, place.pulse_us, round(place.pulse_us + by, 1)) for place in places)


def swapped(
    figure: Figure, drive_id: str, date: str, usual: tuple[Three, Three], name: str, measured_us: float
) -> Entry:
    """A part under a horn that stayed on was swapped, and one named place measured anew, µs: the calibration with all its pulses moved by as much, and in
    words which places have moved."""
    kept = figure.calibration_of(drive_id)
    places = moved(kept.places if kept is not None else (), name, measured_us)
    assert kept is not None
    by = next(now - before for each, before, now in places if each == name)
    made = calibration(
        figure, drive_id, date, usual,
        pulses_us=tuple(round(us + by, 1) for us in kept.pulses_us),
        between=tuple((angle, round(us + by, 1)) for angle, us in kept.between),
        places=tuple(NamedPlace(name=each, pulse_us=now) for each, _, now in places),
    )  # fmt: skip
    told = ", ".join(f"{each} {before:.0f} → {now:.0f} µs" for each, before, now in places)
    return Entry(**(dict(made) | {"words": f"A part under the horn was swapped: {told}."}))


def horn_off(drive_id: str, date: str) -> Entry:
    """The horn came off: the calibration before is not valid any more."""
    return Entry(date=date, kind="horn off", drive=drive_id)
