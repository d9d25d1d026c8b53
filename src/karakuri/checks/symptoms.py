"""What is seen on the bench, and what of a figure may cause it: the findings that bear on it, and what is not modelled. Common practice, no
source."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding

MOUTH = "jaw"


class Symptom(Frozen):
    """`seen`: its own name and other words for it; `rules`, the likeliest cause first; `beyond`: causes that are not modelled; `region`: only
    findings about joints, or what belongs to joints, of that region."""

    id: str
    seen: tuple[str, ...]
    rules: tuple[str, ...]
    beyond: tuple[str, ...] = ()
    region: str = ""


SYMPTOMS: tuple[Symptom, ...] = (
    Symptom("leans", ("leans", "lean", "tilts to one side", "hangs to one side", "droops"), ("shaft", "tilts", "rods", "hold", "hangs", "tipping"),
            ("a shell that went soft in the sun or in a warm car", "a screw that worked loose")),
    Symptom("flips", ("flips", "tips over", "falls over", "nose up"), ("hangs", "tipping", "rocks", "elements", "worn"),
            ("what somebody leans or hangs on it",)),
    Symptom("shakes", ("shakes", "shake", "wobbles", "trembles", "overshoots", "jitters", "hunts"), ("shakes", "rings", "rods", "whips", "shaft", "tilts", "drag", "hangs"),
            ("a base or a table that gives", "a supply that sags while it speeds up", "a loose screw in the horn")),
    Symptom("twitches", ("twitches", "twitch", "jerks at random", "resets"), ("supply", "power", "wiring", "shakes"),
            ("a program of one's own that sends lamps between pulses", "a signal wire beside motor wires, or long and thin", "grounds that are not joined")),
    Symptom("stalls", ("stalls", "stall", "gets stuck", "binds", "hums"), ("move", "hold", "linkage", "actuators", "toofast", "effort", "drag", "stops"),
            ("skin or foam that pulls back", "gears with a broken tooth")),
    Symptom("slow", ("too slow", "slow", "sluggish", "lags"), ("move", "actuators", "toofast", "drag", "supply", "power", "wiring"),
            ("a supply that sags on thin wires", "grease that stiffens in the cold")),
    Symptom("hot", ("gets hot", "hot", "overheats", "smells"), ("heat", "hold", "effort", "drag", "shakes"),
            ("no air in the shell", "something that presses against it at rest")),
    Symptom("slams", ("slams", "slam", "bangs at power-up", "jumps at start"), ("park", "shakes", "stops", "travel"),
            ("a servo that was turned by hand since it was last powered", "a horn put on before neutral was found")),
    Symptom("falls off", ("falls off", "comes off", "drops off"), ("fastened", "sheds", "hangs", "elements", "hold"),
            ("tape and hook-and-loop in the heat", "paint between magnet and steel")),
    Symptom("mouth", ("mouth hardly moves", "mouth", "jaw hardly opens", "hardly opens"), ("cords", "linkage", "travel", "stops", "softlimits", "move", "drag", "hold"),
            ("a cord that stretches, rubs or lies slack", "sound too soft for the jaw to follow"), MOUTH),
    Symptom("stays", ("won't stay put", "wont stay put", "will not stay", "sinks", "creeps down"), ("drag", "cords", "hangs", "hold"),
            ("a clutch or friction screw that wears", "a gas strut that lost its gas")),
)  # fmt: skip


def symptom_of(words: str, whole: bool = True) -> Symptom | None:
    """The symptom that somebody's words mean, or None; unless `whole`, the beginning of a name will do, of more than three letters."""
    words = words.strip().lower().replace("’", "'").removeprefix("it ")
    for symptom in SYMPTOMS:
        if words == symptom.id or words in symptom.seen:
            return symptom
    if whole or len(words) < 4:
        return None
    return next((s for s in SYMPTOMS for seen in s.seen if seen.startswith(words)), None)


def causes(symptom: Symptom, figure: Figure, findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """The findings that may cause it, the worst first, and among those alike the likeliest rule first."""
    ranks = {"fails": 0, "not yet judged": 1, "tight": 2, "holds": 3}
    order = {rule: i for i, rule in enumerate(symptom.rules)}
    bearing = [
        f for f in findings if f.rule in order and (not symptom.region or _region(figure, f) in (symptom.region, ""))
    ]
    return tuple(
        sorted(bearing, key=lambda f: (ranks[f.verdict], order[f.rule], f.reserve if f.reserve is not None else 1e9))
    )


def _region(figure: Figure, finding: Finding) -> str:
    """The region of the joint that a finding is about; '' where it is about none."""
    ref = finding.subject
    if ref.kind == "drive":
        joint = next((d.joint for d in figure.drives if d.id == ref.id), "")
    elif ref.kind == "joint":
        joint = ref.id
    elif ref.kind in ("channel", "move"):
        joint = next((c.joints[0] for c in figure.score.channels if c.id == ref.id and c.joints), "")
    else:
        return ""
    return next((str(j.region) for j in figure.joints if j.id == joint), "")
