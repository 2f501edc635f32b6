"""What is kept from plan to plan, for the window: practice, own times, and what the other plans say."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from mild_compass.craft.checkpoint import checkpoint
from mild_compass.memory.folders import index_file, practice_file, times_file
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from mild_compass.craft.logbook.repeated import Wrong
    from mild_compass.craft.practice.history import Answered, History
    from mild_compass.craft.work.own_times import OwnTimes, TimedStep
    from mild_compass.memory.plan_index import Hit, Renewed
    from mild_compass.plan.workspace import Workspace
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings

Looked = tuple["Renewed", tuple["Wrong", ...]]


def _renewed(folders: Sequence[Path], but: Path | None) -> Looked:
    from mild_compass.memory.plan_index import PlanIndex

    index = PlanIndex(index_file())
    return index.renew(folders, checkpoint), index.wrong(folders, but)


def _searched(words: str, folders: Sequence[Path]) -> tuple[Hit, ...]:
    from mild_compass.memory.plan_index import PlanIndex

    return PlanIndex(index_file()).search(words, folders)


class Memory(QObject):
    """Read when first wanted; ``changed`` is sent when anything of it has changed.

    With a demo plan a practice of invented weeks is shown in the place of the artist's own: what is answered then is
    shown too, and kept nowhere.
    """

    changed = Signal()

    def __init__(self, session: Session, work: LatestWins, settings: Settings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session, self._work, self._settings = session, work, settings
        self._history: History | None = None
        self._own_times: OwnTimes | None = None
        self._invented: History | None = None
        self._inventing: Callable[[], History] | None = None
        self._renewed_for: tuple[Any, ...] | None = None
        self._laid: dict[tuple[int, str], dict[str, float]] = {}
        self.renewed: Renewed | None = None
        self.elsewhere: tuple[Wrong, ...] = ()
        session.replaced.connect(self._be_true)

    # -- practice ---------------------------------------------------------------------------------------------

    @property
    def is_invented(self) -> bool:
        """Whether the practice shown is the demo's."""
        return self._inventing is not None

    @property
    def history(self) -> History:
        """All answers that count."""
        if self._inventing is not None:
            if self._invented is None:
                self._invented = self._inventing()
            return self._invented
        if self._history is None:
            from mild_compass.memory.practice import PracticeFile

            self._history = PracticeFile(practice_file()).history()
        return self._history

    def pretend(self, inventing: Callable[[], History]) -> None:
        """Show an invented practice, made when first looked at, until another plan is taken up."""
        self._inventing, self._invented = inventing, None
        self.changed.emit()

    def keep_answer(self, answer: Answered) -> None:
        """Keep an answer of a drill; a disk that refuses is told, and the answer counts until the window closes."""
        from mild_compass.craft.practice.history import History
        from mild_compass.memory.practice import PracticeFile

        self._set_history(History([*self.history.answers, answer]))
        if not self.is_invented:
            self._written(lambda: PracticeFile(practice_file()).add(answer))
        self.changed.emit()

    def strike_answer(self, answer_id: str) -> None:
        """Have an answer not count."""
        from mild_compass.craft.practice.history import History
        from mild_compass.memory.practice import PracticeFile

        self._set_history(History(each for each in self.history.answers if each.id != answer_id))
        if not self.is_invented:
            self._written(lambda: PracticeFile(practice_file()).strike(answer_id))
        self.changed.emit()

    def _set_history(self, history: History) -> None:
        if self.is_invented:
            self._invented = history
        else:
            self._history = history

    # -- own times --------------------------------------------------------------------------------------------

    @property
    def own_times(self) -> OwnTimes:
        """The artist's paces at the easel."""
        if self._own_times is None:
            from mild_compass.memory.own_times import TimesFile

            self._own_times = TimesFile(times_file()).own_times()
        return self._own_times

    def keep_time(self, mark: str, step: TimedStep | None) -> None:
        """Keep the time of a step that is done, or with None take it back."""
        from mild_compass.memory.own_times import TimesFile

        if self.is_invented:
            return
        file = TimesFile(times_file())
        self._written(lambda: file.strike(mark) if step is None else file.add(mark, step))
        self._own_times = None
        self.changed.emit()

    # -- what dries ------------------------------------------------------------------------------------------

    def keep_drying(self, workspace: Workspace, study: str, laid: dict[str, float]) -> None:
        """Remember until the window closes when each step was laid, on the clock of drying: that of the day may be set
        otherwise meanwhile."""
        if workspace is self._session.workspace:
            self._laid[id(workspace), study] = laid

    def still_drying(self, workspace: Workspace, study: str, now_s: float) -> dict[str, float]:
        """How many seconds ago each step of a study was laid, where it was in this window."""
        return {step: now_s - at for step, at in self._laid.get((id(workspace), study), {}).items()}

    # -- all plans --------------------------------------------------------------------------------------------

    @property
    def folders(self) -> tuple[Path, ...]:
        """The folders the artist has named, as far as they are there."""
        return tuple(folder for folder in map(Path, self._settings.now.plan_folders) if folder.is_dir())

    def look_round(self, anew: bool = False) -> None:
        """Bring the index over all plans up to date in the background: once for a plan, or when asked ``anew``."""
        wanted = (self._settings.now.plan_folders, self._session.file, self._session.workspace)
        if not self.folders or (self._renewed_for == wanted and not anew):
            return
        self._renewed_for = wanted
        self._work.latest(
            "plan index",
            self._session.owner().of_plan,
            _renewed,
            self.folders,
            self._session.file,
            then=self._take,
            otherwise=lambda error: self._session.said.emit(str(error)),
            aside=True,
        )

    def search(self, words: str, then: Callable[[tuple[Hit, ...]], None]) -> None:
        """Look through all plans for words; only the newest search answers."""
        self._work.latest(
            "search",
            self._session.owner().of_plan,
            _searched,
            words,
            self.folders,
            then=then,
            otherwise=lambda error: self._session.said.emit(str(error)),
        )

    def _take(self, looked: Looked) -> None:
        self.renewed, self.elsewhere = looked
        self.changed.emit()

    def _be_true(self) -> None:
        self._inventing = self._invented = None
        self._renewed_for = None
        self._laid.clear()
        self.renewed, self.elsewhere = None, ()
        self.changed.emit()

    def _written(self, write: Callable[[], None]) -> None:
        try:
            write()
        except PlanError as error:
            self._session.said.emit(str(error))
