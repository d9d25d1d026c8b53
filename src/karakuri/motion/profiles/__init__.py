"""How a move gets from where it starts to its target. See contract.py for how to add one."""

from karakuri.model.score import PROFILE_KINDS
from karakuri.motion.profiles import cosine, following, minimum_jerk, sudden, trapezoid
from karakuri.motion.profiles.contract import Profile

PROFILES: dict[str, Profile] = {
    "minimum jerk": minimum_jerk.PROFILE,
    "cosine": cosine.PROFILE,
    "trapezoid": trapezoid.PROFILE,
    "sudden": sudden.PROFILE,
    "following": following.PROFILE,
}
CODES: dict[str, int] = {kind: code for code, kind in enumerate(PROFILE_KINDS)}
BY_CODE: tuple[Profile, ...] = tuple(PROFILES[kind] for kind in PROFILE_KINDS)
