"""The card of a part: what it is, what it weighs, where it is, what it does to the joints."""

from __future__ import annotations

import math

from karakuri.bodies.inertia import part_mass_kg
from karakuri.bodies.shapes import SHAPES, described, kind_of, reshaped
from karakuri.catalogue import materials
from karakuri.checks.hold import asked_by
from karakuri.errors import Trouble
from karakuri.model.edit import Add, Edit, Set
from karakuri.model.edits import label_mass, remove_item, set_field, set_one_of
from karakuri.model.part import MESH_UNITS, Mesh, Part, Point, Sheet
from karakuri.model.sides import twin_part
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import coordinates, degrees, grams, mm, rename
from karakuri.workbench.benches.picture_page import tracing_items
from karakuri.workbench.benches.spare_items import spare_items
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Calc, Do, Fact, Head, Item, Note, Page, Pick, Write, WriteText
from karakuri.workbench.wishes import MESH

MAY_MOVE = {True: "may move it", False: "leave it there"}
ORIGINS = ("weighed", "data sheet", "slicer", "typical", "guess")


def part_page(desk: Desk, ident: str) -> Page:
    figure = desk.figure
    part = figure.part(ident)
    known = part_mass_kg(part, {m.id: m for m in figure.materials})

    def put(path: tuple[str, ...], value: object, words: str) -> None:
        desk.edit(lambda: set_field(desk.figure, "parts", ident, path, value, words))

    items: list[Item] = [
        WriteText("name", "Name", part.name, lambda text: rename(desk, "parts", ident, text)),
        Write("mass", "Mass", grams(part.mass_g), "mass",
              lambda v: desk.edit(lambda: label_mass(desk.figure, ident, round(v * 1e3, 6))), "unknown"),
        *coordinates(desk, "parts", ident, ((0, "Ahead"), (2, "Above"), (1, "To its left")), "place"),
        _rides(desk, part),
        Pick("fixed", "Remedies", MAY_MOVE[part.movable], (("no", MAY_MOVE[False]), ("yes", MAY_MOVE[True])),
             lambda key: put(("fixed",), key == "no", "whether remedies move it")),
        Pick("origin", "How known", part.mass_origin, tuple((o, o) for o in ORIGINS), lambda key: put(("mass_origin",), key, "origin")),
    ]  # fmt: skip
    if known is not None:
        items.append(Write("pm", "Could be off by", Quantity(known[1], "mass", rounding="up"), "mass",
                           lambda v: put(("plus_minus_g",), round(v * 1e3, 6), "how far off it may be")))  # fmt: skip
    if part.mass_g is None and known is not None:
        number, label = desk.show(Quantity(known[0], "mass")).split("\u00a0")[0], desk.units.unit("mass").label
        items.append(Fact("est", "Mass, worked out", number, label, "from shape and material, an estimate"))
    items += [
        Head("h1", "Shape"),
        *_shape_items(desk, part),
        *_joint_items(desk, part),
        *spare_items(desk, part),
        *tracing_items(desk, ident),
        Head("h2", "Actions"),
        Do("twin", "Twin on the other side", lambda: desk.edit(lambda: twin_part(desk.figure, ident))),
        Do("remove", f"Remove {part.name}", lambda: _remove(desk, ident)),
    ]
    rides = (
        f"stands on {figure.base.stands_on}"
        if part.rides_on == "base"
        else f"rides on {figure.joint(part.rides_on).name}"
    )
    return Page(
        part.name, f"{_kind(part)} · {rides} · {known[2] if known else 'mass unknown'}", tuple(items), ("part", ident)
    )


def _kind(part: Part) -> str:
    if isinstance(part.shape, Point):
        return "point mass"
    solid = getattr(part.shape, "wall_mm", None) == 0
    return f"solid {part.shape.kind}" if solid else described(part.shape)


def _remove(desk: Desk, ident: str) -> None:
    try:
        edit = remove_item(desk.figure, "parts", ident)
    except Trouble as trouble:
        desk.said.emit(str(trouble))
        return
    desk.edit(edit)


def _rides(desk: Desk, part: Part) -> Pick:
    names = {"base": "the base"} | {joint.id: joint.name for joint in desk.figure.joints}
    return Pick(
        "rides",
        "Rides on",
        names[part.rides_on],
        tuple(names.items()),
        lambda key: desk.edit(lambda: set_field(desk.figure, "parts", part.id, ("rides_on",), key, "what carries it")),
    )


def _shape_items(desk: Desk, part: Part) -> list[Item]:
    ident, shape = part.id, part.shape

    def set_shape(**fields: object):
        desk.edit(
            lambda: set_field(
                desk.figure, "parts", ident, ("shape",), dict(shape) | {"kind": shape.kind} | fields, "shape"
            )
        )

    def sized(field: str, which: int | None = None):
        def done(value: float) -> None:
            new = round(value * 1e3, 4)
            if which is not None:
                sizes = list(getattr(shape, field))
                sizes[which] = new
                set_shape(**{field: tuple(sizes)})
            else:
                set_shape(**{field: new})

        return done

    items: list[Item] = [
        Do("mesh", "Take its shape from a mesh file", lambda: desk.wanted.emit(MESH)),
        Pick(
            "shape",
            "Shape",
            shape.kind,
            tuple((s.kind, s.words) for s in SHAPES.values() if s.kind != "mesh" or shape.kind == "mesh"),
            lambda key: desk.edit(
                lambda: set_field(desk.figure, "parts", ident, ("shape",), reshaped(part, key), "shape")
            ),
        ),
    ]
    for k, number in enumerate(kind_of(shape).numbers):
        value = getattr(shape, number.field)
        value = value if number.which is None else value[number.which]
        items.append(Write(f"s{k}", number.words, mm(value), "length", sized(number.field, number.which)))
    if isinstance(shape, Mesh):
        units = tuple((f"{unit:g}", f"{words}: {_sizes(desk, shape, unit)}") for unit, words in MESH_UNITS)
        items += [
            Pick("unit", "One unit of the file is", dict(MESH_UNITS).get(shape.unit_mm, f"{shape.unit_mm:g} mm"), units, lambda key: set_shape(unit_mm=float(key))),
            Fact("mesh of", "Read from", shape.file.rsplit("/", 1)[-1], "", f"{shape.triangles} triangles, {'closed' if shape.closed else 'with holes: a shell only'}"),
        ]  # fmt: skip
    if isinstance(shape, Sheet):
        items += _sheet_items(desk, part, shape, set_shape)
    elif not isinstance(shape, Point):
        items.append(Write("wall", "Wall, 0 is solid", mm(shape.wall_mm), "length", sized("wall_mm")))
        if shape.wall_mm > 0:
            filled = Quantity(shape.infill, "percent")
            items.append(
                Write("fill", "Printed, filled by", filled, "percent", lambda v: set_shape(infill=round(v, 4)))
            )
    if not isinstance(shape, Point):
        items += [
            Write(f"t{i}", f"Turned about {axis}", degrees(part.turned_deg[i]), "angle", _turned(desk, ident, i))
            for i, axis in enumerate("xyz")
        ]
        items.append(_material(desk, part))
    return items


def _sizes(desk: Desk, shape: Mesh, unit: float) -> str:
    return " × ".join(desk.show(mm(unit * side)) for side in shape.size)


def _sheet_items(desk: Desk, part: Part, shape: Sheet, put) -> list[Item]:
    """How much of it there is, and what is on it."""
    area = None if shape.area_cm2 is None else Quantity(shape.area_cm2 / 1e4, "area")
    return [
        Write("area", "All its pieces", area, "area", lambda v: put(area_cm2=round(v * 1e4, 3)), "all round"),
        Write("glue", "Glue and paint, dried", Quantity(shape.glue_gpm2 / 1e3, "areal"), "areal", lambda v: put(glue_gpm2=round(v * 1e3, 2))),
        Note("ns", "Measure its pattern on squared paper. Dried contact cement adds 50 to 100 g a m² of joint, two coats of paint about as much."),
    ]  # fmt: skip


def _turned(desk: Desk, ident: str, which: int):
    return lambda value: desk.edit(
        lambda: set_one_of(desk.figure, "parts", ident, "turned_deg", which, round(math.degrees(value), 4), "turn")
    )


def _material(desk: Desk, part: Part) -> Pick:
    known = {m.id: m for m in (*materials(), *desk.figure.materials)}

    def done(key: str) -> None:
        steps = (
            [] if key == "none" or any(m.id == key for m in desk.figure.materials) else [Add("materials", known[key])]
        )
        steps.append(Set(("parts", part.id, "material"), None if key == "none" else key))
        desk.edit(Edit(f"material of {part.name}", tuple(steps)))

    options = (("none", "none"), *((m.id, m.name) for m in known.values()))
    return Pick("material", "Material", known[part.material].name if part.material in known else "none", options, done)


def _joint_items(desk: Desk, part: Part) -> list[Item]:
    """What it adds to each joint that carries it, at that joint's own worst pose."""
    study = desk.study
    if study is None or part.rides_on == "base" or study.figure is not desk.figure:
        return []
    items: list[Item] = [Head("h3", "What it does to the joints")]
    if all(body.id != part.id for body in study.results.tree.bodies):
        return [*items, Note("n", "Waits for its mass.")]
    asks = ((r.joint.id, asked_by(part.id, r, study.results)) for r in study.results.joints)
    return [*items, *(Calc(f"j{joint}", derivation) for joint, derivation in asks if derivation is not None)]
