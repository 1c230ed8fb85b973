"""What Cut says: the surface drawn, sheets and rolls filled, what to buy, what is left over."""

from __future__ import annotations

from ...cutting.buying import Buy
from ...cutting.rows import Offcut
from ...schema import Strict
from ...surfaces.geometry import Areas
from ...working import Working

Points = tuple[tuple[float, float], ...]


class PieceOnSurface(Strict):
    """A numbered piece where it goes on its surface, mm, in the order it is fitted."""

    label: str
    outline_mm: Points
    holes_mm: tuple[Points, ...]
    width_mm: float
    height_mm: float
    kg: float


class LayerPieces(Strict):
    """The pieces of one layer of a surface. ``strips``: whether they are cut to pass an opening; ``lap_mm`` of one on another."""

    zone: str
    layer: str
    """Its id in the stack of that zone."""
    material: str
    thickness_mm: float
    name: str
    letter: str
    wanted: float
    reached: float
    kg: float
    pieces: tuple[PieceOnSurface, ...]
    strips: bool
    lap_mm: float
    seam_m: float


class SurfaceView(Strict):
    """A surface drawn to scale: outline, what stays clear, what may be covered (rings, mm), its pieces."""

    id: int
    name: str
    count: int
    areas: Areas
    outline_mm: Points
    treatable_mm: tuple[tuple[Points, ...], ...]
    opening_mm: Points
    """The hole it is reached through, where one is known."""
    layers: tuple[LayerPieces, ...]


class MarkLine(Strict):
    """Part of how a piece is marked out: what it is, and its places in order."""

    lead: str
    points: tuple[str, ...] = ()


class SheetPiece(Strict):
    """A piece on its sheet as the sheet is drawn, with the label it carries on the surface; (x, y) is the lower left of its
    bounds on the stock, where a hand puts it."""

    label: str
    also: tuple[str, ...] = ()
    """Labels of those that lie at this place on the sheets alike."""
    surface_id: int | None
    outline_mm: Points
    holes_mm: tuple[Points, ...]
    x_mm: float
    y_mm: float
    mirrored: bool
    turned_deg: float
    locked: bool
    turns: tuple[float, ...]
    """Angles it may be turned by; empty for any."""
    mirrors: bool
    area_mm2: float
    size: str
    """Along the foot × up."""
    at: str
    """The lower left of its bounds, from the left edge and from the foot."""
    lines: tuple[MarkLine, ...]
    """What more there is to mark: its outline where it is no rectangle, its cut-outs."""


class SheetView(Strict):
    """One opened sheet or length of roll, as it lies before one who cuts: its long side along the foot."""

    material: str
    thickness_mm: float
    name: str
    letter: str
    roll: bool
    stock: str
    number: int
    across_mm: float
    up_mm: float
    size: str
    """Along the foot × up, as it is read off a rule."""
    to_stock: tuple[float, float, float, float]
    """A way as drawn (right, up) as a way on the stock: (a·right + b·up, c·right + d·up)."""
    outline_mm: Points
    pieces: tuple[SheetPiece, ...]
    used: float
    """Share of it that goes on the job."""
    face: str
    """Which side lies up: "liner up", "face up", or empty where both are alike."""
    grain: str = ""
    """Along what its grain runs, where a piece minds: "foot" or "left edge"."""
    offcut: str = ""
    """Of a rest that is kept: which, and where it lies."""
    same_as: int | None = None
    """The place in the list of the first sheet that is cut just like it."""
    alike: int = 1
    """How many sheets are cut just like it, itself among them."""


class LeftOver(Strict):
    """A rest worth keeping, with the label it could carry; ``rest`` tells it apart."""

    rest: str
    material: str
    thickness_mm: float
    name: str
    width_mm: float
    length_mm: float
    code: str
    outline_mm: Points = ()
    """Where it is no rectangle, from its own lower left."""


class LeftBare(Strict):
    """What of a surface is too narrow to be worth a piece, and what leaving it bare costs, dB (None unknown)."""

    surface_id: int
    alternative_id: int
    cost_db: float | None
    sentence: str


class CutView(Strict):
    """The whole stage."""

    sentence: str
    detail: str
    surface: SurfaceView | None
    sheets: tuple[SheetView, ...]
    buy: tuple[Buy, ...]
    kg: float
    money: float
    currency: str
    utilisation: float | None
    unplaced: tuple[str, ...]
    working: tuple[Working, ...]
    work: tuple[str, ...] = ()
    """Layouts still under way, by their keys."""
    older: bool = False
    """Whether part of the buying list is of layouts from before the last change."""
    offcuts: tuple[Offcut, ...] = ()
    """Rests the workshop keeps of what this job cuts, that it could take."""
    left: tuple[LeftOver, ...] = ()
    used_up: tuple[Buy, ...] = ()
    """What the work uses up, reckoned by the area and the cuts; not in the sums."""
    left_bare: tuple[LeftBare, ...] = ()
    let_go: tuple[str, ...] = ()
    """Pieces a hand laid that no longer lie well there, and are laid anew."""
