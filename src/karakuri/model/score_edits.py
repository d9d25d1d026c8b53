"""Edits of poses and score: what the ribbons, the shelf, remedies and imports all use."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.channel import Channel, JointChannel, LightChannel, MovedChannel, Play, RunChannel, SoundChannel
from karakuri.model.edit import Add, Edit, Remove, Set, Step
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.joint import Joint
from karakuri.model.loosen import ungripped, unplugged
from karakuri.model.makers import Maker, Voice
from karakuri.model.moves import Moves, Row, moves_of
from karakuri.model.power_edits import always_on
from karakuri.model.profiles import DEFAULT_SHAPE, DESCRIBED
from karakuri.model.score import Pose, Score
from karakuri.model.sides import twin_of


def of_every(figure: Figure, channel_id: str, field: str, value: object) -> tuple[Step, ...]:
    """What a ribbon is, it is in every score that has it."""
    return tuple(
        Set(("scores", score.id, "channels", channel_id, field), value)
        for score in figure.scores
        if any(channel.id == channel_id for channel in score.channels)
    )


def set_channel(figure: Figure, channel_id: str, field: str, value: object, words: str) -> Edit:
    """One field of a ribbon, in every score that has it."""
    name = figure.ribbons[channel_id].name if channel_id in figure.ribbons else figure.score.channel(channel_id).name
    return Edit(f"{words} of {name}", of_every(figure, channel_id, field, value), f"{channel_id} {field}")


def set_moves(channel: MovedChannel, moves: Moves, name: str, merge_key: str | None = None) -> Edit:
    """Put another block in a channel's place."""
    return Edit(name, (Set(("score", "channels", channel.id, "moves"), moves),), merge_key)


def _channel(figure: Figure, joints: tuple[str, ...], name: str, taken: set[str]) -> MovedChannel:
    """For one joint, or for several that move together; it parks at rest, or at the nearest end of the range."""
    low, high = figure.joint(joints[0]).range
    ident = new_id(figure, f"{joints[0]} channel", taken)
    return JointChannel(id=ident, name=name, joints=joints, park=min(max(0.0, low), high))


def add_light(figure: Figure, name: str = "Lamp") -> Edit:
    """A light with levels, dark at first."""
    return Edit(f"lay out {name}", (Add("score.channels", LightChannel(id=new_id(figure, name), name=name)),))


def add_motor(figure: Figure, name: str = "Wheel") -> Edit:
    """A motor that runs, still at first."""
    return Edit(f"lay out {name}", (Add("score.channels", RunChannel(id=new_id(figure, name), name=name)),))


def missing_channels(figure: Figure) -> list[tuple[tuple[str, ...], str]]:
    """Driven joints without a channel, as (joints, name): a left and a right one of the same make are one, 'both'."""
    waiting = [j for j in figure.joints if j.role == "driven" and figure.score.channel_of(j.id) is None]
    out: list[tuple[tuple[str, ...], str]] = []
    done: set[str] = set()
    for joint in waiting:
        if joint.id in done:
            continue
        twin = twin_of(figure, joint.id)
        other = figure.joint(twin) if twin else None
        if other is not None and other in waiting and _moves_alike(joint, other):
            name = re.sub(r"[ ,]*\b(left|right)\b", "", joint.name).strip() or joint.name
            out.append(((joint.id, other.id), f"{name}, both"[:80]))
            done |= {joint.id, other.id}
        else:
            out.append(((joint.id,), joint.name))
            done.add(joint.id)
    return out


def _moves_alike(one: Joint, other: Joint) -> bool:
    """Whether one and the same angle, or length, is within the range of both and the same way."""
    return one.kind == other.kind and one.range == other.range and one.axis == other.axis


def lay_out(figure: Figure) -> Edit:
    """A channel for every driven joint that has none. Raises EditRefused when there is none."""
    wanted = missing_channels(figure)
    if not wanted:
        raise EditRefused("Every driven joint has its ribbon. Add a joint on the Figure bench first.")
    taken: set[str] = set()
    channels = (_channel(figure, joints, name, taken) for joints, name in wanted)
    return Edit("lay out ribbons", tuple(Add("score.channels", channel) for channel in channels))


def remove_channel(figure: Figure, channel: Channel) -> Edit:
    """Take a ribbon out with its moves, and a voice with what it wrote; pins and poses stay."""
    score = figure.score
    elsewhere = {each.id for other in figure.scores if other.id != score.id for each in other.channels}
    return Edit(
        f"take out {channel.name}",
        (
            *let_go(score, {channel.id}),
            *always_on(figure, {channel.id} - elsewhere),
            *unplugged(figure, {channel.id} - elsewhere),
            *ungripped(figure, {channel.id} - elsewhere),
            Remove(f"scores.{score.id}.channels", channel.id),
        ),
    )


def let_go(score: Score, channels: set[str]) -> tuple[Step, ...]:
    """What is done to a score's makers, and what they wrote, before channels of these ids go: those that hang on them go too."""
    gone = {maker.id for maker in score.makers if isinstance(maker, Voice) and channels & {maker.voice, maker.jaw}}
    if not gone:
        return ()
    steps: list[Step] = []
    for channel in score.moved:
        if channel.id not in channels and gone & set(channel.moves.made_by):
            rows = [row for row in channel.moves.rows() if row.made_by not in gone]
            steps.append(Set(("scores", score.id, "channels", channel.id, "moves"), moves_of(rows)))
    kept = tuple(maker for maker in score.makers if maker.id not in gone)
    return (*steps, Set(("scores", score.id, "makers"), kept))


def untie(figure: Figure, channel: MovedChannel) -> Edit:
    """One channel for each joint of a tied one, with the same moves. Raises EditRefused when there is nothing to untie."""
    if len(channel.joints) < 2:
        raise EditRefused(f"{channel.name} moves one joint only; there is nothing to untie.")
    steps: list[Step] = [
        *let_go(figure.score, {channel.id}),
        *ungripped(figure, {channel.id}),
        Remove("score.channels", channel.id),
    ]
    left = {maker.id for maker in figure.score.makers if not (isinstance(maker, Voice) and maker.jaw == channel.id)}
    moves = moves_of([row if row.made_by in left else row._replace(made_by="") for row in channel.moves.rows()])
    taken: set[str] = set()
    for joint_id in channel.joints:
        ident = new_id(figure, f"{joint_id} channel", taken)
        fields = dict(channel) | {
            "id": ident,
            "name": figure.joint(joint_id).name,
            "joints": (joint_id,),
            "moves": moves,
        }
        steps.append(Add("score.channels", JointChannel(**fields)))
    return Edit(f"untie {channel.name}", tuple(steps))


def with_row(moves: Moves, row: Row) -> tuple[Moves, int]:
    """The block with one move more, and which it is."""
    rows = [*moves.rows(), row]
    rows.sort(key=lambda r: r.departs)
    return moves_of(rows), next(i for i, r in enumerate(rows) if r is row)


def changed_row(moves: Moves, k: int, row: Row) -> tuple[Moves, int]:
    """The block with move k replaced, and where it is then."""
    rows = list(moves.rows())
    rows[k] = row
    rows.sort(key=lambda r: r.departs)
    return moves_of(rows), next(i for i, r in enumerate(rows) if r is row)


def add_move(channel: MovedChannel, row: Row) -> tuple[Edit, int]:
    """One move more, and which it is."""
    moves, k = with_row(channel.moves, tidy(row))
    return set_moves(channel, moves, f"new move of {channel.name}"), k


def change_move(channel: MovedChannel, k: int, words: str, **fields: object) -> tuple[Edit, int]:
    """Change a move's departs, takes, target, profile or shape; a move changed by hand is no pin's any more."""
    row = channel.moves.row(k)
    if "profile" in fields and "shape" not in fields:
        fields["shape"] = DEFAULT_SHAPE.get(str(fields["profile"]), 0.0)
    moves, at = changed_row(channel.moves, k, tidy(row._replace(made_by="", **fields)))  # type: ignore[arg-type]
    return set_moves(channel, moves, f"{words} of {channel.name}", f"{channel.id} move {words}"), at


def typed_move(channel: MovedChannel, k: int, words: str, **fields: float) -> tuple[Edit, int]:
    """A move changed by what was typed. Raises EditRefused where it would leave before the score begins, or arrive before it leaves."""
    row = channel.moves.row(k)._replace(**fields)  # type: ignore[arg-type]
    if row.departs < 0:
        raise EditRefused(f"A move leaves at 0 s or later, not at {row.departs:g} s.")
    if row.takes < 0:
        raise EditRefused(
            f"It leaves at {row.departs:g} s and would arrive before that, at {row.departs + row.takes:g} s."
        )
    own = DESCRIBED[row.profile].shape
    if "shape" in fields and own is not None and not own.least <= row.shape <= own.most:
        raise EditRefused(f"{own.bounds[0].upper()}{own.bounds[1:]}, not {row.shape:g}.")
    return change_move(channel, k, words, **fields)


def remove_move(channel: MovedChannel, k: int) -> Edit:
    """Take a move out."""
    rows = list(channel.moves.rows())
    del rows[k]
    return set_moves(channel, moves_of(rows), f"take out a move of {channel.name}")


def tidy(row: Row) -> Row:
    """Times to the millisecond and not below 0, targets to a hundredth: what a hand can mean."""
    return row._replace(
        departs=max(0.0, round(row.departs, 3)), takes=max(0.0, round(row.takes, 3)), target=round(row.target, 2)
    )


def keep_pose(figure: Figure, name: str, places: dict[str, float]) -> Edit:
    """Keep a pose; places: joint → degrees (mm for a slide)."""
    kept = tuple((joint.id, round(places.get(joint.id, 0.0), 2)) for joint in figure.joints if joint.role == "driven")
    return Edit(f"keep pose {name}", (Add("poses", Pose(id=new_id(figure, name), name=name, places=kept)),))


def blended(a: Pose, b: Pose, share: float) -> dict[str, float]:
    """share 0 is pose a, 1 is pose b; a joint that one of them does not name stays as the other has it."""
    first, second = dict(a.places), dict(b.places)
    return {
        joint: (1 - share) * first.get(joint, second.get(joint, 0.0)) + share * second.get(joint, first.get(joint, 0.0))
        for joint in {**first, **second}
    }


def add_section(figure: Figure, at_s: float) -> Edit:
    """A named stretch of four seconds from a time on, or what is left of the score."""
    score = figure.score
    begin = max(0.0, min(at_s, score.length_s - 0.2))
    name = f"part {len(score.sections) + 1}"
    fields = {
        "id": new_id(figure, name),
        "name": name,
        "from_s": round(begin, 3),
        "to_s": round(min(score.length_s, begin + 4), 3),
    }
    return Edit(f"add {name}", (Add("score.sections", fields),))


def change_section(figure: Figure, section_id: str, **fields: Any) -> Edit:
    """Another name or other ends for a section."""
    section = next(s for s in figure.score.sections if s.id == section_id)
    changed = {**dict(section), **fields}
    sections = tuple(changed if s.id == section_id else s for s in figure.score.sections)
    return Edit(f"change {section.name}", (Set(("score", "sections"), sections),))


def stretch_all(figure: Figure, by: float) -> Edit:
    """Everything slower by one factor: torque of motion falls with its square (Hollerbach 1984)."""
    score = figure.score
    said = {maker.id: score.channel(maker.voice) for maker in score.makers if isinstance(maker, Voice)}
    channels = tuple(_channel_slower(channel, by, said) for channel in score.channels)
    makers = tuple(maker.slower(by) for maker in score.makers)
    sections = tuple(
        type(s)(**(dict(s) | {"from_s": round(s.from_s * by, 3), "to_s": round(s.to_s * by, 3)}))
        for s in score.sections
    )
    fields = dict(score) | {
        "channels": channels,
        "makers": makers,
        "sections": sections,
        "length_s": round(score.length_s * by, 3),
    }
    return Edit(f"stretch everything {by:.2f} times", (Set(("score",), Score(**fields)),))


def _channel_slower(channel: Channel, by: float, said: Mapping[str, Channel]) -> Channel:
    """A ribbon's moves take longer; a sound begins later and sounds as it does, and what goes with it keeps its pace. `said`: by their makers, the channels
    of moves after a voice."""
    if isinstance(channel, SoundChannel):
        plays = tuple(Play(**(dict(play) | {"at_s": round(play.at_s * by, 3)})) for play in channel.plays)
        return SoundChannel(**(dict(channel) | {"plays": plays}))
    rows = [_with_sound(row, by, said[row.made_by]) if row.made_by in said else _slower(row, by) for row in channel.moves.rows()]  # fmt: skip
    return type(channel)(**(dict(channel) | {"moves": moves_of(rows)}))


def _with_sound(row: Row, by: float, voice: Channel) -> Row:
    """A move after a voice is as much later as its sound is: the last that began before it is over."""
    begun = [play.at_s for play in getattr(voice, "plays", ()) if play.at_s <= row.departs + row.takes]
    later = begun[-1] * (by - 1.0) if begun else 0.0
    return row._replace(departs=max(0.0, round(row.departs + later, 3)))


def _slower(row: Row, by: float) -> Row:
    shape = row.shape * by if row.profile == "following" else row.shape
    return row._replace(departs=round(row.departs * by, 4), takes=round(row.takes * by, 4), shape=shape)


def keep_score(figure: Figure, name: str) -> tuple[Edit, str]:
    """A score more, with the ribbons of the one in hand and nothing on them yet; it is taken in hand. And its id."""
    channels = tuple(
        type(c)(**(dict(c) | ({"plays": ()} if isinstance(c, SoundChannel) else {"moves": Moves()})))
        for c in figure.score.channels
    )
    ident = new_id(figure, name)
    made = Score(id=ident, name=name, length_s=figure.score.length_s, loops=figure.score.loops, channels=channels)
    return Edit(f"add {name}", (Add("scores", made), Set(("playing",), ident))), ident


def put_score(score: Score) -> Edit:
    """A score as it was made elsewhere is added and taken in hand."""
    return Edit(f"add {score.name}", (Add("scores", score), Set(("playing",), score.id)))


def play_score(figure: Figure, score_id: str) -> Edit:
    """Take another score in hand."""
    score = next(each for each in figure.scores if each.id == score_id)
    return Edit(f"take {score.name} in hand", (Set(("playing",), score_id),))


def remove_score(figure: Figure) -> Edit:
    """Take the score in hand out; the first of the others comes in hand. Raises EditRefused where it is the only one."""
    others = [score for score in figure.scores if score.id != figure.score.id]
    if not others:
        raise EditRefused(f"{figure.score.name} stays: a figure has at least one score.")
    left = {channel.id for score in others for channel in score.channels}
    gone = {channel.id for channel in figure.score.channels} - left
    loose = (*always_on(figure, gone), *unplugged(figure, gone), *ungripped(figure, gone))
    return Edit(
        f"take out {figure.score.name}", (*loose, Set(("playing",), others[0].id), Remove("scores", figure.score.id))
    )


def written(
    figure: Figure, maker: Maker, rows: Mapping[str, list[Row]], words: str, merge_key: str | None = None
) -> Edit:
    """Put a maker in its place, and what it makes, channel id → rows, in that of what it made before."""
    before = figure.score.makers
    makers = (
        tuple(maker if each.id == maker.id else each for each in before)
        if figure.score.maker(maker.id) is not None
        else (*before, maker)
    )
    return Edit(words, (Set(("score", "makers"), makers), *rewritten(figure, maker.id, rows)), merge_key)


def unwritten(figure: Figure, maker_id: str, words: str) -> Edit:
    """Take a maker out with all it wrote."""
    others = tuple(each for each in figure.score.makers if each.id != maker_id)
    return Edit(words, (*rewritten(figure, maker_id, {}), Set(("score", "makers"), others)))


def rewritten(figure: Figure, maker_id: str, rows: Mapping[str, list[Row]]) -> list[Step]:
    """What a maker makes, channel id → rows, in the place of what it made before."""
    steps: list[Step] = []
    for channel in figure.score.moved:
        kept = [row for row in channel.moves.rows() if row.made_by != maker_id]
        made = [tidy(row._replace(made_by=maker_id)) for row in rows.get(channel.id, ())]
        if made or len(kept) != len(channel.moves):
            steps.append(Set(("score", "channels", channel.id, "moves"), moves_of([*kept, *made])))
    return steps
