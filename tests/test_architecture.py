"""The house has no circles: no module needs, however far round, one that needs it. Type-level imports count too."""

from __future__ import annotations

import re
import sys
import tomllib
from graphlib import CycleError, TopologicalSorter
from importlib.metadata import packages_distributions
from pathlib import Path

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


def test_every_library_the_application_needs_is_installed_with_it():
    """What stands only in the dev extra is there in the tests, and missing on the artist's machine."""
    project = tomllib.loads((Path(__file__).parents[1] / "pyproject.toml").read_text())["project"]
    declared = {_plain(re.split(r"[<>=!~ \[]", each)[0]) for each in project["dependencies"]}
    house = grimp.build_graph("mild_compass", include_external_packages=True, cache_dir=None)
    libraries = {name.split(".")[0] for name in house.modules} - {"mild_compass"} - sys.stdlib_module_names
    known = packages_distributions()
    needed = {library: {_plain(each) for each in known.get(library, [library])} for library in libraries}
    needed["shiboken6"] = {"pyside6-essentials"}  # comes with it
    missing = sorted(library for library, names in needed.items() if not names & declared and library != "shiboken6")
    assert missing == []
    locked = (Path(__file__).parents[1] / "requirements.lock").read_text()
    assert all(f"\n{name}==" in f"\n{locked}" for name in declared)


def _plain(name: str) -> str:
    return name.lower().replace("_", "-")
