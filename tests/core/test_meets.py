"""What stops what: the table is whole, each row says who says so, and what everybody knows of it comes out (platinum inhibitors: data sheets, from memory)."""

import pytest

from karakuri.catalogue import meeting
from karakuri.sizing.meets import VERDICTS, dry_ones, met, troubles, wet_ones


def test_the_table_names_what_there_is_once_and_every_bad_row_says_why_and_what_helps():
    rows, wet, dry = meeting()["rows"], wet_ones(), dry_ones()
    assert len({(row["wet"], row["on"]) for row in rows}) == len(rows)
    for row in rows:
        assert row["wet"] in wet and row["on"] in dry and row["what"] in VERDICTS and row["source"] and row["why"]
        if row["what"] in ("stops the cure", "eats it"):
            assert row["between"] or row["wait"], row
    assert all(any(row["wet"] == ident for row in rows) for ident in wet)
    assert all(any(row["on"] == ident for row in rows) for ident in dry)


@pytest.mark.parametrize("on", ["sulphur_clay", "latex_dry", "tin_cured", "sla_fresh", "pvc", "uv_paint", "epoxied"])
def test_what_stops_platinum_silicone(on):
    """Sulphur, latex, tin, amines, uncured resin, plasticisers, UV paints."""
    assert met("platinum", on).what == "stops the cure" and "data sheets" in met("platinum", on).source


def test_what_eats_foam_and_what_sticks_to_silicone():
    assert {wet for wet, found in troubles("xps") if found.what == "eats it"} >= {"polyester", "contact", "spray", "ca"}
    assert {wet for wet in wet_ones() if met(wet, "platinum_cured").verdict == "holds"} == {"platinum", "rtv"}
    assert met("water_contact", "xps").verdict == "holds"
    assert met("tin", "sulphur_clay").verdict == "holds"  # tin does not mind sulphur


def test_what_nobody_wrote_down_is_not_said_to_be_fine():
    unknown = [(w, d) for w in wet_ones() for d in dry_ones() if met(w, d).what == "not known"]
    assert unknown and all(met(*pair).verdict == "not yet judged" for pair in unknown)
    assert met("rubbish", "xps").verdict == "not yet judged"
