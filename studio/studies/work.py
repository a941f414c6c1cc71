"""The work that a job worker does for studies: computing passes, small pictures, exports.

Each works on the document and on the state of the model that it was asked about, whatever the study has become since.
"""

from __future__ import annotations

from django.conf import settings

from studio.jobs.models import Job, Watch
from studio.jobs.queue import work
from studio.studies.desk import SKETCH_PIXELS, SUN_PIXELS, THUMBNAIL_PIXELS, picture_path, store, tone_size
from studio.studies.models import model_of_version
from studio.studies.names import file_name
from warmgraphite.collage.preview import LayerCache, compose, encode_jpeg
from warmgraphite.drawing import Drawing, passes_for
from warmgraphite.model.model import Model
from warmgraphite.sheet.write import write_drawing
from warmgraphite.study import read_document
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.view.sun import Sun
from warmgraphite.whole import whole

__all__ = ["STAGES"]

#: What each pass is called while it is being computed.
STAGES = {
    "cut": "Cutting the model",
    "caps": "Closing the cuts",
    "lines": "Finding visible lines",
    "wire": "Bending the wire",
    "poche": "Closing the cut shapes",
    "surface": "Looking at every surface",
    "colour": "Laying on colours",
    "normals": "Asking which way all faces",
    "light": "Casting shadows",
    "occlusion": "Darkening corners",
    "shadow": "Following the edges of shadow",
    "regions": "Mapping the regions",
    "": "",
}


def _model(job: Job) -> Model:
    """The state of the model that a job was asked about; a job from before models had states means the study's."""
    assert job.study is not None
    return model_of_version(job.wanted.get("version") or job.study.model_version)


#: The drawing worked on last, by study: when only the sun is turned its scene serves again.
_last: dict[int, Drawing] = {}


@work("passes")
def compute_passes(job: Job, watch: Watch) -> dict:
    """Make the passes of a view fresh at the desk's size."""
    assert job.study is not None
    view = ViewSpecification.model_validate(job.wanted["view"])
    before = _last.get(job.study.pk)
    drawing = Drawing(_model(job), view, tone_size(view), store())
    if before is not None:
        drawing.sharing(before)
    names = job.wanted.get("passes") or ()
    if "surface" in names and not drawing.fresh(("surface",))["surface"]:
        # There is nothing of this drawing yet: a coarse picture of it comes first.
        coarse = Drawing(drawing.model, view, tone_size(view, SKETCH_PIXELS), store()).sharing(drawing)
        coarse.compute([n for n in names if n != "occlusion"], watch=lambda name, fraction: watch(STAGES[name], fraction * 0.15))
        drawing.sharing(coarse)
    _last.clear()
    _last[job.study.pk] = drawing
    drawing.compute(job.wanted.get("passes"), watch=lambda name, fraction: watch(STAGES[name], fraction))
    return {"seconds": drawing.seconds}


@work("suns")
def draw_suns(job: Job, watch: Watch) -> dict:
    """Draw the small pictures of one view under a row of suns; each is there as soon as it is drawn."""
    assert job.study is not None
    document = read_document(job.wanted["document"])
    saved, view, look = document.on_desk, document.desk.view, document.look
    size = tone_size(view, SUN_PIXELS)
    traces = tuple(t for t in look.traces if "occlusion" not in t.needs())
    first = Drawing(_model(job), view, size, store())
    cache = LayerCache(100_000_000)
    suns = [Sun.model_validate(s) for s in job.wanted["suns"]]
    for k, sun in enumerate(suns):
        watch(f"Sun {k + 1} of {len(suns)}", k / len(suns))
        drawing = first.under(view.model_copy(update={"sun": sun}))
        drawing.compute(passes_for(traces))
        plate = drawing.plate(look.pens, look.poche, document.name, traces)
        with whole(picture_path(job.study, f"{job.key}-{k}")) as draft:
            draft.write_bytes(encode_jpeg(compose(plate, traces, saved.sheet, size, cache), 85))
        if k == 0:
            first.sharing(drawing)
    watch("", 1.0)
    return {}


@work("picture")
def draw_picture(job: Job, watch: Watch) -> dict:
    """Draw the small picture of a saved view."""
    assert job.study is not None
    document = read_document(job.wanted["document"])
    saved = next(v for v in document.views if v.id == job.wanted["view_id"])
    look = document.look_of(saved)
    size = tone_size(saved.view, THUMBNAIL_PIXELS)
    drawing = Drawing(_model(job), saved.view, size, store())
    drawing.compute(passes_for(look.traces), watch=lambda name, fraction: watch(STAGES[name], fraction))
    plate = drawing.plate(look.pens, look.poche, document.name, look.traces)
    with whole(picture_path(job.study, job.key)) as draft:
        draft.write_bytes(encode_jpeg(compose(plate, look.traces, saved.sheet, size, LayerCache()), 88))
    return {}


@work("export")
def export(job: Job, watch: Watch) -> dict:
    """Write the drawing on the desk as a file."""
    assert job.study is not None
    document = read_document(job.wanted["document"])
    kind, resolution = job.wanted["format"], float(job.wanted["resolution"])
    saved, look = document.on_desk, document.look
    view = document.desk.view
    view = view.model_copy(update={"frame": view.frame.model_copy(update={"resolution": resolution})})
    drawing = Drawing(_model(job), view, None, store())
    drawing.compute(passes_for(look.traces), watch=lambda name, fraction: watch(STAGES[name], fraction * 0.85))
    watch(f"Writing the {kind.upper()}", 0.86)
    folder = settings.DATA / "exports" / str(job.pk)
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{file_name(f'{document.name} - {view.name}', 'drawing')}.{kind}"
    plate = drawing.plate(look.pens, look.poche, document.name, look.traces)
    write_drawing(plate, look.traces, saved.sheet, path, paper=bool(job.wanted["paper"]), resolution=resolution)
    watch(f"Writing the {kind.upper()}", 1.0)
    return {"file": path.name, "bytes": path.stat().st_size}
