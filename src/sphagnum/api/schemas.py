"""Bodies and answers that only the web interface knows; all others are the core's own types."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from ..core.forms import MOST_NUMBER, RowId, RowVersion
from ..core.job.broken import Broken
from ..core.job.document import Job, JobDocument
from ..core.job.operations import Operations
from ..core.job.shelf import Method
from ..core.levels.run_figures import LogAnalysis, RecordingAnalysis
from ..core.materials.usual import Doubt
from ..core.paths.desk import DeskEntry
from ..core.paths.offers import Offers
from ..core.schema import Strict
from ..core.stages.board.learned import Learned
from ..core.stages.board.overview import Overview
from ..core.stages.build.schools import SchoolName
from ..core.stages.build.view import BuildView
from ..core.stages.shelf.view import MaterialCard
from ..core.stages.trace.view import TraceView


class Refusal(Strict):
    """The one shape of an error; ``stored`` and ``sent`` come with a conflict."""

    what: str
    where: str
    mend: str
    stored: dict[str, Any] | None = None
    sent: dict[str, Any] | None = None
    step: int | None = None
    """Of an undo or redo that others stand in the way of: the edit it is about, to be skipped or, if ``forcible``, forced."""
    forcible: bool | None = None


class JobPath(BaseModel):
    job_id: RowId


class CollectionPath(JobPath):
    collection: str


class RowPath(CollectionPath):
    row_id: RowId


class RoundQuery(Strict):
    model_config = ConfigDict(extra="forbid")
    round_id: RowId | None = None


class PairQuery(Strict):
    """Two rounds to compare; left out: the latest and the baseline it is judged by."""

    before_id: RowId | None = None
    after_id: RowId | None = None


class SurfaceQuery(Strict):
    surface_id: RowId | None = None


class BuildQuery(SurfaceQuery):
    alternative_id: RowId | None = None
    zone: str = Field(default="", max_length=40)


class TableQuery(Strict):
    surface_id: RowId
    zone: str = Field(default="", max_length=40)


class CoverageQuery(Strict):
    surface_id: RowId
    alternative_id: RowId
    layer: str = Field(default="", max_length=40)


class SchoolPath(JobPath):
    school: str = Field(max_length=40)


class Schools(Strict):
    """Schools of the trade that could be asked about for a job."""

    schools: tuple[SchoolName, ...]


class PullQuery(Strict):
    """Gates pulled down: ``3:10,5:4`` takes 10 dB off path 3 and 4 dB off path 5."""

    pull: str = Field(default="", pattern=r"^(\d+:\d+(\.\d+)?(,\d+:\d+(\.\d+)?)*)?$", max_length=2000)


class TraceQuery(PullQuery):
    """Gates pulled, paths thought away together: ``gone=3,5``, and the condition looked at (the headline's if left out)."""

    condition_id: RowId | None = None

    gone: str = Field(default="", pattern=r"^(\d+(,\d+)*)?$", max_length=1000)


class RoundsQuery(Strict):
    """Two rounds of a job."""

    before_id: RowId
    after_id: RowId


class TemplateChoice(Strict):
    """Ways in to add to a job, by the ids of their templates."""

    templates: Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(min_length=1, max_length=40)]


class DeskPage(Strict):
    """The calculations of the working desk with their forms."""

    entries: tuple[DeskEntry, ...]


class DeskPath(Strict):
    calculation: Annotated[str, Field(max_length=40)]


class DeskForm(Strict):
    """A calculation's form as filled in; what is left out takes its usual value."""

    form: dict[Annotated[str, Field(max_length=40)], float | bool | Annotated[str, Field(max_length=40)] | None] = Field(
        default={}, max_length=30
    )


class VersionQuery(Strict):
    version: RowVersion


class RevisionQuery(Strict):
    """The revision of the job that was seen: what somebody else did since is not thrown away unseen."""

    revision: RowVersion


class Trashed(Strict):
    """A job in the trash, and until when it can be brought back."""

    id: int
    name: str
    until: str


class Trash(Strict):
    jobs: tuple[Trashed, ...]


class NewRows(Strict):
    """Rows to add, as one edit."""

    rows: tuple[dict[str, Any], ...] = Field(min_length=1, max_length=100)


class Edit(Strict):
    """What to do to a row whose version was seen: fields to give values, operations on what is inside them."""

    version: RowVersion
    changes: dict[str, Any] = Field(default={}, max_length=100)
    operations: Operations = ()
    force: bool = False


class Step(Strict):
    """One step of an edit: a row to add (no ``row``), to change, or to remove.

    ``row`` is a number, or "#n" for the row of the n-th step; ``version`` the one seen.
    """

    collection: Annotated[str, Field(max_length=40)]
    row: Annotated[int, Field(ge=0, le=MOST_NUMBER)] | Annotated[str, Field(pattern=r"^#\d{1,3}$")] | None = None
    version: RowVersion = 0
    values: dict[str, Any] = Field(default={}, max_length=100)
    operations: Operations = ()
    remove: bool = False
    force: bool = False


class Steps(Strict):
    """Several steps as one edit."""

    steps: tuple[Step, ...] = Field(min_length=1, max_length=100)


class Trial(Strict):
    """Steps that are not kept, and the stage to be seen after them."""

    stage: Literal["build", "trace"]
    surface_id: RowId | None = None
    alternative_id: RowId | None = None
    zone: str = Field(default="", max_length=40)
    condition_id: RowId | None = None
    steps: tuple[Step, ...] = Field(max_length=100)


class TrialView(Strict):
    """What a stage would say."""

    build: BuildView | None = None
    trace: TraceView | None = None


class TakeBack(Strict):
    """What was decided about an undo or redo that others stand in the way of: the edit to skip, or to force."""

    skip: RowId | None = None
    force: RowId | None = None


class TypedReadings(Strict):
    """Readings as typed: levels and ranges, several parted by ';'."""

    position_id: RowId
    condition_id: RowId
    round_id: RowId
    text: str = Field(max_length=4000)
    weighting: Literal["", "Z", "A"] = ""
    """Of bands: what they are in, where the text does not say."""
    repeats: bool = False
    """Whether seven to ten levels far apart are repeats indeed, and no bands."""
    background: bool = False
    afresh: bool | None = None
    note: str = Field(default="", max_length=2000)


class BandsAsked(Strict):
    """A text that may hold levels in bands."""

    text: str = Field(max_length=100_000)


class BandsFound(Strict):
    """The bands in a text, ``frequency_hz`` beside ``level_db``; none where it holds none."""

    frequency_hz: tuple[float, ...] = ()
    level_db: tuple[float, ...] = ()
    octaves: bool = False
    a_weighted: bool = False


class JobCard(Strict):
    """A job on the board."""

    job: Job
    overview: Overview | None
    """None until it was worked out once."""
    older: bool = False
    """Whether the job changed since; the card is being renewed."""
    offer: str = ""
    """What became of its newest offer, in words; empty where none was handed over."""


class BoardQuery(BaseModel):
    """Which page of the board, from 0, in what order, and of which jobs."""

    page: int = Field(default=0, ge=0, le=100_000)
    sort: Literal["newest", "oldest", "name"] = "newest"
    find: str = Field(default="", max_length=120)
    """Only jobs whose name holds this."""


class JobCards(Strict):
    """A page of the board, and how many jobs there are."""

    jobs: tuple[JobCard, ...]
    count: int
    page_size: int
    trouble: str = ""
    """What was wrong with the last backup the server kept of itself."""


class JobPage(Strict):
    """All of a job that every stage needs."""

    document: JobDocument
    overview: Overview
    revision: int
    work: tuple[str, ...] = ()
    """What is still worked out behind the page for this job, by its keys."""
    broken: tuple[Broken, ...] = ()
    """Rows that cannot be used and stand aside."""


class Created(Strict):
    id: int


class Rows(Strict):
    """Rows as stored after an edit, and the revision of the job it made, where it was an edit of steps."""

    rows: tuple[dict[str, Any], ...]
    revision: int | None = None


class Undone(Strict):
    what: str


class LogImported(Strict):
    """A stored log and what was understood of it."""

    row: dict[str, Any]
    analysis: LogAnalysis | None
    column: str
    interval_s: float | None


class RecordingImported(Strict):
    """A stored recording and its figures."""

    row: dict[str, Any]
    analysis: RecordingAnalysis


class SpectrumName(Strict):
    id: str
    name: str
    source: str
    at_km_h: float | None = None
    """The speed it is at, where it goes by speed."""


class ShelfPage(Strict):
    """What a job may name."""

    materials: tuple[MaterialCard, ...]
    currency: str
    units: str
    spectra: tuple[SpectrumName, ...]
    methods: tuple[Method, ...]
    offers: Offers
    simulated_meter: bool
    """Whether the made-up meter is offered: in the demo."""


class MaterialAsked(Strict):
    """A material as somebody types it."""

    material: dict[str, Any]


class MaterialLooked(Strict):
    """What would be kept of a typed material, and what should be asked about it."""

    card: MaterialCard
    doubts: tuple[Doubt, ...]


class ShelfChange(Strict):
    """A material that an import adds or changes, and what changes of it."""

    id: str
    name: str
    added: bool
    changes: tuple[str, ...]


class ShelfImport(Strict):
    """What an import of materials did, or would do."""

    added: int
    changed: int
    same: int
    unknown: tuple[str, ...]
    doubts: tuple[str, ...]
    materials: tuple[ShelfChange, ...]


class TakeShelf(Strict):
    """Materials of a job to take as the shelf has them now; ``onto_shelf``: those to put on the shelf as the job has them."""

    materials: tuple[str, ...] = ()
    onto_shelf: tuple[str, ...] = ()


class LearnedPage(Strict):
    """Repeatability by method: the table's and the workshop's own."""

    methods: tuple[Learned, ...]


class SignalQuery(Strict):
    """Length in seconds (without the level check), and the frequency of a tone."""

    seconds: float = 20.0
    frequency_hz: float = 100.0
