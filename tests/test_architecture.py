"""The house has no circles: no module needs, however far round, one that needs it. Type-level imports count too."""

from __future__ import annotations

from graphlib import CycleError, TopologicalSorter

import grimp
import pytest


def test_no_module_needs_itself_round_a_circle():
    house = grimp.build_graph("mild_compass", cache_dir=None)
    needs = {module: house.find_modules_directly_imported_by(module) for module in house.modules}
    try:
        order = list(TopologicalSorter(needs).static_order())
    except CycleError as error:
        pytest.fail(" -> ".join(error.args[1]))
    assert len(order) > 200


def test_a_circle_would_be_found():
    with pytest.raises(CycleError):
        TopologicalSorter({"a": {"b"}, "b": {"a"}}).prepare()
