"""Sounds for a small sound player: numbered copies, written in the order of their numbers, since such players count in the order in which files were copied;
and a list of them to print."""

from __future__ import annotations

import io

from karakuri.course import Course
from karakuri.errors import Fault, FileTrouble
from karakuri.exchange.contract import Chosen, Exported, Exporter, Media, Option
from karakuri.exchange.sounds import heard
from karakuri.model.figure import Figure

FORMS = (("mp3", "MP3"), ("wav", "WAV"), ("same", "as they are"))
MOST = 9999


def number_of(figure: Figure, sound_id: str) -> int:
    """The number by which a small player knows a sound, from 1. Raises StopIteration."""
    return next(k for k, sound in enumerate(figure.sounds, 1) if sound.id == sound_id)


def file_name(figure: Figure, sound_id: str, suffix: str) -> str:
    """What its copy is called: four digits, then its name in plain letters."""
    name = "".join(c if c.isascii() and c.isalnum() else "_" for c in figure.sound(sound_id).name).strip("_")[:24]
    return f"{number_of(figure, sound_id):04d}{'_' if name else ''}{name}{suffix}"


def _write(figure: Figure, chosen: Chosen, course: Course, media: Media) -> Exported:
    if not figure.sounds:
        raise FileTrouble(
            f"{figure.name} has no sounds; nothing was written.", (), "Put a sound on the voice first (Score)."
        )
    form, files, faults = chosen["copies"], dict[str, bytes](), list[Fault]()
    for k, sound in enumerate(figure.sounds):
        course.at(f"copying {sound.name}", k / len(figure.sounds))
        data = media(sound)
        if data is None:
            faults.append(Fault(sound.file, "the sound that was taken, beside the figure", "none, or another"))
            continue
        suffix = "." + sound.file.rsplit(".", 1)[-1].lower() if form == "same" else f".{form}"
        files[file_name(figure, sound.id, suffix)] = data if sound.file.lower().endswith(suffix) else as_form(data, form, sound.name)  # fmt: skip
    if faults:
        raise FileTrouble("Nothing was written: not all sounds can be found.", tuple(faults[:12]), "Put them beside the figure again.")  # fmt: skip
    files["LIST.txt"] = printed(figure, list(files)).encode("utf-8")
    return Exported(files, lambda: (f"{len(figure.sounds)} sounds, numbered.", "Copy them one after another, in the order of their numbers, onto an empty card."))  # fmt: skip


def as_form(data: bytes, form: str, name: str) -> bytes:
    """A sound in another format, one channel, its own rate."""
    import soundfile

    found = heard(data, name)
    out = io.BytesIO()
    kinds = {"wav": ("WAV", "PCM_16"), "mp3": ("MP3", "MPEG_LAYER_III")}
    with soundfile.SoundFile(out, "w", found.rate, 1, format=kinds[form][0], subtype=kinds[form][1]) as file:
        for first in range(0, len(found.samples), found.rate):
            file.write(found.samples[first : first + found.rate])
    return out.getvalue()


def printed(figure: Figure, names: list[str]) -> str:
    """The list to print: number, file, how long, what; and which lists say it."""
    rows = [f"Sounds of {figure.name}, in the order of copying", ""]
    for k, (sound, name) in enumerate(zip(figure.sounds, names, strict=True), 1):
        by = [lines.name for lines in figure.lines if sound.id in (*lines.openings, *lines.lines)]
        rows.append(f"{k:4d}  {name:34s} {sound.length_s:6.2f} s  {sound.name}{'   in ' + ', '.join(by) if by else ''}")
    for lines in figure.lines:
        way = (
            "in order from a random one on"
            if lines.order == "in order"
            else f"at random, none of the last {lines.again_after}"
        )
        rows += ["", f"{lines.name}: {way}, one every {lines.every_s:g} s"]
        rows += [f"  first, once: {number_of(figure, line)}" for line in lines.openings]
        rows.append("  " + ", ".join(str(number_of(figure, line)) for line in lines.lines))
    return "\n".join(rows) + "\n"


EXPORTER = Exporter(
    "sounds",
    "sounds for a small player",
    "",
    (Option("copies", "Copies as", "which format the copies have", FORMS),),
    lambda figure, chosen: "",
    _write,
    of_score=False,
)
