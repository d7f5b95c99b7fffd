"""Dirty work: marking, drilling, cutting and cleaning of the box, and the dry fit that ends it."""

from itertools import pairwise

from kegcart.core.assembly.lines import slug
from kegcart.core.assembly.plan.acts import Act, BuildPlan, Measure
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.template import Hole, faces_with_holes, holes_in, size_text

EYES = "Eyes and lungs: goggles and a mask; the box is held, not the hand under the drill."


def plan_box(layout: BoxLayout, plan: BuildPlan) -> None:
    """The acts of dirty work."""
    holes = list(holes_in(layout))
    for face in faces_with_holes(layout):
        of_face(face, [hole for hole in holes if hole.face == face], layout, plan)
    if holes:
        text = "All edges, then all swarf out of the box: brush, cloth, vacuum. A magnet finds what is left of steel."
        plan.add(
            Act("deburr", "dirty", "deburr", "Deburr and clean", text, ("/box/case",), tools=("centre-punch",), caution=EYES)
        )
        work = [key for key in plan.acts if key.startswith(("drill:", "cut:"))]
        plan.after("deburr", work, "each hole leaves a burr")
    text = "Every part in its place, nothing screwed, the lid shut. What touches is mended now. Then all of it comes out again."
    look = Measure(
        "shuts",
        "Everything stands, and the lid shuts",
        causes=("a part is larger than was taken for it", "a post or lug under the lid"),
    )
    plan.add(Act("dry-fit", "dirty", "dry-fit", "Put it all in once, dry", text, ("/box",), measures=(look,)))
    plan.after("dry-fit", "deburr", "no swarf is to lie under a part")


def of_face(face: str, holes: list[Hole], layout: BoxLayout, plan: BuildPlan) -> None:
    """Marking, drilling and cutting of one face."""
    places = tuple(dict.fromkeys(hole.at for hole in holes))
    mark = f"mark:{face}"
    text = f"Lay the drill template on the {face}, seen from outside, by its cross at the lower left; prick through each middle."
    plan.add(Act(mark, "dirty", "mark", f"Mark the {face}", text, places, tools=("centre-punch",)))
    by_bit: dict[str, list[Hole]] = {}
    for hole in holes:
        by_bit.setdefault(hole.bit, []).append(hole)
    before = [mark]
    for bit, made in sorted(by_bit.items(), key=lambda item: (not item[1][0].shape.round, item[1][0].shape.width)):
        round_ones = made[0].shape.round
        sizes = list(dict.fromkeys(size_text(hole.shape) for hole in made))
        key = f"{'drill' if round_ones else 'cut'}:{face}:{slug(bit)}" if round_ones else f"cut:{face}"
        counted = ", ".join(f"{sum(size_text(h.shape) == size for h in made)} × {size}" for size in sizes)
        verb = "Drill" if round_ones else "Cut"
        title = f"{verb} the {face}: {sizes[0]}" + (
            "" if len(sizes) == 1 else f" and {sizes[1]}" if len(sizes) == 2 else f" and {len(sizes) - 1} other sizes"
        )
        tool = slug(bit) if round_ones else slug("knife, fine saw and file")
        text = f"{bit[0].upper()}{bit[1:]}: {counted}."
        plan.add(Act(key, "dirty", "drill" if round_ones else "cut", title, text, places, tools=(tool,), caution=EYES))
        before.append(key)
    for earlier, later in pairwise(before):
        plan.after(later, earlier, "small holes guide the large ones" if earlier != mark else "its middles are pricked first")
