"""A voice: whether its sounds are there and heard to their end, whether its jaw opens as far as it asks, and whether the two look together.

Sound ahead of the picture is noticed from 45 ms on, behind it from 125 ms; acceptable are 90 and 185 ms (ITU-R BT.1359-1; from memory, check the
current text). A hobby servo's lag of 60 to 120 ms: common practice, no source.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

from karakuri.checks.contract import SPOKEN, Results
from karakuri.model.channel import SoundChannel
from karakuri.model.edit import Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding, Proposal, Sentence, Verdict, finding_id
from karakuri.model.loudness import Loudness
from karakuri.model.makers import Voice
from karakuri.model.ref import Ref
from karakuri.model.sound_edits import move_play
from karakuri.motion.makers.voice import change_voice, with_jaws
from karakuri.motion.voice.following import NO_LIMIT, KeepsUp
from karakuri.sizing.speaking import Speaking
from karakuri.units import Quantity

ENOUGH, LEAST = 0.8, 0.5
"""Opens a jaw so far of what is asked, it holds; less than LEAST, it fails: ours, no source."""
SEEN_AHEAD_S, SEEN_BEHIND_S, MOST_AHEAD_S, MOST_BEHIND_S = 0.045, 0.125, 0.090, 0.185
LAG_S, SLOWER_HZ = (0.060, 0.120), (3.0, 2.0, 1.5)


def find(results: Results) -> Iterable[Finding]:
    for each in results[SPOKEN] or ():
        yield from _opens(each, results)
        yield _together(each, results)
    for voice in results.figure.score.voices:
        yield from _sounds(voice, results)


def _opens(each: Speaking, results: Results) -> Iterable[Finding]:
    jaw, subject = results.figure.score.moving(each.voice.jaw), Ref("channel", each.voice.voice)
    ident = finding_id("voice", each.voice.id, "opens")
    if each.unheard and not len(each.asked):
        text = f"Whether {jaw.name} opens as its voice asks is not known: no sound of it was listened to."
        yield Finding(ident, "voice", subject, "not yet judged", Sentence(text), measure=Sentence("a sound is missing"))
        return
    if not len(each.asked):
        text = f"{jaw.name} has nothing to say: nothing sounds on its voice."
        yield Finding(ident, "voice", subject, "holds", Sentence(text), measure=Sentence("nothing sounds"))
        return
    short, count = each.short, len(each.asked)
    verdict: Verdict = "holds" if each.reached >= ENOUGH else "tight" if each.reached >= LEAST else "fails"
    share = Quantity(each.reached, "percent", rounding="down")
    quantities: tuple[Quantity, ...] = (share,)
    if len(short):
        k = int(short[(each.asked - each.got)[short].argmax()])
        lacks = Quantity(float(each.asked[k] - each.got[k]) * abs(each.opening), jaw.measure(results.figure).kind, rounding="up")  # fmt: skip
        text = f"{jaw.name} opens {{0}} as far as its voice asks: {len(short)} of {count} openings stay short, the most by {{1}} at {{2}}."
        quantities = (share, lacks, Quantity(float(each.at[k]), "time"))
    else:
        text = f"{jaw.name} opens as far as its voice asks, {{0}} of it in {count} openings."
    yield Finding(
        ident, "voice", subject, verdict, Sentence(text, quantities), measure=Sentence("opens {0} of what is asked", (share,)),
        at_s=float(each.at[int(short[0])]) if len(short) else None,
    )  # fmt: skip


def _together(each: Speaking, results: Results) -> Finding:
    """`late` is how much the jaw is behind the sound: the sound then leads."""
    jaw, lag = results.figure.score.moving(each.voice.jaw), results.figure.assumptions.servo_lag_s
    late = lag - each.ahead
    seen = SEEN_AHEAD_S if late >= 0 else SEEN_BEHIND_S
    verdict: Verdict = "holds" if abs(late) <= seen else "tight" if abs(late) <= (MOST_AHEAD_S if late >= 0 else MOST_BEHIND_S) else "fails"  # fmt: skip
    way = "after" if late >= 0 else "before"
    worst = max(LAG_S, key=lambda other: _noticed(other - each.ahead)) - each.ahead
    apart = f"it opens {{0}} {way} it" if abs(late) >= 0.0005 else "the two go together"
    text = (
        f"{jaw.name} sets off {{1}} ahead of its voice; with a servo's lag of {{2}}, an estimate, {apart}. "
        f"Where the lag is {{3}} to {{4}}, {{5}} {'after' if worst >= 0 else 'before'} at worst; seen from {{6}} on."
    )
    times = (abs(late), each.ahead, lag, *LAG_S, abs(worst), seen)
    return Finding(
        finding_id("voice", each.voice.id, "together"), "voice", Ref("channel", each.voice.voice), verdict,
        Sentence(text, tuple(Quantity(time, "lag") for time in times)), measure=Sentence(f"{{0}} {way} the voice", (Quantity(abs(late), "lag"),)) if abs(late) >= 0.0005 else Sentence("with the voice"),
    )  # fmt: skip


def _noticed(late: float) -> float:
    """How much of what is noticed a jaw is late, or early."""
    return late / SEEN_AHEAD_S if late >= 0 else -late / SEEN_BEHIND_S


def _sounds(voice: SoundChannel, results: Results) -> Iterable[Finding]:
    """What cannot be listened to, and what is cut short."""
    figure, told = results.figure, set[str]()
    for k, play in enumerate(voice.plays):
        sound = figure.sound(play.sound)
        if results.heard is None or (sound.sha256 not in results.heard and sound.id not in told):
            told.add(sound.id)
            text = (
                f"{sound.name} is not listened to yet."
                if results.heard is None
                else (
                    f"{sound.name} cannot be listened to: {sound.file} is not beside the figure, or is not the sound that was taken. "
                    "Put it there again, or take the one that is there."
                )
            )
            yield Finding(
                finding_id("voice", sound.id, "there"), "voice", Ref("sound", sound.id), "not yet judged", Sentence(text),
                measure=Sentence("not listened to yet" if results.heard is None else "its sound is missing"), at_s=play.at_s,
            )  # fmt: skip
        last = k + 1 == len(voice.plays)
        until = figure.score.length_s if last else min(voice.plays[k + 1].at_s, figure.score.length_s)
        cut = play.at_s + sound.length_s - until
        if cut > 0.05:
            by = "the end of the score" if last or until == figure.score.length_s else figure.sound(voice.plays[k + 1].sound).name  # fmt: skip
            verdict: Verdict = "fails" if cut >= sound.length_s else "tight"
            yield Finding(
                finding_id("voice", voice.id, play.id, "cut"), "voice", Ref("channel", voice.id), verdict,
                Sentence(f"{sound.name} is cut by {by}: {{0}} of its {{1}} are not heard.", (Quantity(min(cut, sound.length_s), "time", rounding="up"), Quantity(sound.length_s, "time"))),
                measure=Sentence("{0} not heard", (Quantity(min(cut, sound.length_s), "time", rounding="up"),)), at_s=play.at_s,
            )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    """As far ahead as its servo lags, fewer openings, a longer score, a sound said later; its jaw goes along with each."""
    figure, heard = results.figure, results.heard
    if finding.verdict in ("holds", "not yet judged") or heard is None:
        return
    for voice in (maker for maker in figure.score.makers if isinstance(maker, Voice)):
        if finding.id == finding_id("voice", voice.id, "together"):
            lag = Quantity(figure.assumptions.servo_lag_s, "lag")
            yield Proposal(change_voice(figure, voice.id, heard, ahead_s=None)[0], Sentence("Set off {0} ahead, by the servo’s lag", (lag,)), "ahead")  # fmt: skip
        if finding.id == finding_id("voice", voice.id, "opens"):
            for slower in (hz for hz in SLOWER_HZ if hz < voice.content_Hz):
                yield Proposal(change_voice(figure, voice.id, heard, content_Hz=slower)[0], Sentence(f"Leave out what is quicker than {slower:g} a second"), "content")  # fmt: skip
    for channel in figure.score.voices:
        for k, play in enumerate(channel.plays):
            if finding.id == finding_id("voice", channel.id, play.id, "cut"):
                yield from _uncut(figure, channel, k, heard)


def _uncut(figure: Figure, channel: SoundChannel, k: int, heard: Mapping[str, Loudness]) -> Iterable[Proposal]:
    """A score as long as its last sound, or what comes next said later."""
    play = channel.plays[k]
    ends = math.ceil((play.at_s + figure.sound(play.sound).length_s) * 10.0 + 1.0) / 10.0
    if ends > figure.score.length_s:
        longer = Edit("a longer score", (Set(("score", "length_s"), ends),))
        yield Proposal(with_jaws(figure, longer, heard, _no_limit), Sentence("A score of {0}", (Quantity(ends, "time"),)), "longer")  # fmt: skip
    if k + 1 < len(channel.plays):
        after = channel.plays[k + 1]
        name = figure.sound(after.sound).name
        later = with_jaws(figure, move_play(channel, after.id, ends), heard, _no_limit)
        yield Proposal(later, Sentence(f"Say {name} at {{0}}", (Quantity(ends, "time"),)), "later")


def _no_limit(figure: Figure, channel_id: str) -> KeepsUp:
    return NO_LIMIT
