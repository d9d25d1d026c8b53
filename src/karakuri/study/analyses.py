"""The analyses of a whole figure, in a table: what each finds is kept in the results under its key.

To add one: a Key in checks/contract.py, a function in of_body.py or of_score.py, a line here. What it is given beyond the figure's results
it takes from requests, so that what did not change is not computed again; what another analysis finds it takes by its key.
"""

from __future__ import annotations

from karakuri.checks.contract import (
    CORDS,
    DRAGS,
    FASTENED,
    FLICKS,
    FLINGS,
    HANDS,
    HANGS,
    LIVED,
    LOADS,
    OTHERS,
    PACES,
    POWER,
    RETURNS,
    RINGS,
    ROCKS,
    RODS,
    ROOM,
    SHAKES,
    SHEDS,
    SLIDES,
    SPOKEN,
    STALLS,
    STANDING,
    STROKES,
    STRUNG,
    SWINGS,
    TILTS,
    TOPPLES,
    TURNING,
    WHIPS,
    WORN,
)
from karakuri.model.ref import FIGURE, Ref
from karakuri.study import of_body, of_others, of_score, of_wanted
from karakuri.study.given import Analysis

SCORE, WEARER = Ref("score"), Ref("wearer")

_EVERY = (
    Analysis(STANDING, FIGURE, of_body.standing),
    Analysis(HANGS, FIGURE, of_body.hangs),
    Analysis(STRUNG, FIGURE, of_body.elements),
    Analysis(DRAGS, FIGURE, of_body.drags),
    Analysis(RETURNS, FIGURE, of_body.returns),
    Analysis(SHAKES, FIGURE, of_body.shakes),
    Analysis(SWINGS, FIGURE, of_wanted.swings),
    Analysis(RODS, FIGURE, of_body.rods),
    Analysis(FLICKS, FIGURE, of_wanted.flicks),
    Analysis(TOPPLES, FIGURE, of_wanted.topples),
    Analysis(FLINGS, FIGURE, of_wanted.flings),
    Analysis(CORDS, FIGURE, of_body.cords),
    Analysis(SLIDES, FIGURE, of_body.slides),
    Analysis(STROKES, FIGURE, of_body.strokes),
    Analysis(TURNING, FIGURE, of_body.turning),
    Analysis(HANDS, FIGURE, of_body.hands),
    Analysis(ROOM, FIGURE, of_body.room),
    Analysis(FASTENED, FIGURE, of_body.fastenings),
    Analysis(WORN, WEARER, of_body.worn),
    Analysis(STALLS, FIGURE, of_body.stalls),
    Analysis(LOADS, SCORE, of_score.loads, of_score=True),
    Analysis(ROCKS, SCORE, of_score.rocks, of_score=True),
    Analysis(SHEDS, SCORE, of_score.sheds, of_score=True),
    Analysis(WHIPS, SCORE, of_score.whips, of_score=True),
    Analysis(TILTS, SCORE, of_score.tilts, of_score=True),
    Analysis(RINGS, SCORE, of_score.ringing, of_score=True),
    Analysis(PACES, SCORE, of_score.paces, of_score=True),
    Analysis(SPOKEN, SCORE, of_score.spoken, of_score=True),
    Analysis(POWER, Ref("supply"), of_score.power, of_score=True),
    Analysis(OTHERS, SCORE, of_others.others, of_score=True),
    Analysis(LIVED, Ref("behaviour"), of_others.lived, of_score=True),
)
ANALYSES = {analysis.key.name: analysis for analysis in _EVERY}
"""By the names of their keys."""
