"""Make the database ready and lay out the sample study, once."""

from __future__ import annotations

import os
import sys

import django


def main() -> None:
    """Make ready; what the machine cannot do is one sentence and exit status 2."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    django.setup()
    from django.db import DatabaseError

    from studio.sentences import no_room

    try:
        prepare()
    except (OSError, DatabaseError) as error:
        said = no_room(error) or f"The data folder cannot be made ready ({error}); see whether it can be written to."
        print(said, file=sys.stderr)
        sys.exit(2)


def prepare() -> None:
    """Migrate; create the sample study where there is none, drawn when it is looked at."""
    from django.conf import settings
    from django.core.management import call_command

    settings.DATA.mkdir(parents=True, exist_ok=True)
    call_command("migrate", verbosity=0)
    from studio.studies.models import Study

    if not Study.objects.filter(is_sample=True).exists():
        add_sample()


def add_sample() -> None:
    """The sample studies; the first by way of a GLB file as any other model would come."""
    from django.conf import settings

    from demo.boards import sample_boards
    from demo.figures import sample_figures
    from demo.finishes import WORN, sample_finishes
    from demo.kiln_house import build_kiln_house
    from demo.notes import sample_notes
    from demo.views import sample_views, with_sample_words
    from studio.studies.making import create_study
    from warmgraphite.model.glb import write_glb
    from warmgraphite.model.read import read_model

    path = settings.DATA / "alder-weir-kiln-house.glb"
    write_glb(build_kiln_house(), path)
    file = {"name": path.name, "format": "GLB"}
    model, views = with_sample_words(read_model(path)), sample_views()
    create_study(
        "Alder Weir Kiln House", model, views, file, is_sample=True, finishes=sample_finishes(), wears=WORN,
        figures=sample_figures(model, {v.name: f"view-{k}" for k, v in enumerate(views, 1)}), notes=sample_notes(),
        boards=sample_boards(),
    )  # fmt: skip
    add_second()


def add_second() -> None:
    """A second study, small and of another kind, by way of an IFC file."""
    from django.conf import settings

    from demo import saltern_steps as steps
    from studio.studies.making import create_study
    from warmgraphite.model.read import read_model

    path = settings.DATA / "saltern-steps.ifc"
    steps.write_saltern_steps(path)
    model, views = steps.with_steps_words(read_model(path)), steps.steps_views()
    create_study(
        steps.NAME, model, views, {"name": path.name, "format": "IFC"}, finishes={"Flat tones": steps.flat_tones()},
        wears={v.name: "Flat tones" for v in views},
        figures=steps.steps_figures(model, {v.name: f"view-{k}" for k, v in enumerate(views, 1)}),
    )  # fmt: skip


if __name__ == "__main__":
    main()
