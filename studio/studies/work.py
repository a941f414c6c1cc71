"""The work that a job worker does for studies: computing passes, small pictures, exports.

Each works on the document and on the state of the model that it was asked about, whatever the study has become since.
"""

from __future__ import annotations

import re

from django.conf import settings

from studio.jobs.models import Job, Watch
from studio.jobs.queue import work
from studio.studies.desk import THUMBNAIL_PIXELS, store, tone_size
from studio.studies.models import model_of_version
from warmgraphite.collage.preview import LayerCache, compose, encode_jpeg
from warmgraphite.drawing import Drawing
from warmgraphite.model.model import Model
from warmgraphite.sheet.write import write_drawing
from warmgraphite.study import SavedView, StudyDocument
from warmgraphite.view.specification import ViewSpecification

__all__ = ["STAGES"]

#: What each pass is called while it is being computed.
STAGES = {
    "cut": "Cutting the model",
    "lines": "Finding visible lines",
    "poche": "Closing the cut shapes",
    "surface": "Looking at every surface",
    "light": "Casting shadows",
    "": "",
}


def _model(job: Job) -> Model:
    """The state of the model that a job was asked about; a job from before models had states means the study's."""
    assert job.study is not None
    return model_of_version(job.arguments.get("version") or job.study.model_version)


#: The drawing worked on last, by study: when only the sun is turned its scene serves again.
_last: dict[int, Drawing] = {}


@work("passes")
def compute_passes(job: Job, watch: Watch) -> dict:
    """Make the passes of a view fresh at the desk's size."""
    assert job.study is not None
    view = ViewSpecification.model_validate(job.arguments["view"])
    before = _last.get(job.study.pk)
    drawing = Drawing(_model(job), view, tone_size(view), store())
    if before is not None and before.size == drawing.size:
        drawing.sharing(before)
    _last.clear()
    _last[job.study.pk] = drawing
    drawing.compute(watch=lambda name, fraction: watch(STAGES[name], fraction))
    return {"seconds": drawing.seconds}


@work("picture")
def draw_picture(job: Job, watch: Watch) -> dict:
    """Draw the small picture of a saved view."""
    assert job.study is not None
    document = StudyDocument.model_validate(job.arguments["document"])
    saved = SavedView.model_validate(job.arguments["saved"])
    size = tone_size(saved.view, THUMBNAIL_PIXELS)
    drawing = Drawing(_model(job), saved.view, size, store())
    drawing.compute(watch=lambda name, fraction: watch(STAGES[name], fraction))
    plate = drawing.plate(document.pens, document.poche, document.name, saved.traces)
    data = encode_jpeg(compose(plate, saved.traces, saved.sheet, size, LayerCache()), 88)
    folder = settings.DATA / "pictures"
    folder.mkdir(parents=True, exist_ok=True)
    (folder / f".{job.key}.draft").write_bytes(data)
    (folder / f".{job.key}.draft").replace(folder / f"{job.key}.jpg")
    return {}


@work("export")
def export(job: Job, watch: Watch) -> dict:
    """Write the drawing on the desk as a file."""
    assert job.study is not None
    document = StudyDocument.model_validate(job.arguments["document"])
    kind, resolution = job.arguments["format"], float(job.arguments["resolution"])
    saved = document.on_desk
    view = document.desk.view
    view = view.model_copy(update={"frame": view.frame.model_copy(update={"resolution": resolution})})
    drawing = Drawing(_model(job), view, None, store())
    drawing.compute(watch=lambda name, fraction: watch(STAGES[name], fraction * 0.85))
    watch(f"Writing the {kind.upper()}", 0.86)
    folder = settings.DATA / "exports" / str(job.pk)
    folder.mkdir(parents=True, exist_ok=True)
    words = re.sub(r"[^\w\- ]+", "", f"{document.name} - {view.name}", flags=re.UNICODE).strip() or "drawing"
    path = folder / f"{words}.{kind}"
    plate = drawing.plate(document.pens, document.poche, document.name, saved.traces)
    write_drawing(plate, saved.traces, saved.sheet, path, paper=bool(job.arguments["paper"]), resolution=resolution)
    watch(f"Writing the {kind.upper()}", 1.0)
    return {"file": path.name, "bytes": path.stat().st_size}
