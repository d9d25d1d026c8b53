"""From desk to ribbons: what each row shows, put together from the figure, its score and the last study."""

from __future__ import annotations

from karakuri.checks.contract import RINGS
from karakuri.exchange.outputs import soft_limits
from karakuri.model.channel import MovedChannel, SoundChannel
from karakuri.model.finding import Finding
from karakuri.model.makers import Voice
from karakuri.model.ref import Ref
from karakuri.sizing.response import response
from karakuri.sizing.score_loads import ScoreLoads, effort_share
from karakuri.units import Quantity, show, show_number
from karakuri.workbench.benches.ribbon_row import Ribbon, Span
from karakuri.workbench.benches.voice_row import Sounding, VoiceRow
from karakuri.workbench.desk import Desk
from karakuri.workbench.theme import REGION


class RibbonValues:
    """Keeps what was worked out for a row while neither its moves nor the study changed."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self._behind: dict[str, tuple] = {}
        self._effort: dict[str, tuple] = {}

    def of(self, channel: MovedChannel, span: Span) -> Ribbon:
        """One row, for a stretch of time."""
        desk, figure = self.desk, self.desk.figure
        moving = desk.moving()
        track = moving.tracks[moving.channels.index(channel)]
        low, high, ends = edges(desk, channel)
        in_hand = desk.channel_in_hand()
        chosen = desk.subject.number if desk.subject.id == channel.id and desk.subject.kind == "move" else -1
        selected = in_hand is not None and in_hand.id == channel.id
        region = figure.joint(channel.leads).region if channel.leads is not None else ""
        ink, tint = REGION[region] if region else ("brass_f", "brass_t")
        return Ribbon(
            channel=channel, track=track, low=low, high=high, ends=ends, ink=ink, tint=tint, effort=self.effort(channel), behind=self.behind(channel, span),
            faults=self.faults(channel, selected), chosen=chosen, selected=selected,
        )  # fmt: skip

    def of_voice(self, channel: SoundChannel) -> VoiceRow:
        """The row of a voice."""
        figure, voices, subject = self.desk.figure, self.desk.voices, self.desk.subject
        sounds = []
        for k, play in enumerate(channel.plays):
            sound = figure.sound(play.sound)
            loudness = voices.loudness(sound)
            chosen = subject == Ref("play", channel.id, k)
            sounds.append(Sounding(play.at_s, play.at_s + sound.length_s, sound.name, loudness, chosen))  # fmt: skip
        jaws = [m.jaw for m in figure.score.makers if isinstance(m, Voice) and m.voice == channel.id]
        leads = figure.score.moving(jaws[0]).leads if jaws else None
        ink, tint = REGION[figure.joint(leads).region] if leads is not None else ("brass", "brass_t")
        count = f"{len(channel.plays)} {'sounds' if len(channel.plays) != 1 else 'sound'}"
        return VoiceRow(channel, tuple(sounds), ink, tint, count, subject.id == channel.id)

    def _loads(self) -> ScoreLoads | None:
        study = self.desk.study
        return study.results.loads if study is not None else None

    def effort(self, channel: MovedChannel):
        """Torque ÷ held for long, each tenth of a second, of the joint that uses most; None where nothing is judged."""
        loads = self._loads()
        kept = self._effort.get(channel.id)
        if kept is None or kept[0] is not loads:
            share = effort_share(loads.of_channel(channel.id)) if loads is not None else None
            kept = self._effort[channel.id] = (loads, share)
        return kept[1]

    def behind(self, channel: MovedChannel, span: Span):
        """Stretches in view where the servo lags behind what is asked, or runs past it, rad; of the joint that lags most."""
        loads = self._loads()
        found = loads.of_channel(channel.id) if loads is not None else ()
        if loads is None or not found:
            return ()
        load, key = found[0], (span.t0, span.t1)
        kept = self._behind.get(channel.id)
        if kept is None or kept[0] is not load or kept[1] != key:
            track = loads.motion.tracks[load.joint.channel]
            stretches = response(track, load, load.joint.can, self.desk.figure.score.length_s, key)
            stretches += self._rung(load.joint.joint, key)
            kept = self._behind[channel.id] = (load, key, tuple(stretches))
        return kept[2]

    def _rung(self, joint: int, within: tuple[float, float]) -> list:
        """Where it runs past and rings, seen or nearly so, of moves that depart in view."""
        results = self.desk.study.results
        found = (results[RINGS] or {}).get(results.tree.ids[joint], ())
        return [
            (each.times, each.places)
            for each in found
            if each.reserve < 2.0 and within[0] - 1.0 <= each.at <= within[1]
        ]

    def faults(self, channel: MovedChannel, selected: bool) -> tuple[tuple[Finding, str], ...]:
        """Findings about moves of this channel: what fails; also what is tight while it is in hand."""
        study = self.desk.study
        if study is None:
            return ()
        shown = ("fails", "tight") if selected else ("fails",)
        return tuple(
            (f, fault_words(f, self.desk))
            for f in study.findings
            if f.move is not None and f.move.id == channel.id and f.verdict in shown
        )


def fault_words(finding: Finding, desk: Desk) -> str:
    """What a tag beside a move says."""
    if finding.demand is not None and finding.capacity is not None:
        what = {"toofast": ("too fast", "fast"), "effort": ("too much", "heavy")}.get(finding.rule, ("fails", "tight"))
        word = what[0] if finding.verdict == "fails" else what[1]
        return f"{word}: {show_number(finding.demand, desk.units)} of {show(finding.capacity, desk.units)}"
    return finding.measure.show(desk.units) if finding.measure else finding.verdict


def edges(desk: Desk, channel: MovedChannel) -> tuple[float, float, tuple[str, str]]:
    """Low and high edge of a ribbon in SI (of tied joints, the narrower), and how (high, low) are written."""
    low, high = soft_limits(desk.figure, channel)
    if channel.leads is None:
        return low, high, ("100", "−100 %" if channel.runs else "0 %")
    kind = channel.measure(desk.figure).kind
    words = tuple(f"{v / desk.units.unit(kind).si:.3g}".replace("-", "−") for v in (high, low))
    return low, high, words


def target_limits(desk: Desk, channel: MovedChannel) -> tuple[float, float]:
    """Where a target may lie, in the channel's own unit: degrees, mm or percent."""
    low, high = channel.band(desk.figure)
    return round(low, 6), round(high, 6)


def target_quantity(desk: Desk, channel: MovedChannel, value: float) -> Quantity:
    """A target, written in the channel's unit, as a quantity."""
    return desk.figure.measure(channel).quantity(value)


def target_words(desk: Desk, channel: MovedChannel, value: float) -> str:
    """A target with its direction: 26° open, 12° nose-down."""
    low, high = channel.ends(desk.figure)
    text = desk.show(target_quantity(desk, channel, abs(value) if high else value))
    return text if abs(value) < 0.05 else f"{text} {high if value > 0 else low}".rstrip()
