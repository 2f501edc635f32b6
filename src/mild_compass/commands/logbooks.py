"""Logbooks written and searched: ``logbook``, ``search``."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from mild_compass.commands.opened import opened
from mild_compass.memory.folders import index_file
from mild_compass.memory.plan_index import PlanIndex
from mild_compass.output.document import writer_of
from mild_compass.output.logbook_document import logbook_blocks, worked_out
from mild_compass.plan.atomic import write_bytes_atomically
from mild_compass.plan.errors import PlanError
from mild_compass.studio.settings.preferences import load

if TYPE_CHECKING:
    from mild_compass.output.document import Block


def logbook(plans: list[Path], output: Path) -> None:
    """Write what was decided, done and learned, of several plans one after the other.

    Raises:
        PlanError: the kind of file is not known, or a plan cannot be read.
    """
    suffix = output.suffix.lower()
    writer = writer_of(suffix)
    if writer is None:
        raise PlanError(f"“{output.name}” is of a kind that cannot be written. Known are .md, .html, .pdf.")
    blocks: list[Block] = []
    title = f"{len(plans)} plans"
    for path in plans:
        with opened(path) as (plan, photos):
            title = plan.name if len(plans) == 1 else title
            blocks += logbook_blocks(plan, worked_out(plan, photos), photos, pictures=suffix != ".md")
    write_bytes_atomically(output, writer(title, blocks))


def search(words: list[str], folder: Path | None, as_json: bool) -> None:
    """Print where words stand in the logbooks of all plans, or of those in one folder.

    Raises:
        PlanError: no folder is named, or there is none.
    """
    named = [Path(name) for name in load().plan_folders]
    folders = [folder] if folder else named
    if not folders:
        raise PlanError("No folder of plans is named. Name one with --in FOLDER, or in the logbook of the studio.")
    missing = next((each for each in folders if not each.is_dir()), None)
    if missing is not None:
        raise PlanError(f"There is no folder {missing}.")
    index = PlanIndex(index_file())
    for problem in index.renew(list(dict.fromkeys([*named, *folders]))).problems:
        print(problem, file=sys.stderr)
    found = index.search(" ".join(words), folders)
    if as_json:
        print(json.dumps([each.as_json() for each in found], indent=1, ensure_ascii=False))
        return
    for each in found:
        print(f"{each.plan}, {each.time[:10]}, {each.station}: {each.text}")
