"""What commands do to studies and names."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.plan.edits import studies
from mild_compass.plan.edits.references import begin_blank

if TYPE_CHECKING:
    from mild_compass.studio.commands.command import Studio


def blank_sheet(studio: Studio) -> None:
    """Begin a study on a blank sheet."""
    if studio.session.apply(begin_blank()):
        studio.go_to("perspective")


def keep_study(studio: Studio) -> None:
    """Keep the study and go on with a copy."""
    if studio.session.apply(studies.keep_study()):
        study = studio.session.plan.study
        studio.say(f"Kept. You are now working on study {study.name if study else ''}, a copy.")


def step_study(studio: Studio, step: int) -> None:
    """Go to the previous or next study."""
    key = studies.neighbour(studio.session.plan, step)
    if key is not None:
        studio.session.apply(studies.choose_study(key))


def delete_study(studio: Studio) -> None:
    """Delete the study; undo brings it back."""
    if studio.session.apply(studies.delete_study()):
        studio.say("The study is deleted. Ctrl+Z brings it back.")


def rename_study(studio: Studio) -> None:
    """Ask for the study's name."""
    study = studio.session.plan.study
    name = studio.ask_text("Rename study", "Name of the study", study.name) if study is not None else None
    if name is not None:
        studio.session.apply(studies.rename_study(name))


def rename_plan(studio: Studio) -> None:
    """Ask for the plan's name."""
    name = studio.ask_text("Rename plan", "Name of the plan", studio.session.plan.name)
    if name is not None:
        studio.session.apply(studies.rename_plan(name))
