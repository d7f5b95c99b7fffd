"""The drill template as files that other programs read: DXF in true millimetres, and the pages to lay on a face."""

import io
from typing import TYPE_CHECKING

from kegcart.core.assess import Assessment
from kegcart.core.box.document import Face
from kegcart.core.box.layout import BoxLayout
from kegcart.core.box.template import Hole, Seen, draw_template, faces_with_holes, holes_in, size_text
from kegcart.workbench.papers import NothingToPrintError, Paper, draw_sheets, new_canvas

if TYPE_CHECKING:
    from ezdxf.layouts.layout import Modelspace

LAYERS = {"OUTLINE": 8, "CUT": 1, "SCREW": 5, "TEXT": 7}
"""Layers of a DXF file, each with its colour in the index of the format."""


def drilled(assessment: Assessment) -> BoxLayout:
    """The layout of a build with holes in its box. Errors: NothingToPrintError."""
    if assessment.box is None or not faces_with_holes(assessment.box.layout):
        raise NothingToPrintError("nothing is cut into the box yet")
    return assessment.box.layout


def template_pdf(assessment: Assessment, paper: Paper) -> bytes:
    """Every face with holes, 1:1, seen from outside and then mirrored, over as many sheets as it takes, each with its bar of 100 mm.

    Errors: NothingToPrintError.
    """
    layout, name = drilled(assessment), assessment.design.name
    canvas, out, page_w, page_h = new_canvas(paper, True, f"{name}: drill template")
    sides: tuple[tuple[Seen, str], ...] = (("outside", "from outside"), ("inside", "from inside, mirrored"))
    for face in faces_with_holes(layout):
        for seen, said in sides:
            draw_sheets(canvas, draw_template(face, layout, seen, cropped=True), f"{name}: {face}, {said}", (page_w, page_h), 1.0)
    canvas.save()
    return out.getvalue()


def template_dxf(assessment: Assessment, face: Face) -> str:
    """The holes of a face as DXF R2010 in mm, seen from outside: x from its left edge, y over the inner floor.

    Circles and closed polylines on the layers CUT and SCREW, the face on OUTLINE, words on TEXT. Errors: NothingToPrintError.
    """
    from ezdxf import units  # takes a second to load: only for whoever asks for such a file
    from ezdxf.filemanagement import new

    layout = drilled(assessment)
    document = new("R2010", setup=False)
    document.units = units.MM
    for layer, colour in LAYERS.items():
        document.layers.add(layer, color=colour)
    space = document.modelspace()
    space.add_lwpolyline(layout.hollow.corners(face), close=True, dxfattribs={"layer": "OUTLINE"})
    for hole in holes_in(layout):
        if hole.face == face:
            add_hole(space, hole)
    text = io.StringIO()
    document.write(text)
    return text.getvalue()


def add_hole(space: "Modelspace", hole: Hole) -> None:
    """A hole on its layer, with what it is for beside it."""
    shape, layer = hole.shape, {"layer": "SCREW" if hole.screw else "CUT"}
    if shape.round:
        space.add_circle((shape.x, shape.y), shape.width / 2, dxfattribs=layer)
    else:
        w, h = shape.width / 2, shape.height / 2
        corners = [(shape.x - w, shape.y - h), (shape.x + w, shape.y - h), (shape.x + w, shape.y + h), (shape.x - w, shape.y + h)]
        space.add_lwpolyline(corners, close=True, dxfattribs=layer)
    if not hole.screw:
        text = f"{hole.name}, {size_text(shape)}, {hole.bit}"
        space.add_text(text, height=3, dxfattribs={"layer": "TEXT", "insert": (shape.x + shape.width / 2 + 2, shape.y)})
