"""The one table of colours, and the sizes that grow with the text."""

from __future__ import annotations

from dataclasses import dataclass

DAY = {
    "paper": "#F4EFE6",
    "desk": "#E6DCCA",
    "card": "#FCF9F3",
    "sel": "#FFFDF8",
    "hair": "#DACFBB",
    "rule": "#B7A98F",
    "ink": "#20273A",
    "ink2": "#524F4C",
    "ink3": "#69635A",
    "indigo": "#2B3F78",
    "indigo_m": "#8793B8",
    "indigo_t": "#DDE0E6",
    "verm": "#B02E1A",
    "verm_t": "#F4DCD2",
    "ochre": "#855604",
    "ochre_f": "#D29A2E",
    "ochre_t": "#F4E6C6",
    "moss": "#42642B",
    "moss_f": "#6F9351",
    "moss_t": "#E0E6CF",
    "brass": "#80601C",
    "brass_f": "#B7924A",
    "brass_t": "#EBDDBD",
    "asagi": "#2A6B7A",
    "asagi_t": "#D5E3E2",
    "plum": "#6B4B7A",
    "plum_t": "#E5DBE3",
    "chest": "#7C4F33",
    "chest_t": "#EADCCD",
    "feather": "#E2C79A",
    "feather_d": "#C9A773",
    "face": "#FBF6EA",
    "face_d": "#E9DDC8",
    "wood": "#A9825A",
    "wood_d": "#8A6844",
    "eye": "#20222C",
    "lit": "#FBEFC4",
}
VERDICT = {
    "holds": ("moss", "moss_t"),
    "tight": ("ochre", "ochre_t"),
    "fails": ("verm", "verm_t"),
    "not yet judged": ("ink2", "desk"),
}
REGION = {
    "neck": ("indigo", "indigo_t"),
    "eyes": ("asagi", "asagi_t"),
    "lids": ("plum", "plum_t"),
    "jaw": ("chest", "chest_t"),
    "body": ("ink2", "desk"),
}
FAMILY = "Source Sans 3"


@dataclass
class Look:
    """Theme and text scale of a window. Every size on the screen goes through `u`."""

    colours: dict[str, str]
    scale: float = 1.0

    def u(self, px: float) -> int:
        """A size in pixels at this text scale."""
        return round(px * self.scale)
