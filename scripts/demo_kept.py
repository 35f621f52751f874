"""What was concluded about the invented devices, by the program's own answers, and the days on which it was done."""

from __future__ import annotations

from datetime import datetime, timedelta

from ashen_bridge.bench.compare_runs import compare_with_repeat
from ashen_bridge.bench.diagnosis.diagnose import diagnose
from ashen_bridge.bench.modelled import modelled_figures
from ashen_bridge.bench.prove import proving
from ashen_bridge.editing.history import Done, noted
from ashen_bridge.editing.keeping import keep_advice, keep_check, keep_comparison, keep_diagnosis, keep_proof
from ashen_bridge.model.calibrated import in_force
from ashen_bridge.model.history import Note
from ashen_bridge.model.project import Project
from ashen_bridge.model.sharing import replaced
from ashen_bridge.planning.checking import quick_check
from ashen_bridge.planning.choosing.advise import advise
from ashen_bridge.predict.engine import Engine
from ashen_bridge.thermal.steady import RunawayError

WHO = "Bench two"


def with_kept(engine: Engine, project: Project) -> Project:
    """Return the project with its comparison, diagnosis and proof kept, and a history of what there is in it."""
    first, middle, last = project.runs
    before, found, after = modelled_figures(project, first.id, middle.id, last.id, engine=engine)
    computed = in_force(project)
    day, end = (datetime.fromisoformat(f"{run.taken}T17:40") for run in (middle, last))
    compared = compare_with_repeat(before, found, None, project.device, equal_power=False, responses=None)
    project = keep_comparison(project, compared, who=WHO, now=day).applied(project)
    told = diagnose(engine, computed, [after], [before, found])
    project = keep_diagnosis(project, told, who=WHO, now=end).applied(project)
    *_, (_, proof) = proving(engine, computed, before, after)
    assert proof is not None  # the last one always is
    project = keep_proof(project, proof, after, who=WHO, now=end).applied(project)
    start = datetime.fromisoformat(f"{middle.taken}T18:00")
    try:
        advice = advise(engine, computed, middle.build, middle.point)
    except RunawayError:  # not even a state to start from: advice was asked for the build before
        advice = advise(engine, computed, first.build, first.point)
    project = keep_advice(project, advice, 0, who=WHO, now=start).applied(project)
    check = quick_check(engine, computed, last.build, last.point)
    read = {row.sensor: round(row.expected_c + 0.6) + 0.0 for row in check.rows[:4]}
    later = datetime.fromisoformat(f"{last.taken}T10:20") + timedelta(days=98)
    project = keep_check(project, check, check.judged(read), who="", now=later).applied(project)
    return replaced(project, history=_history(project))


def _history(project: Project) -> tuple[Note, ...]:
    notes: tuple[Note, ...] = ()
    first = project.runs[0].taken
    for n, run in enumerate(project.runs):
        done: list[Done] = [("build", f"Build: {project.build(run.build).label}", 1), ("run", f"Run: {run.label}", 1)]
        if n == 1:
            seen = len(project.evidence), len(project.readings), len(project.signs)
            done += [("evidence", "Marks on old pads and pastes", seen[0])] if seen[0] else []
            done += [("reading", "Readings", seen[1])] if seen[1] else []
            done += [("evidence", "Signs before opening", seen[2])] if seen[2] else []
        done += [("conclusion", f"Kept: {one.title}"[:200], 1) for one in project.conclusions if one.at[:10] == run.taken]
        notes = noted(notes, done, WHO if run.taken != first else "", datetime.fromisoformat(f"{run.taken}T18:05"))
    days = {run.taken for run in project.runs}
    for one in project.conclusions:
        if one.at[:10] not in days:
            notes = noted(notes, [("conclusion", f"Kept: {one.title}"[:200], 1)], one.who, datetime.fromisoformat(one.at))
    return notes
