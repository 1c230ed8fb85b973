"""What each command takes and gives: the types behind the schemas."""

from __future__ import annotations

from pydantic import BaseModel

from ..core.bench.model import SeriesIn, SeriesResult
from ..core.builds.kinds import KINDS
from ..core.builds.model import Built
from ..core.cutting.model import CutInput, CutResult
from ..core.levels.comparison import Comparison
from ..core.levels.decay import Decay
from ..core.levels.hearing import HeardFiles, HearInput
from ..core.levels.rating import Ratings
from ..core.levels.run_figures import LogAnalysis, RecordingAnalysis
from ..core.papers.blocks import Printed
from ..core.paths.budget import Budget, Paths
from ..core.planning.model import PlanInput, PlanResult
from ..core.stacks.absorption import Absorption, Lining
from ..core.stacks.model import Stack
from ..core.stacks.predict import Prediction
from ..core.stages.papers.offer import JobOffer
from ..core.surfaces.drawn import Drawing, ReadDrawing
from ..core.surfaces.taped import ShapeInput, TapedShape
from .order_command import Order
from .plan_command import JobPlans

INPUTS: dict[str, type[BaseModel]] = {"predict": Stack, "absorb": Lining, "cut": CutInput, "trace": Paths,
                                     "plan": PlanInput, "hear": HearInput, "shape": ShapeInput,
                                     "draw": Drawing, "bench": SeriesIn,
                                     **{f"build-{name}": kind.given for name, kind in KINDS.items()}}
OUTPUTS: dict[str, type[BaseModel]] = {"rate": Ratings, "predict": Prediction, "absorb": Absorption, "analyse": LogAnalysis,
                                       "analyse-recording": RecordingAnalysis,
                                       "compare": Comparison, "cut": CutResult, "trace": Budget, "plan": PlanResult,
                                       "plan-job": JobPlans,
                                       "hear": HeardFiles, "shape": TapedShape,
                                       "read": ReadDrawing, "build": Built, "bench": SeriesResult, "analyse-decay": Decay,
                                       "order": Order, "offer": JobOffer, "report": Printed}
