"""What lasts longer than half a second says how far it has come, with a way out where that is safe."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from mild_compass.studio.requests.jobs import SHOWN_AFTER_MS

if TYPE_CHECKING:
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.files.photos import PhotoFiles
    from mild_compass.studio.requests.jobs import Jobs
    from mild_compass.studio.window.notice import Notice
    from mild_compass.studio.window.reader import Reader


class Progress(QObject):
    """Photos being read come first, then what the artist asked for, then a drawing that is being looked at."""

    def __init__(self, notice: Notice, photos: PhotoFiles, jobs: Jobs, computed: Computed, reader: Reader) -> None:
        super().__init__(notice)
        self._notice, self._photos, self._jobs, self._checks = notice, photos, jobs, computed.checks
        self._checking, self._pause = False, QTimer(self, singleShot=True, interval=SHOWN_AFTER_MS)
        self._pause.timeout.connect(self.show)
        photos.progress_changed.connect(self.show)
        jobs.changed.connect(self.show)
        for signal in (computed.changed, reader.read):
            signal.connect(self._follow_check)

    def show(self) -> None:
        """Show what is under way, or put the notice away."""
        job = self._jobs.lasting
        if self._photos.progress is not None:
            self._notice.show_progress(self._photos.progress, "Reading photos", self._photos.call_off)
        elif job is not None:
            stop = (lambda: self._jobs.call_off(job)) if job.can_be_called_off else None
            self._notice.show_progress((0, 0), job.words, stop)
        elif self._checking and not self._pause.isActive():
            self._notice.show_progress((0, 0), "Looking at the drawing", self._checks.call_off)
        else:
            self._notice.show_progress(None, "", None)

    def _follow_check(self) -> None:
        under_way = self._checks.under_way
        if under_way == self._checking:
            return
        self._checking = under_way
        if under_way:
            self._pause.start()
        else:
            self.show()
