"""Which cards are seen first, and what is folded away."""

from __future__ import annotations

from tests.studio.conftest import Hand
from tests.studio.test_pages import take

from mild_compass.craft.reading import Reading
from mild_compass.studio.window.readings_panel import Card, arranged


def told(*keys: str, act: str = "") -> list[Reading]:
    return [Reading(key, key, f"{key}.", verdict="act" if key == act else "fine") for key in keys]


def test_the_cards_of_the_instrument_come_first_and_what_is_to_be_acted_on_is_never_folded_away():
    readings = told("edge", "lead", "balance", "spare", act="spare")
    seen, folded = arranged(readings, ("lead", "placement"))
    assert [each.key for each in seen] == ["lead", "spare"]
    assert [each.key for each in folded] == ["edge", "balance"]


def test_nothing_is_folded_away_where_no_card_is_the_instrument_s_or_only_one_is_left_over():
    readings = told("edge", "lead")
    assert arranged(readings, ()) == (readings, [])
    assert arranged(readings, ("path",)) == (readings, [])
    assert arranged(readings, ("lead",)) == (readings, [])


def test_in_the_window_the_cards_follow_the_instrument_and_the_line_unfolds_the_rest(hand: Hand):
    hand.go(2)
    take(hand, "paper")
    panel = hand.window.readings
    keys = [each.key for each in panel.readings]

    def seen() -> list[str]:
        cards = sorted((each for each in panel.findChildren(Card) if each.isVisible()), key=lambda card: card.y())
        return [card._reading.key for card in cards if card._reading is not None]

    about = [key for key in keys if key.startswith(("sharpness", "scale", "measured", "ratio"))]
    assert about
    assert seen()[: len(about)] == about
    assert len(seen()) < len(keys)
    left = len(keys) - len(seen())
    assert f"{left} more" in panel._fold.text()
    hand.click(panel._fold.text())
    hand.settle()
    assert sorted(seen()) == sorted(keys)
    assert seen()[: len(about)] == about
    hand.click("Fold the rest away")
    hand.settle()
    assert len(seen()) == len(keys) - left
