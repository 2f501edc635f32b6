"""The logbook: its line of time, planned and done, questions, what keeps going wrong, what was used, documents."""

from __future__ import annotations

import re
from dataclasses import replace
from html.parser import HTMLParser

import numpy as np
import pypdfium2 as pdfium
import pytest
from tests.conftest import NOON, jpeg

from mild_compass.craft.cautions import LABEL, MASKING, PIGMENTS, SOLVENTS
from mild_compass.craft.check.tones import DrawnTones, DrawnValue
from mild_compass.craft.logbook.planned_done import planned_and_done
from mild_compass.craft.logbook.questions import AFTER, BEFORE, is_after, next_question, questions
from mild_compass.craft.logbook.repeated import Wrong, repeated
from mild_compass.craft.logbook.timeline import PictureOf, Wanted, chosen, timeline, when
from mild_compass.craft.logbook.used import cautions, materials, pencil_for, times
from mild_compass.craft.stations import readings_of
from mild_compass.craft.values.masses import study_masses
from mild_compass.craft.work.working_order import order_of, with_order
from mild_compass.craft.worked import Worked, worked_study
from mild_compass.output.document import Entry, Figure, Heading, Table, Text, as_html, as_markdown, as_pdf
from mild_compass.output.logbook_document import logbook_blocks, logbook_file, logbook_markdown
from mild_compass.plan.edits.check import add_drawing
from mild_compass.plan.edits.departures import add_departure, settle_departure
from mild_compass.plan.edits.logbook import acted_on, add_note, answer, say_what_came
from mild_compass.plan.edits.studies import rename_study
from mild_compass.plan.edits.values import change_values, set_focus
from mild_compass.plan.edits.work import change_work, with_sitting, with_time
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import LogEntry, Plan
from mild_compass.plan.pictures import OwnDrawing
from mild_compass.plan.study import Departure
from mild_compass.plan.tones import ValuePlan
from mild_compass.plan.work import Sitting, SittingStep, WorkPlan

LATER = "2026-05-03T09:00:00+02:00"
TREE = Departure("departure-1", "leave out", ((10, 10), (90, 10), (50, 80)), "the tree", "it hides the wall")
SITTING = Sitting(
    "sitting-1",
    "study-1",
    LATER,
    LATER,
    (SittingStep("transfer", "Carry the lines over", "transfer", 50.0, 30.0, True),),
    "washes",
)


@pytest.fixture
def told(plan, photos) -> Plan:
    """A plan with one of everything in its logbook."""
    plan = change_values(ValuePlan(count=3)).apply(plan, "2026-05-01T12:10:00+02:00")
    plan = add_note("The wall is the thing.", "values", "2026-05-02T08:00:00+02:00").apply(plan, NOON)
    plan = add_departure(TREE).apply(plan, "2026-05-02T08:10:00+02:00")
    drawing = OwnDrawing("drawing-1", "sheet.jpg", photos.add(jpeg(seed=8)), 600, 400, taken=LATER, stage="finished")
    return with_sitting(add_drawing(drawing).apply(plan, LATER), SITTING)


# -- the line of time -----------------------------------------------------------------------------------------


def test_notes_decisions_checks_and_sittings_stand_in_one_line_of_time(told):
    items = timeline(told)
    assert [item.time for item in items] == sorted(item.time for item in items)
    assert {item.kind for item in items} == {"note", "decision", "check", "sitting"}
    note = next(item for item in items if item.kind == "note")
    assert told.log[note.index].text == note.text
    assert next(item for item in items if item.kind == "sitting").text == "At the easel 50 min: Carry the lines over."
    assert timeline(told)[-1].key in ("sitting-1", "drawing-1")


def test_pictures_stand_by_the_last_decision_on_frame_and_masses_and_by_photos_of_the_work(told):
    shown = {item.picture for item in timeline(told) if item.picture}
    assert shown == {PictureOf("frame", "A"), PictureOf("masses", "A"), PictureOf("drawing", "drawing-1")}
    again = change_values(ValuePlan(count=4)).apply(add_note("x", "values", LATER).apply(told, LATER), LATER)
    masses = [item for item in timeline(again) if item.picture == PictureOf("masses", "A")]
    assert [item.time for item in masses] == [LATER]


@pytest.mark.parametrize(
    ("wanted", "count"),
    [
        (Wanted(words="wall thing"), 1),
        (Wanted(words="WALL"), 2),
        (Wanted(words="all"), 0),
        (Wanted(kinds=("note",)), 1),
        (Wanted(kinds=("sitting", "check")), 3),
        (Wanted(station="values", kinds=("note",)), 1),
        (Wanted(station="armature"), 0),
        (Wanted(study="B"), 0),
    ],
)
def test_what_is_looked_for_is_found_by_beginnings_of_words_kind_station_and_study(told, wanted, count):
    assert len(chosen(timeline(told), wanted)) == count


def test_a_time_that_cannot_be_read_stands_first_and_is_shown_as_it_is():
    assert when("yesterday") == ("yesterday", "")
    assert when(LATER) == ("2026-05-03", "09:00")


# -- planned and done -----------------------------------------------------------------------------------------


@pytest.fixture
def worked(told, photos) -> Worked:
    from mild_compass.craft.picture.study_picture import study_picture

    picture = study_picture(told, told.study, photos)
    made = worked_study(told, masses=study_masses(picture, told.study, told.paper), picture=picture)
    assert made is not None
    return made


def rows_of(worked: Worked) -> dict[str, object]:
    return {row.key: row for row in planned_and_done(with_order(worked))}


def test_departures_readings_acted_on_and_settings_have_a_row_each(worked):
    plan = acted_on(rename_study("B"), "viewfinder", "lead", "Little room ahead.", NOON).apply(worked.plan, NOON)
    plan = set_focus((300.0, 200.0)).apply(plan, NOON)
    rows = rows_of(replace(worked, plan=plan, study=plan.study))
    assert rows["departure departure-1"].planned == "leave out the tree: it hides the wall"
    assert rows["acted viewfinder lead"].planned == "Little room ahead."
    assert {"frame", "darks", "lights", "focus", "time"} <= set(rows)
    share = 100 * worked.masses.shares[0]
    assert rows["darks"].planned == f"the dark takes {share:.0f} % of the picture"
    assert rows["darks"].done == ""


def test_time_taken_stands_beside_time_given(worked):
    row = rows_of(worked)["time"]
    assert row.measured
    assert row.done == "50 min in 1 sitting, for steps given 30 min"
    assert row.way == "more"


def with_tones(worked: Worked, darks: float) -> Worked:
    """As if the drawing had so large a share of darks."""
    drawn = np.full((100, 100), 90.0, np.float32)
    drawn[: round(100 * darks)] = 5.0
    mass = DrawnValue("wall", 40.0, 60.0, 1.4, 900.0, (50.0, 50.0))
    return replace(worked, tones=DrawnTones((mass,), drawn, None))


def test_darks_that_took_more_than_planned_are_measured_on_the_drawing(worked):
    planned = worked.masses.shares[0]
    more = rows_of(with_tones(worked, min(1.0, planned + 0.2)))["darks"]
    assert (more.measured, more.way) == (True, "more")
    assert more.done == f"they took {100 * min(1.0, planned + 0.2):.0f} %"
    assert rows_of(with_tones(worked, planned))["darks"].way == ""
    assert rows_of(with_tones(worked, max(0.0, planned - 0.2)))["darks"].way == "less"
    values = rows_of(with_tones(worked, planned))["values"]
    assert values.done == "1 off; the wall 1.4 steps too light"


def test_what_the_artist_says_stays_with_its_row(worked):
    row = rows_of(worked)["darks"]
    came = row.came("study-1", "changed", "They ran together.", "Thinner washes. ")
    plan = say_what_came(came).apply(worked.plan, NOON)
    row = rows_of(replace(worked, plan=plan))["darks"]
    assert (row.outcome, row.done, row.learned) == ("changed", "They ran together.", "Thinner washes.")
    settled = settle_departure("departure-1", "dropped", "It filled the space better.").apply(worked.plan, NOON)
    row = rows_of(replace(worked, plan=settled, study=settled.study))["departure departure-1"]
    assert (row.outcome, row.done) == ("dropped", "It filled the space better.")


# -- the same thing again -------------------------------------------------------------------------------------


def test_the_third_picture_whose_darks_took_more_is_said_and_what_was_learned_before():
    here = [Wrong("Quay", "darks", "more", "18 %"), Wrong("Quay", "frame", "", "x")]
    elsewhere = [
        Wrong("Mill", "darks", "more", "20 %", "Thinner washes."),
        Wrong("Mill", "darks", "more", "20 %"),
        Wrong("Barn", "darks", "more", "30 %"),
        Wrong("Barn", "lights", "more", "30 %"),
        Wrong("Weir", "darks", "less", "30 %"),
        Wrong("Quay", "frame", "", "x"),
    ]
    found = repeated(here, elsewhere)
    assert [each.words for each in found] == ["The third picture whose darks took more than planned."]
    assert found[0].plans == ("Mill", "Barn")
    assert found[0].learned == ("Thinner washes.",)


def test_readings_say_what_keeps_going_wrong_the_work_and_what_is_left_to_tell(worked):
    planned = worked.masses.shares[0]
    made = replace(
        with_tones(worked, min(1.0, planned + 0.2)), elsewhere=(Wrong("Mill", "darks", "more", "20 %", "Less."),)
    )
    readings = {reading.key: reading for reading in readings_of("logbook", with_order(made))}
    assert readings["again darks"].text == (
        "The second picture whose darks took more than planned. Before: Mill. You wrote: “Less.”"
    )
    assert readings["again darks"].verdict == "look"
    assert "leave out the tree" in readings["to tell"].text
    assert readings["steps done"].shown.startswith("1 of ")
    assert "common practice" in readings["work"].text


def test_light_that_goes_and_a_sitting_too_short_are_told(worked):
    plan = change_work(WorkPlan(sitting_min=240.0, light_until="10:00")).apply(worked.plan, NOON)
    readings = {reading.key: reading for reading in readings_of("logbook", with_order(replace(worked, plan=plan)))}
    assert "days at the same hour" in readings["light"].text
    plan = change_work(WorkPlan(sitting_min=10.0)).apply(worked.plan, NOON)
    readings = {reading.key: reading for reading in readings_of("logbook", with_order(replace(worked, plan=plan)))}
    assert any("cannot be left half-way" in reading.text for reading in readings.values())


# -- questions ------------------------------------------------------------------------------------------------


def test_each_question_comes_up_once_answered_or_put_aside(plan):
    assert next_question(plan, "before").question == BEFORE[0]
    plan = answer(BEFORE[0], "before", "The light on the wall.", NOON).apply(plan, NOON)
    plan = answer(BEFORE[1], "before", "", NOON).apply(plan, NOON)
    assert next_question(plan, "before").question == BEFORE[2]
    for each in BEFORE[2:]:
        plan = answer(each, "before", "", NOON).apply(plan, NOON)
    assert next_question(plan, "before") is None
    assert next_question(plan, "before", ["Is the cat in?"]).question == "Is the cat in?"
    assert next_question(plan, "after").question == AFTER[0]
    assert [each.text for each in questions(plan, "before") if each.text] == ["The light on the wall."]


def test_after_begins_with_a_photo_of_the_finished_work(plan, told):
    assert not is_after(plan)
    assert is_after(told)


# -- what was used --------------------------------------------------------------------------------------------


def test_pencil_follows_medium_and_hand_and_is_never_harder_than_2b_on_watercolour_paper(plan):
    """Common practice, no published source."""
    heavy = change_work(WorkPlan(hand="heavy")).apply(plan, NOON)
    assert "2B" in pencil_for(heavy, heavy.study)
    assert "H to HB" not in pencil_for(heavy, heavy.study)
    study = replace(heavy.study, medium=replace(heavy.study.medium, medium="hatching"))
    assert pencil_for(heavy, study).startswith("H to HB")


def test_materials_come_each_once_with_their_cautions(worked):
    own = WorkPlan(materials=("cadmium red", "turpentine"))
    plan = change_work(own).apply(worked.plan, NOON)
    made = replace(worked, plan=plan)
    used = materials(plan, order_of(made))
    assert len(set(used)) == len(used)
    assert used[0].startswith("A3")
    assert {"masking fluid", "kneaded rubber", "cadmium red"} <= set(used)
    told = cautions(plan, plan.study)
    assert {MASKING, PIGMENTS, SOLVENTS} <= set(told)
    assert told[-1] == LABEL
    assert told.count(LABEL) == 1


def test_time_is_told_station_by_station_and_at_the_easel(told):
    plan = with_time(with_time(told, "sheet", 3700.0), "references", 600.0)
    assert times(plan) == (("References", "10 min"), ("Sheet", "1 h 02 min"), ("At the easel", "50 min"))


# -- documents ------------------------------------------------------------------------------------------------


class Tags(HTMLParser):
    """Whether what is opened is closed, and which words and pictures there are."""

    def __init__(self) -> None:
        super().__init__()
        self.open: list[str] = []
        self.words, self.pictures = "", 0

    def handle_starttag(self, tag: str, attrs: object) -> None:
        if tag == "img":
            self.pictures += 1
        elif tag not in ("meta",):
            self.open.append(tag)

    def handle_endtag(self, tag: str) -> None:
        assert self.open.pop() == tag

    def handle_data(self, data: str) -> None:
        self.words += data


BLOCKS = [
    Heading("A <b>plan</b>", 1),
    Text("Words & *more*."),
    Entry("08:00", "“note”"),
    Entry("", "no lead"),
    Table(("Planned", "Came out"), (("x | y", "z" * 90),)),
    Figure(np.full((40, 60, 3), 90, np.uint8), "A figure"),
]


def test_every_kind_of_block_is_written_in_all_three_kinds():
    text = as_markdown(BLOCKS)
    assert "# A \\<b\\>plan\\</b\\>" in text
    assert "- 08:00 · “note”\n- no lead" in text
    assert "| x \\| y |" in text
    tags = Tags()
    tags.feed(as_html("T", BLOCKS))
    assert tags.open == []
    assert tags.pictures == 1
    assert "A <b>plan</b>" in tags.words
    pdf = pdfium.PdfDocument(as_pdf("T", BLOCKS))
    page = pdf[0]
    words = page.get_textpage().get_text_range()
    assert "Came out" in words
    assert "A figure" in words
    assert [each for each in page.get_objects() if each.type == 3], "the picture is in it"
    pdf.close()


def test_the_document_tells_what_was_planned_done_answered_used_and_in_which_order(worked, photos):
    plan = answer(BEFORE[0], "before", "The wall.", NOON).apply(worked.plan, NOON)
    made = replace(worked, plan=plan)
    text = as_markdown(logbook_blocks(plan, made, photos, pictures=False))
    for part in ("## Planned and done", "## Before the first mark", "## The work", "## In order", "### 2026-05-02"):
        assert part in text
    assert LABEL in text
    html = as_html("x", logbook_blocks(plan, made, photos))
    tags = Tags()
    tags.feed(html)
    assert tags.pictures >= 3  # the frame, the masses, the drawing
    assert not re.search(r"(src|href)=\"(?!data:)", html), "it fetches nothing"


def test_a_plan_without_a_study_has_a_logbook_too_and_other_kinds_are_refused(photos):
    assert logbook_markdown(Plan(name="Empty")).startswith("# Empty\n")
    assert b"%PDF" in logbook_file(".pdf", Plan(name="Empty"), photos)
    with pytest.raises(PlanError, match=r"\.html"):
        logbook_file(".docx", Plan(), photos)


@pytest.mark.parametrize("time", ["0001-01-01T00:00:00", "0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-14:00"])
def test_a_line_from_before_all_zones_has_its_place(time):
    entry = LogEntry(time, "values", "A", "note", "Before everything.", "")
    lines = timeline(Plan(log=(entry,)))
    assert "Before everything." in [each.text for each in lines]
