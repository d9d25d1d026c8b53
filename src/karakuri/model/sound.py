"""Sounds: files that lie beside the figure, each known by what is in it."""

from pathlib import PurePosixPath
from typing import Annotated

from karakuri.model.base import Duration_s, Identifier, Name, plain
from karakuri.values.fields import After, Field
from karakuri.values.value import Value

FORMATS = (".wav", ".flac", ".ogg", ".mp3")


def _beside(text: str) -> str:
    """A path that stays beside the figure."""
    path = PurePosixPath(text)
    if path.is_absolute() or ".." in path.parts or "\\" in text or text != plain(text) or not path.parts:
        raise ValueError("a sound lies beside the figure: a path from there, such as voice/hello.wav")
    if path.suffix.lower() not in FORMATS:
        raise ValueError(f"a sound is one of {', '.join(form[1:].upper() for form in FORMATS)}, not '{path.suffix}'")
    return text


class Sound(Value):
    """A sound file. `sha256` tells whether it is still the one that was listened to."""

    id: Identifier
    name: Name
    file: Annotated[str, Field(min_length=1, max_length=240), After(_beside)] = Field(
        description="Where it lies, from the figure's own folder."
    )
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] = Field(description="The digest of the file's bytes.")
    length_s: Duration_s
