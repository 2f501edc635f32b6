"""The header: plan, sheet, study, undo and redo."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QToolButton, QWidget

from mild_compass.craft.sheet_sizes.lengths import Unit, format_length
from mild_compass.studio.theme.icons import give_icon
from mild_compass.studio.widgets import plain_label

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from PySide6.QtGui import QAction

    from mild_compass.plan.model import Plan


class Header(QWidget):
    """One quiet line above the route."""

    study_chosen = Signal(str)
    jumped_back = Signal(int)

    def __init__(self, plan_actions: Sequence[QAction | None], study_actions: Sequence[QAction]) -> None:
        super().__init__()
        self._study_actions = study_actions
        layout = QHBoxLayout(self)
        layout.setContentsMargins(8, 4, 8, 0)
        layout.setSpacing(6)
        plan_menu = QMenu(self)
        for action in plan_actions:
            if action is None:
                plan_menu.addSeparator()
            else:
                plan_menu.addAction(action)
        self.plan_button = QToolButton()
        self.plan_button.setText("Plan")
        give_icon(self.plan_button, "menu")
        self.plan_button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.plan_button.setMenu(plan_menu)
        _opens_whole(self.plan_button)
        self._name, self._paper = plain_label(), plain_label()
        self._name.setProperty("head", True)
        self._paper.setProperty("soft", True)
        self._plan: Plan | None = None
        self._studies = QMenu(self)
        self._studies.aboutToShow.connect(self._list_studies)
        self.study_button = QToolButton()
        self.study_button.setMenu(self._studies)
        _opens_whole(self.study_button)
        self.study_button.setToolTip("Studies of this plan")
        self._study_dot = _dot()
        for widget in (self.plan_button, self._name, _dot(), self._paper, self._study_dot, self.study_button):
            layout.addWidget(widget)
        layout.addStretch(1)
        self._row = layout

    def add_button(self, action: QAction) -> QToolButton:
        """A button at the right end."""
        made = QToolButton()
        made.setDefaultAction(action)
        made.setProperty("flat", True)
        self._row.addWidget(made)
        return made

    def add_steps(self, undo: QToolButton, steps: Callable[[], Sequence[tuple[int, str]]]) -> None:
        """A list of the last steps under the undo button; choosing one takes back all since, and it too."""
        menu = QMenu(self)

        def fill() -> None:
            menu.clear()
            for number, label in steps():
                words = f"Undo {label}" if number == 1 else f"Back to before: {label}"
                menu.addAction(words).triggered.connect(lambda _, number=number: self.jumped_back.emit(number))

        menu.aboutToShow.connect(fill)
        undo.setMenu(menu)
        undo.setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
        undo.setAccessibleName("Undo, and the list of steps")

    def show_plan(self, plan: Plan, unsaved: bool, unit: Unit) -> None:
        """Show names and sizes."""
        self._name.setText(plan.name + (" *" if unsaved else ""))
        self._name.setToolTip("Not saved yet" if unsaved else "")
        paper = plan.paper
        lies = "across" if paper.across else "upright"
        size = (
            f"{format_length(paper.width_mm, unit, 0).removesuffix(' mm')} × {format_length(paper.height_mm, unit, 0)}"
        )
        self._paper.setText(f"{paper.name}, {lies}, {size}")
        study = plan.study
        self.study_button.setVisible(study is not None)
        self._study_dot.setVisible(study is not None)
        self.study_button.setText(f"Study {study.name} ▾" if study else "")
        self._plan = plan

    def _list_studies(self) -> None:
        """Only when the menu is opened: a plan may have many studies, and every edit passes through here."""
        self._studies.clear()
        for each in self._plan.studies if self._plan else ():
            action = self._studies.addAction(f"Study {each.name}")
            action.setCheckable(True)
            action.setChecked(self._plan is not None and each.id == self._plan.current_study)
            action.triggered.connect(lambda _, key=each.id: self.study_chosen.emit(key))
        self._studies.addSeparator()
        self._studies.addActions(list(self._study_actions))


def _opens_whole(made: QToolButton) -> None:
    """Its menu opens wherever it is pressed, also by a reader of the screen: Qt's own instant menus cannot be."""
    made.setPopupMode(QToolButton.ToolButtonPopupMode.MenuButtonPopup)
    made.setProperty("whole", True)
    made.clicked.connect(made.showMenu)


def _dot() -> QLabel:
    dot = plain_label("·")
    dot.setProperty("soft", True)
    return dot
