"""Nothing yet but a foot: for those who hang on their own parts."""

from __future__ import annotations

from karakuri.starters.contract import Kind

KIND = Kind(
    id="bare", name="A bare foot", words="nothing on it yet", tall_mm=200.0,
    base=lambda tall: {}, stand=lambda tall: 20.0, put=lambda maker: None,
)  # fmt: skip
