"""Jobs: models come in under limits, work can be stopped, and a killed worker loses nothing."""

from __future__ import annotations

import itertools
import json
import os
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from typing import Any

import pytest
import trimesh
from django.conf import settings
from django.test import Client
from django.utils import timezone

from studio.jobs import leases, queue
from studio.jobs.models import Job, Watch
from tests.conftest import box, model_of
from tests.studio.conftest import Api
from warmgraphite.errors import Cancelled, ViewError
from warmgraphite.model.glb import write_glb
from warmgraphite.model.obj import write_obj


def job(number: int) -> dict:
    return Client().get(f"/api/jobs/{number}").json()


def test_a_model_is_read_shown_and_made_a_study_in_the_units_chosen(
    jobs_at_once: None, scratch: Path, upload: Callable
) -> None:
    write_obj(model_of(("House", box((0, 0, 0), (12_000, 8_000, 6_000)), 0)), scratch / "house.obj")
    made = upload(scratch / "house.obj", scratch / "house.mtl").json()
    found = job(made["id"])["result"]
    assert (found["units"], found["up"], found["parts"], found["triangles"]) == ("mm", "z", 1, 12)
    assert "12.0 m" in found["because"]
    body = {"name": "A house", "units": "mm", "up": "z"}
    taken = Client().post(f"/api/uploads/{made['id']}/accept", body, content_type="application/json").json()
    study = Client().get(f"/api/studies/{job(taken['id'])['result']['slug']}").json()
    assert study["model"]["high"] == pytest.approx([12, 8, 6]) and study["document"]["name"] == "A house"
    again = Client().post(f"/api/uploads/{made['id']}/accept", body, content_type="application/json")
    assert again.status_code == 422 and "taken" in again.json()["message"]
    assert not list((settings.DATA / "incoming").iterdir())
    api = Api(study["slug"])
    api.post("/desk", {})
    assert api.get("/desk").json()["fresh"]


@pytest.mark.parametrize("data", [b"", b"v 0 0 0\nf 1 2 3\n", b"glTF" + bytes(40), b"PK\x03\x04 no model"])
def test_a_broken_model_is_one_sentence_and_leaves_nothing(
    jobs_at_once: None, scratch: Path, upload: Callable, data: bytes
) -> None:
    (scratch / "bad.glb").write_bytes(data)
    found = job(upload(scratch / "bad.glb").json()["id"])
    assert found["state"] == "failed" and "bad.glb" in found["message"] and found["message"].endswith(".")
    assert "Traceback" not in found["message"]
    assert not [p for p in (settings.DATA / "incoming").iterdir()]


def test_reading_has_limits_of_time_and_memory(
    jobs_at_once: None, scratch: Path, upload: Callable, settings: Any
) -> None:
    write_glb(model_of(("House", trimesh.creation.icosphere(subdivisions=6), 0)), scratch / "house.glb")
    settings.READ_MEGABYTES = 120
    found = job(upload(scratch / "house.glb").json()["id"])
    assert found["state"] == "failed" and ("120 MB" in found["message"] or "memory" in found["message"]), found
    settings.READ_MEGABYTES, settings.READ_SECONDS = 4096, 0
    found = job(upload(scratch / "house.glb").json()["id"])
    assert found["state"] == "failed" and "0 s to read" in found["message"]


def test_names_in_an_upload_do_not_lead_out_of_its_folder(jobs_at_once: None, scratch: Path) -> None:
    from django.core.files.uploadedfile import SimpleUploadedFile

    before = {p for p in settings.DATA.rglob("*") if p.is_file()}
    file = SimpleUploadedFile("evil.obj", b"v 0 0 0\n")
    file.name = "../../evil.obj"
    Client().post("/api/uploads", {"files": [file]})
    assert not (settings.DATA.parent / "evil.obj").exists()
    assert {p for p in settings.DATA.rglob("*.obj")} <= before


def test_a_job_stops_when_asked_and_says_so(jobs_at_once: None, study: str, monkeypatch: pytest.MonkeyPatch) -> None:
    def slow(found: Job, watch: Watch) -> dict:
        watch("Counting", 0.4)
        queue.cancel(found)
        time.sleep(0.2)
        watch("Counting", 0.5)
        raise AssertionError("it went on")

    monkeypatch.setitem(queue.WORK, "slow", slow)
    made = queue.enqueue("slow", "slow 1", {})
    found = job(made.pk)
    assert found["state"] == "cancelled" and "stopped on request" in found["message"]


def test_the_same_work_is_not_under_way_twice_and_faults_are_sentences(
    jobs_at_once: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    waiting = Job.objects.create(kind="slow", key="one thing")
    assert queue.enqueue("slow", "one thing", {}).pk == waiting.pk

    def known(found: Job, watch: Watch) -> dict:
        raise ViewError("That view shows nothing.")

    def unknown(found: Job, watch: Watch) -> dict:
        raise ZeroDivisionError("deep inside")

    monkeypatch.setitem(queue.WORK, "known", known)
    monkeypatch.setitem(queue.WORK, "unknown", unknown)
    assert job(queue.enqueue("known", "a", {}).pk)["message"] == "That view shows nothing."
    said = job(queue.enqueue("unknown", "b", {}).pk)["message"]
    assert "fault of ours" in said and "deep inside" not in said
    # What breaks because its worker was told to end is the next one's.
    monkeypatch.setattr(queue, "ending", threading.Event())
    queue.ending.set()
    left = queue.enqueue("unknown", "c", {})
    assert job(left.pk)["state"] == "working"
    monkeypatch.setitem(queue.WORK, "unknown", lambda found, watch: {})
    monkeypatch.setattr("studio.jobs.models.alive", lambda worker: False)
    assert queue.recover_lost() == 1 and job(left.pk)["state"] == "done"


def test_jobs_of_dead_workers_are_taken_back_and_those_of_live_ones_left_alone(
    jobs_at_once: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setitem(queue.WORK, "slow", lambda found, watch: {})
    now, long_ago = timezone.now(), timezone.now() - timedelta(minutes=10)

    def left(key: str, lease: str, seen: object, **more: object) -> Job:
        return Job.objects.create(
            kind="slow", key=key, state="working", lease=lease, sign_of_life=seen, **{"attempts": 1, **more}
        )

    first, worst = left("a", "dead:1", now), left("b", "dead:2", now, attempts=3)
    stopped = left("c", "dead:3", now, cancel_asked=True, stage="Cutting")
    live, asleep = left("d", leases.lease(), now), left("e", leases.lease(), long_ago)
    assert queue.recover_lost() == 4
    states = [job(j.pk)["state"] for j in (first, worst, stopped, live, asleep)]
    assert states == ["done", "failed", "cancelled", "working", "done"]
    assert job(stopped.pk)["message"] == "Cutting was stopped on request; nothing was changed."
    assert "begun 3 times" in job(worst.pk)["message"]


def test_what_a_worker_finishes_after_its_job_was_given_to_another_is_not_written(
    jobs_at_once: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The first worker hangs; a second takes the job over and does it; then the first wakes up."""
    runs = []

    def slow(found: Job, watch: Watch) -> dict:
        runs.append(found.lease)
        if len(runs) > 1:
            return {"by": "second"}
        Job.objects.filter(pk=found.pk).update(sign_of_life=timezone.now() - timedelta(hours=1))
        assert queue.recover_lost() == 1
        time.sleep(0.2)
        try:
            watch("Waking", 0.9)
        except Cancelled:
            runs.append("told")
        return {"by": "first"}

    monkeypatch.setitem(queue.WORK, "slow", slow)
    found = queue.enqueue("slow", "x", {})
    assert job(found.pk)["result"] == {"by": "second"} and job(found.pk)["state"] == "done"
    assert len(set(runs)) == 3 and "told" in runs


def test_a_job_that_did_not_get_into_the_queue_is_found(jobs_at_once: None, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(queue.WORK, "slow", lambda found, watch: {})
    with monkeypatch.context() as patch:

        def full(*_: object) -> None:
            raise sqlite3.OperationalError("database or disk is full")

        patch.setattr(queue, "perform", full)
        made = queue.enqueue("slow", "x", {})
    assert job(made.pk)["state"] == "waiting"
    assert queue.sweep() == 1 and job(made.pk)["state"] == "done" and queue.sweep() == 0


def test_small_pictures_are_made_one_at_a_time_and_make_way_for_what_is_waited_for(
    jobs_at_once: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    order: list[str] = []
    looks = itertools.count()

    def rest(_: float) -> None:
        order.append("rest")
        if next(looks) == 2:
            Job.objects.filter(key="seen").update(state="done")

    def picture(job: Job, watch: Watch) -> dict:
        order.append(job.key)
        if job.key == "first":
            for key in ("second", "third"):  # asked for meanwhile: this thread has the turn, and no other takes them
                queue.enqueue("picture", key, {})
            assert Job.objects.filter(kind="picture", state="waiting").count() == 2
            Job.objects.create(kind="passes", key="seen", state="working")
            watch("Lines", 0.5)
        return {}

    monkeypatch.setattr("studio.jobs.models.time.sleep", rest)
    monkeypatch.setitem(queue.WORK, "picture", picture)
    queue.enqueue("picture", "first", {})
    assert order == ["first", "rest", "rest", "rest", "second", "third"]
    assert set(Job.objects.filter(kind="picture").values_list("state", flat=True)) == {"done"}
    # What hangs does not hold them up for ever.
    Job.objects.create(kind="passes", key="hangs", state="working")
    order.clear()
    queue.enqueue("picture", "first", {})
    assert 100 < order.count("rest") < 10_000 and "third" in order


def test_what_takes_minutes_leaves_room_for_what_is_looked_at(
    jobs_at_once: None, monkeypatch: pytest.MonkeyPatch
) -> None:
    """As many files as are written at once are under way, and more of them wait; still a desk is drawn at once."""
    queue.huey.immediate = False
    begun, end, order = threading.Semaphore(0), threading.Event(), []

    def long(found: Job, watch: Watch) -> dict:
        begun.release()
        assert end.wait(60)
        order.append(found.key)
        return {}

    def short(found: Job, watch: Watch) -> dict:
        order.append(found.key)
        return {}

    monkeypatch.setitem(queue.WORK, "export", long)
    monkeypatch.setitem(queue.WORK, "proof", long)
    monkeypatch.setitem(queue.WORK, "passes", short)
    files = [queue.enqueue(kind, f"file {k}", {}) for k, kind in enumerate(("export", "proof", "export"))]
    threads = [threading.Thread(target=queue.perform.call_local, args=[one.pk]) for one in files[:2]]
    for thread in threads:
        thread.start()
        assert begun.acquire(timeout=60)
    queue.perform.call_local(files[2].pk)  # finds no room, and waits on
    assert job(files[2].pk)["state"] == "waiting"
    desk = queue.enqueue("passes", "desk", {})
    queue.perform.call_local(desk.pk)
    assert order == ["desk"] and job(desk.pk)["state"] == "done"
    queue.huey.flush()
    end.set()
    for thread in threads:
        thread.join(60)
    assert {task.args[0] for task in queue.huey.pending()} == {files[2].pk}, (
        "who is done goes on with what found no room"
    )
    queue.huey.flush()
    queue.perform.call_local(files[2].pk)
    assert job(files[2].pk)["state"] == "done"


def test_the_desk_may_be_waited_for(jobs_at_once: None, study: str, monkeypatch: pytest.MonkeyPatch) -> None:
    api = Api(study)
    monkeypatch.setattr(queue, "_queue", lambda *a: None)  # a worker that has not come to it yet
    rests: list[float] = []

    def rest(seconds: float) -> None:
        rests.append(seconds)
        if len(rests) == 3:
            queue.perform.call_local(Job.objects.get(kind="passes").pk)

    monkeypatch.setattr("studio.studies.desk_api.time.sleep", rest)
    told = api.post("/desk?wait=2", {}).json()
    assert told["fresh"] and told["job"] is None and len(rests) == 3
    assert api.get("/desk?wait=2").json()["fresh"] and len(rests) == 3  # there is nothing to wait for
    # A slow request for the state before stops the job of this one: whoever waits for it begins it again.
    api.edit("look", ["weight"], 2.0)
    monkeypatch.setattr("studio.studies.desk_api.time.sleep", lambda _: queue.cancel(Job.objects.first()))
    told = api.post("/desk?wait=2", {}).json()
    assert (
        not told["fresh"] and told["job"]["state"] == "waiting" and Job.objects.filter(state="cancelled").count() == 1
    )


def test_an_edit_begins_what_it_leaves_to_be_drawn(
    jobs_at_once: None, study: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    api = Api(study)
    api.post("/desk", {})
    monkeypatch.setattr(queue, "_queue", lambda *a: None)
    count = lambda: Job.objects.filter(kind="passes", state="waiting").count()

    def edit(weight: float, **more: object) -> Any:
        changes = [{"path": ["pens", "cut", "pen", "weight"], "value": weight}]
        body = {
            "base": api.study()["revision"],
            "commands": [{"do": "look", "everywhere": True, "changes": changes}],
            **more,
        }
        return api.post("/edits", body)

    edit(0.7)
    assert count() == 0
    edit(0.8, show=True)
    made = Job.objects.get(kind="passes", state="waiting")
    assert api.post("/desk", {}).json()["job"]["id"] == made.pk and count() == 1
    # One whose desk cannot be begun is kept all the same.
    monkeypatch.setattr("studio.studies.desk_work.enqueue", lambda *a: 1 / 0)
    assert edit(0.9, show=True).status_code == 200 and api.study()["look"]["pens"][0]["pen"]["weight"] == 0.9


@pytest.mark.deep
def test_a_job_survives_a_killed_worker(tmp_path: Path) -> None:
    """A real worker is killed in the middle of a real job; the next one finishes it."""
    environment = {**os.environ, "WARMGRAPHITE_DATA": str(tmp_path), "DJANGO_SETTINGS_MODULE": "studio.settings"}
    script = """
import json, sys, django
django.setup()
from django.core.management import call_command
call_command("migrate", verbosity=0)
from studio.jobs.queue import enqueue
from studio.studies.making import (create_study)
from tests.conftest import box, model_of
import trimesh
balls = [("Ball %d" % i, trimesh.creation.icosphere(subdivisions=3, radius=0.9).apply_translation([i % 6 * 1.5, i // 6 * 1.5, 0]), 0) for i in range(12)]
study = create_study("Many", model_of(*balls))
arguments = {"document": study.document.model_dump(mode="json"), "format": "png", "out": {"resolution": 72}}
print(json.dumps(enqueue("export", "export 1", arguments, study).pk))
"""
    made = subprocess.run([sys.executable, "-c", script], env=environment, capture_output=True, text=True)
    assert made.returncode == 0, made.stderr
    number = int(json.loads(made.stdout.splitlines()[-1]))

    def look() -> tuple[str, float]:
        import sqlite3

        with sqlite3.connect(tmp_path / "studio.sqlite3", timeout=20) as database:
            return database.execute("select state, progress from jobs_job where id = ?", [number]).fetchone()

    def until(test: Callable[[str, float], bool], seconds: float) -> bool:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            if test(*look()):
                return True
            time.sleep(0.02)
        return False

    worker = subprocess.Popen([sys.executable, "-m", "studio.worker"], env=environment)
    try:
        assert until(lambda state, progress: state == "working" and progress > 0.02, 90)
    finally:
        os.kill(worker.pid, signal.SIGKILL)
        worker.wait()
    assert look()[0] == "working"
    worker = subprocess.Popen([sys.executable, "-m", "studio.worker"], env=environment)
    try:
        assert until(lambda state, _: state == "done", 120), look()
    finally:
        worker.terminate()
        worker.wait(20)
    assert list((tmp_path / "exports" / str(number)).glob("*.png"))


def test_a_model_half_taken_in_is_taken_in_once_by_the_next_worker(tmp_path: Path) -> None:
    """A worker is killed after the study was made and before its job could say so."""
    environment = {**os.environ, "WARMGRAPHITE_DATA": str(tmp_path), "DJANGO_SETTINGS_MODULE": "studio.settings"}
    script = """
import os, signal, sys, django
django.setup()
from pathlib import Path
from django.conf import settings
from django.core.management import call_command
call_command("migrate", verbosity=0)
import studio.studies.model_work as work
from studio.jobs.models import Job, Watch
from studio.jobs.queue import enqueue, huey, perform
from tests.conftest import box, model_of
from warmgraphite.model.store import save_model
folder = settings.DATA / "incoming" / "abc"
save_model(model_of(("A", box((0, 0, 0), (6, 4, 3)), 0)), folder / ".as-read.npz")
(folder / "a.glb").write_bytes(b"as received")
arguments = {"folder": "abc", "file": "a.glb", "format": "GLB", "notes": [], "name": "House", "units": "m", "up": "z", "study": ""}
job = enqueue("take", "take abc", arguments)
whole = work.create_study
def killed(*a, **k):
    whole(*a, **k)
    os.kill(os.getpid(), signal.SIGKILL)
work.create_study = killed
perform.call_local(job.pk)
"""
    killed = subprocess.run([sys.executable, "-c", script], env=environment, capture_output=True, text=True)
    assert killed.returncode == -signal.SIGKILL, killed.stderr
    worker = subprocess.Popen([sys.executable, "-m", "studio.worker"], env=environment)
    try:
        import sqlite3

        end = time.monotonic() + 120
        state = None
        while state != "done" and time.monotonic() < end:
            time.sleep(0.1)
            with sqlite3.connect(tmp_path / "studio.sqlite3", timeout=20) as database:
                state, attempts = database.execute("select state, attempts from jobs_job").fetchone()
                studies = database.execute("select count(*) from studies_study").fetchone()[0]
    finally:
        worker.terminate()
        worker.wait(20)
    assert (state, attempts, studies) == ("done", 2, 1)
    assert (tmp_path / "received" / "abc" / "a.glb").read_bytes() == b"as received"
