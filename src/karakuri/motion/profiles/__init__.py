"""How a move gets from where it starts to its target. See contract.py for how to add one."""

from karakuri.model.profiles import PROFILE_KINDS
from karakuri.motion.profiles import cosine, following, minimum_jerk, sudden, trapezoid
from karakuri.motion.profiles.contract import Profile

PROFILES: dict[str, Profile] = {
    profile.name: profile
    for profile in (minimum_jerk.PROFILE, cosine.PROFILE, trapezoid.PROFILE, sudden.PROFILE, following.PROFILE)
}
CODES: dict[str, int] = {kind: code for code, kind in enumerate(PROFILE_KINDS)}
BY_CODE: tuple[Profile, ...] = tuple(PROFILES[kind] for kind in PROFILE_KINDS)
