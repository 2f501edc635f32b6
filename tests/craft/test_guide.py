"""The guide: chapters that can be read, words that are found, readings that lead to their paragraph."""

from __future__ import annotations

import pytest

from mild_compass.assets import GUIDE
from mild_compass.craft.guide.book import CHAPTERS, WHY, chapter, found, why
from mild_compass.craft.stations import STATIONS, readings_of
from mild_compass.craft.worked import worked_study
from mild_compass.demo import SCENES, plan_of
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.stations import STATION_NAMES


def test_every_station_has_a_chapter_and_every_file_is_one():
    assert set(STATION_NAMES) < set(CHAPTERS)
    assert {path.stem for path in GUIDE.glob("*.md")} == set(CHAPTERS)
    for name in CHAPTERS:
        book = chapter(name)
        assert book.title
        assert all(section.text for section in book.sections), name
        headings = [section.heading for section in book.sections]
        assert len(set(headings)) == len(headings)


@pytest.mark.parametrize("station", STATION_NAMES)
def test_every_link_leads_to_a_heading_that_is_there(station):
    headings = {section.heading for section in chapter(station).sections}
    assert {heading for _, heading in WHY[station]} <= headings
    assert why(station, "nothing of the kind").heading == chapter(station).title


@pytest.mark.parametrize("scene", SCENES)
def test_what_the_demo_plans_say_is_explained(scene, tmp_path):
    """Readings that need neither masses nor a drawing; only counting notes needs no explanation."""
    plan = plan_of(scene, PhotoFolder(tmp_path))
    worked = worked_study(plan)
    for each in STATIONS:
        for reading in readings_of(each.name, worked):
            section = why(each.name, reading.key)
            assert section.heading != chapter(each.name).title or reading.key == "notes", (each.name, reading.key)


@pytest.mark.parametrize(
    ("words", "first"),
    [
        ("notan", "Notan"),
        ("rabatment", "Rabatment"),
        ("datum", "Datum"),
        ("tangent", "Tangent"),
        ("string che", "String check"),
    ],
)
def test_the_words_of_the_trade_are_found(words, first):
    headings = [section.heading for section in found(words)]
    assert any(heading.startswith(first) for heading in headings[:3]), headings[:5]
    assert found("xyzzy") == ()


def test_rules_name_their_source():
    """Where a paragraph gives a figure as a rule, it says where it comes from."""
    for name in ("viewfinder", "perspective", "values"):
        text = chapter(name).markdown
        assert "common practice" in text
        assert any(year in text for year in ("1899", "1903", "1921", "ISO"))
