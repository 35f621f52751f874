"""The project that follows from the answers: computable at once, everything not answered marked assumed with its ±."""

from __future__ import annotations

from ashen_bridge.guided import fills, parts, wants
from ashen_bridge.guided.answers import Answers, DeviceKind
from ashen_bridge.guided.facts import Facts
from ashen_bridge.library import materials
from ashen_bridge.model.project import FORMAT_VERSION, Project
from ashen_bridge.words.numbers import short


def project_from(answers: Answers) -> Project:
    """Return a complete project."""
    facts = Facts(answers)
    builds = [fills.build(facts, "as_found", "As found", facts.pad_mm, answers.pad_now_mm is not None)]
    if answers.pad_wanted_mm is not None:
        builds.append(fills.build(facts, "plan_a", f"Plan A, {short(answers.pad_wanted_mm)} mm", answers.pad_wanted_mm, True))
    library = materials()
    needed = ["laminate_glass", "substrate_organic", "silicon", "copper", "aluminium_alloy", "paste_filled", "paste_general"]
    needed += ["pad_soft", "pad_medium", "pad_firm"]
    return Project.parse(
        {
            "format": "ashen-bridge",
            "version": FORMAT_VERSION,
            "name": answers.name.strip() or f"My {answers.kind.value}" if answers.kind is not DeviceKind.OTHER else "My device",
            "notes": f"Started from questions. Wanted: {answers.wish.value}.",
            "device": {
                "name": answers.kind.value,
                "bodies": parts.bodies(facts),
                "fasteners": fills.fasteners(facts),
                "sensors": wants.sensors(facts),
                "limits": wants.limits(facts),
            },
            "materials": [library[name].model_dump(mode="json") for name in needed],
            "builds": builds,
            "main_build": "as_found",
            "points": [wants.point(facts)],
            "groups": fills.groups(facts),
            "goals": wants.goals(facts),
            "measurements": wants.measurements(facts),
        }
    )
