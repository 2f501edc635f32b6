"""Edits of the logbook: notes, what came out, readings acted on, answers to questions."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import Edit, named
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Acted, LogEntry, Plan
from mild_compass.plan.record import Answer
from mild_compass.plan.stations import StationName

if TYPE_CHECKING:
    from mild_compass.plan.record import AskedWhen, CameOut

NO_LINE = "This line is not in the logbook any more. Nothing was changed."


@named("note")
def add_note(plan: Plan, text: str, station: StationName, time: str) -> Plan:
    """Write a note with its station, study and time.

    Raises:
        PlanError: the note is empty.
    """
    if not text.strip():
        raise PlanError("The note is empty. Nothing was written.")
    study = plan.study.name if plan.study else ""
    return replace(plan, log=(*plan.log, LogEntry(time, station, study, "note", text.strip())))


@named("change a note")
def change_note(plan: Plan, index: int, text: str) -> Plan:
    """Write one of the own notes anew; its time stays.

    Raises:
        PlanError: it is empty, is not there any more, or is a decision, which is changed where it was taken.
    """
    if not 0 <= index < len(plan.log):
        raise PlanError(NO_LINE)
    if plan.log[index].kind != "note":
        raise PlanError("A decision is changed at its station, not in the logbook. Nothing was changed.")
    if not text.strip():
        raise PlanError("The note is empty now. Delete it with × instead.")
    changed = replace(plan.log[index], text=text.strip())
    return replace(plan, log=(*plan.log[:index], changed, *plan.log[index + 1 :]))


@named("delete a line of the logbook")
def delete_line(plan: Plan, index: int) -> Plan:
    """Delete one line of the logbook.

    Raises:
        PlanError: it is not there any more.
    """
    if not 0 <= index < len(plan.log):
        raise PlanError(NO_LINE)
    return replace(plan, log=(*plan.log[:index], *plan.log[index + 1 :]))


@named("say what came out", "logbook", lambda _, came: _came_words(came), merges=False)
def say_what_came(plan: Plan, came: CameOut) -> Plan:
    """What one thing planned came to; it takes the place of what was said of it before."""
    rest = tuple(each for each in plan.came_out if (each.study, each.key) != (came.study, came.key))
    return replace(plan, came_out=(*rest, came))


def _came_words(came: CameOut) -> str:
    head = "Still open" if came.outcome == "open" else came.outcome.capitalize()
    done = f" {_sentence(came.done)}" if came.done else ""
    return f"{head}: {_sentence(came.planned)}{done}" + (f" Learned: {_sentence(came.learned)}" if came.learned else "")


def _sentence(words: str) -> str:
    return words if words.endswith((".", "!", "?")) else words + "."


@named("answer a question", "logbook", lambda *told: f"{told[1]} {told[3]}", merges=False)
def write_answer(plan: Plan, question: str, asked: AskedWhen, text: str, time: str) -> Plan:
    """Keep the answer to a question; see ``answer``."""
    return _with_answer(plan, Answer(question, asked, text, time))


@named("put a question aside")
def put_question_aside(plan: Plan, question: str, asked: AskedWhen, time: str) -> Plan:
    """Have a question not come up again; see ``answer``."""
    return _with_answer(plan, Answer(question, asked, "", time))


def answer(question: str, asked: AskedWhen, text: str, time: str) -> Edit:
    """Answer a question, which is told in the logbook, or with an empty text put it aside for good."""
    text = text.strip()
    return write_answer(question, asked, text, time) if text else put_question_aside(question, asked, time)


def _with_answer(plan: Plan, said: Answer) -> Plan:
    rest = tuple(each for each in plan.answers if (each.question, each.asked) != (said.question, said.asked))
    return replace(plan, answers=(*rest, said))


def acted_on(remedy: Edit, station: StationName, key: str, text: str, time: str) -> Edit:
    """The remedy of a reading as one step that also remembers what the reading said."""

    def change(plan: Plan) -> Plan:
        changed = remedy.change(plan)
        if changed == plan:
            return plan
        study = plan.study.id if plan.study else ""
        rest = tuple(each for each in changed.acted if (each.study, each.station, each.key) != (study, station, key))
        return replace(changed, acted=(*rest, Acted(time, station, study, key, text)))

    return replace(remedy, change=change)
