"""A view of the study: the photo with its viewfinder, or the sheet. Board and companion are two of them."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPaintEvent, QPen, QPixmap, QTransform
from PySide6.QtWidgets import QWidget

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.geometry.lines import Box, picture_box, sheet_box
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import corners, is_beyond
from mild_compass.studio.board.placing import Placing
from mild_compass.studio.board.rulers import DEPTH, draw_rulers
from mild_compass.studio.board.sight import PhotoSight, Sight, fitting
from mild_compass.studio.board.still import Still
from mild_compass.studio.board.strokes import casing, draw_layers, pen
from mild_compass.studio.derived.looks import paint_masses
from mild_compass.studio.painting import polygon

if TYPE_CHECKING:
    from mild_compass.craft.drawing import Drawing
    from mild_compass.craft.reading import Place
    from mild_compass.plan.model import Plan
    from mild_compass.plan.pictures import Ground, Point
    from mild_compass.plan.study import Study
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.derived.looks import Looks, Way
    from mild_compass.studio.words import Fill, Hold, Mode

PAPER = "#fdfdfb"
MANY_STROKES = 200
NEARER = 1.3  # than its pixels a picture of the masses is not looked at
MOVES_WITH_PHOTO = {
    *(
        "stage",
        "stage behind",
        "stage construction",
        "stage shadows",
        "horizon",
        "departures",
        "guides",
        "ticks",
        "pins",
        "big lines",
        "shapes",
        "datum",
        "measures",
        "lines",
    ),
}


class StudyView(QWidget):
    """Draws the current study in one of two modes; knows nothing of stations or gestures."""

    pointed = Signal(object)  # sheet point in mm under the pointer, or None

    def __init__(self, computed: Computed, mode: Mode, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.computed = computed
        self.mode: Mode = mode
        self.layers: tuple[str, ...] = ("frame",)
        self.printed = False  # whether words and inks are those of the print
        self.fill: Fill = "colour"
        self.room = 16.0
        self.surround = "#777777"
        self.with_rulers = False
        self.holds: set[Hold] = set()
        self.cross_mm: tuple[float, float] | None = None
        self.shown_place: Place | None = None
        self._sights: dict[Mode, Sight] = {}
        self._page: Box | None = None
        self._backdrop: tuple[tuple[object, ...], QPixmap] | None = None
        self._overlay = Still()
        self._laid = Still()
        self.placing = Placing()
        self._drawing: tuple[tuple[object, ...], Drawing] | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMouseTracking(True)
        computed.changed.connect(self.follow)

    def follow(self) -> None:
        """Something computed has changed."""
        self.update()

    # -- where we look ----------------------------------------------------------------------------------------

    @property
    def plan(self) -> Plan:
        """The plan as it is shown."""
        return self.computed.plan

    @property
    def study(self) -> Study | None:
        """The current study."""
        return self.computed.plan.study

    @property
    def shown_looks(self) -> Looks | None:
        """The picture with its planned changes; the photo as it was taken while that is held."""
        return self.computed.photo_looks if "as taken" in self.holds else self.computed.looks

    @property
    def frame_map(self) -> FrameMap | None:
        """Photo to sheet, for the current study."""
        return FrameMap.of(self.study.frame, self.plan.paper) if self.study else None

    @property
    def sight(self) -> Sight:
        """The sight of the present mode: where the artist has put it, or all of it."""
        return self._sights.get(self.mode) or self._fitting()

    def set_sight(self, sight: Sight) -> None:
        """Look from elsewhere."""
        self._sights[sight.mode] = sight
        self.update()

    def hold(self, name: Hold, on: bool) -> None:
        """Look in another way while it is held."""
        (self.holds.add if on else self.holds.discard)(name)
        self.update()

    def fit(self) -> None:
        """Show the whole photo or the whole sheet."""
        self._sights.clear()
        self.update()

    def set_mode(self, mode: Mode) -> None:
        """Show the other half of the job."""
        self.mode = mode
        self._sights.pop(mode, None)
        self.update()

    def sheet_sight(self) -> Sight | None:
        """The map from sheet mm to this widget."""
        return self.sight.of_sheet(self.frame_map) if self.frame_map else None

    def photo_sight(self) -> PhotoSight | None:
        """The map from photo pixels to this widget."""
        return self.sight.of_photo(self.frame_map) if self.frame_map else None

    def _fitting(self) -> Sight:
        plan = self.plan
        page = Box(0.0, 0.0, plan.paper.width_mm, plan.paper.height_mm)
        if self.mode == "photo" and self.study is not None:
            page = self._photo_page()
        extra = DEPTH if self.with_rulers and self.mode == "sheet" else 0
        sight = fitting(self.mode, page, self.width() - extra, self.height() - extra, self.room)
        return sight.panned(extra, extra)

    def _photo_page(self) -> Box:
        """Photo and frame together, in turned photo pixels; while the hand is moving the page stays as it was."""
        if self._page is None or not self.computed.in_gesture:
            study, frame_map = self.study, self.frame_map
            assert study is not None
            assert frame_map is not None
            photo = self.plan.ground(study)
            points = frame_map.turned([*_corners_of(photo), *corners(study.frame)])
            self._page = Box(*points.min(0).tolist(), *points.max(0).tolist())
        return self._page

    def sizeHint(self) -> QSize:
        return QSize(400, 300)

    # -- what is drawn ----------------------------------------------------------------------------------------

    def drawing(self) -> Drawing | None:
        """The layers of the study, computed again only when something they depend on has changed."""
        study, paper, worked = self.study, self.plan.paper, self.computed.perspective()
        if study is None or worked is None:
            return None
        masses = self.computed.masses if "masses" in self.layers else None
        if "edges" in self.layers:
            masses = self.computed.edges_shown
        lines = self.computed.views.lines() if "lines" in self.layers else None
        scene = self.computed.scene if study.staged else None
        moves_with_photo = {name for name in self.layers if name in MOVES_WITH_PHOTO and (scene or name != "stage")}
        frame = study.frame if moves_with_photo or study.frame.proportion == "free" else None
        key = (
            *(paper, study.threads, study.armature, study.structure, study.perspective, study.sheet, masses, lines),
            *(frame, self.layers, study.departures, study.measures, study.shapes, study.motif, self.printed),
            *(self.computed.unit, scene, study.values.edges, study.values.planes),
        )
        if self._drawing is None or not all(a is b or a == b for a, b in zip(self._drawing[0], key, strict=True)):
            # Loaded with the first photo: the empty board does without it.
            from mild_compass.craft.sheet.layers import as_printed, sheet_drawing

            unit = self.computed.unit
            try:
                drawing = sheet_drawing(study, paper, worked, masses, self.layers, lines, unit, scene)
            except PlanError:  # a grid too fine to be drawn; the sheet's readings say so
                rest = tuple(layer for layer in self.layers if layer != "grid")
                drawing = sheet_drawing(study, paper, worked, masses, rest, lines, unit, scene)
            self._drawing = (key, as_printed(drawing, study.sheet) if self.printed else drawing)
        return self._drawing[1]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.mode == "sheet" or self.holds or self.shown_looks is None:
            painter.fillRect(self.rect(), QColor(self.surround))  # the photo brings its own surround
        if self.study is None:
            self.paint_empty(painter)
        else:
            self._apply_holds(painter)
            self.placing.begin(self._rulers())
            self._paint_study(painter)
        painter.end()

    def _rulers(self) -> list[QRectF]:
        """Where the rulers lie."""
        sheet = self.sheet_sight()
        if not self.with_rulers or sheet is None:
            return []
        box = sheet_box(self.plan.paper) if self.mode == "sheet" else self._box()
        (left, top), (right, bottom) = sheet.to_widget([[box.left, box.top], [box.right, box.bottom]]).tolist()
        across = QRectF(left, top - DEPTH, right - left, DEPTH)
        return [across, QRectF(left - DEPTH, top, DEPTH, bottom - top)]

    def paint_empty(self, painter: QPainter) -> None:
        """What is shown while there is no photo: nothing here, the board says more."""

    def paint_marks(self, painter: QPainter, sheet: Sight) -> None:
        """Marks of the station in hand; the board draws them."""

    def _apply_holds(self, painter: QPainter) -> None:
        if "mirror" in self.holds:
            painter.setTransform(QTransform(-1, 0, 0, 1, self.width(), 0), True)

    def _paint_study(self, painter: QPainter) -> None:
        sheet = self.sheet_sight()
        assert sheet is not None
        plain = bool(self.holds)
        if self.mode == "photo":
            self._paint_photo(painter)
            self._dim_outside(painter, sheet)
        else:
            self._paint_sheet(painter, sheet)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not plain:
            self._paint_over(painter, sheet)
            if self.shown_place is None:
                self.paint_marks(painter, sheet)
            self._paint_place(painter, sheet)
        self._paint_cross(painter, sheet)

    def _paint_over(self, painter: QPainter, sheet: Sight) -> None:
        """The layers and the rulers, kept for a sight so that a hand can move over them; where there are few strokes
        words are drawn anew each time, for they give way to one another."""
        drawing, paper = self.drawing(), self.plan.paper
        box = sheet_box(paper) if self.mode == "sheet" else self._box()

        def paint(on: QPainter) -> None:
            if drawing is not None:
                draw_layers(on, drawing, sheet)
            if self.with_rulers:
                draw_rulers(on, sheet, box, self.computed.unit, False)

        layers = drawing.layers if drawing is not None else ()
        many = sum(len(layer.strokes) for layer in layers) >= MANY_STROKES
        if any(layer.labels for layer in layers) and not many:
            paint(painter)
            return
        key = (drawing, sheet, box, self.computed.unit, self.with_rulers)
        self._overlay.show(painter, self, key, paint, at_once=many)

    def way(self) -> Way:
        """The form of the photo that is wanted now."""
        if "squint" in self.holds:
            return "squint"
        return "values" if "values" in self.holds or self.fill == "values" else "colour"

    def _level(self, looks: Looks, scale: float) -> QImage:
        """The photo in the wanted form, sharp at a scale; from afar as soon as that has been made."""
        afar = self.computed.views.from_afar(scale) if "step back" in self.holds else None
        return afar if afar is not None else looks.level(self.way(), scale)

    def _paint_photo(self, painter: QPainter) -> None:
        """The whole photo; scaled once for a sight and then only copied."""
        looks = self.shown_looks
        if looks is None:
            self._paint_blank(painter)
            return
        sight, way, frame_map = self.sight, self.way(), self.frame_map
        assert frame_map is not None
        turn = tuple(frame_map.turn.ravel().tolist())
        afar = self.computed.views.from_afar(1.0) if "step back" in self.holds else None
        key = (looks, way, afar and afar.cacheKey(), sight, turn, self.size(), self.devicePixelRatioF(), self.surround)
        if self._backdrop is None or self._backdrop[0] != key:
            pixmap = QPixmap(self.size() * self.devicePixelRatioF())
            pixmap.setDevicePixelRatio(self.devicePixelRatioF())
            pixmap.fill(QColor(self.surround))
            inner = QPainter(pixmap)
            inner.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            scale = sight.scale / looks.picture.scale * self.devicePixelRatioF()
            image = self._level(looks, scale)
            inner.setTransform(image_transform(sight.of_photo(frame_map), looks, image))
            inner.drawImage(QPointF(0, 0), image)
            inner.end()
            self._backdrop = (key, pixmap)
        painter.drawPixmap(0, 0, self._backdrop[1])
        self._paint_bare_paper(painter)

    def _paint_blank(self, painter: QPainter) -> None:
        """The blank sheet a study stands on."""
        study, photo_sight = self.study, self.photo_sight()
        if study is None or photo_sight is None or self.plan.ground(study).is_photo:
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(PAPER))
        painter.drawPolygon(polygon(photo_sight.to_widget(_corners_of(self.plan.ground(study)))))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_bare_paper(self, painter: QPainter) -> None:
        """Paper inside the viewfinder where the photo ends."""
        study, photo_sight = self.study, self.photo_sight()
        assert study is not None
        assert photo_sight is not None
        photo = self.plan.ground(study)
        if not is_beyond(study.frame, photo):
            return
        opening, covered = QPainterPath(), QPainterPath()
        opening.addPolygon(polygon(photo_sight.to_widget(corners(study.frame))))
        covered.addPolygon(polygon(photo_sight.to_widget(_corners_of(photo))))
        painter.fillPath(opening.subtracted(covered), QColor(PAPER))

    def _dim_outside(self, painter: QPainter, sheet: Sight) -> None:
        """What the viewfinder covers, darkened, with a bright thin edge at the opening."""
        box = self._box()
        (left, top), (right, bottom) = sheet.to_widget([[box.left, box.top], [box.right, box.bottom]]).tolist()
        card = QColor(self.surround)
        card.setAlpha(185)
        width, height = float(self.width()), float(self.height())
        # Four plain rectangles: a path with a hole in it takes several times as long.
        painter.fillRect(QRectF(0, 0, width, top), card)
        painter.fillRect(QRectF(0, bottom, width, height - bottom), card)
        painter.fillRect(QRectF(0, top, left, bottom - top), card)
        painter.fillRect(QRectF(right, top, width - right, bottom - top), card)

    def _paint_sheet(self, painter: QPainter, sheet: Sight) -> None:
        """The sheet; one with masses is painted once for a sight, so that a hand can move a threshold over it."""
        masses = self.computed.masses_image if self._shows_masses and not self.holds else None
        if masses is None or self.study is None:
            self._lay_sheet(painter, sheet)
            return
        key = (masses.cacheKey(), sheet, self.surround, self.plan.paper, self.study.frame)
        held = self.computed.in_gesture  # it is shown several times before it changes
        self._laid.show(painter, self, key, lambda on: self._lay_sheet(on, sheet), QColor(self.surround), held)

    def _lay_sheet(self, painter: QPainter, sheet: Sight) -> None:
        paper = self.plan.paper
        ends = sheet.to_widget([[0.0, 0.0], [paper.width_mm, paper.height_mm]])
        whole = QRectF(QPointF(*ends[0]), QPointF(*ends[1]))
        painter.fillRect(whole.translated(2, 3), QColor(0, 0, 0, 60))
        painter.fillRect(whole, QColor(PAPER))
        if self.fill == "drawing":
            self._paint_own_drawing(painter, whole)
            return
        box = self._box()
        ends = sheet.to_widget([[box.left, box.top], [box.right, box.bottom]])
        self._paint_framed(painter, QRectF(QPointF(*ends[0]), QPointF(*ends[1])))

    def _paint_own_drawing(self, painter: QPainter, whole: QRectF) -> None:
        """The artist's own drawing, laid flat, over all of the sheet."""
        made = self.computed.drawing_check
        image = made.flat.get(self.way()) if made is not None else None
        if image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, True)
            painter.drawImage(whole, image)

    def _box(self) -> Box:
        """What the frame fills on the sheet, in mm."""
        return picture_box(self.plan.paper, self.study.frame if self.study else None)

    def _paint_framed(self, painter: QPainter, target: QRectF) -> None:
        """The framed part of the photo, or its masses, in the picture area."""
        looks, study = self.shown_looks, self.study
        view = self._tone_view()
        if view is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, True)
            painter.drawImage(target, view)
            return
        if not self._shows_masses and study is not None and not self._plainly_framed(study):
            if looks is not None and self.fill != "paper":
                self._paint_turned(painter, target, looks)
            return
        if self._shows_masses and self._paint_outlined(painter, target):
            return
        image, source = self._framed_image(target.width() * self.devicePixelRatioF())
        if image is None:
            return
        visible = target.intersected(QRectF(self.rect()))
        if visible.isEmpty():
            return
        # Only the part in sight is scaled, so that a deep zoom costs no more than a shallow one.
        kx, ky = source.width() / target.width(), source.height() / target.height()
        part = QRectF(
            source.left() + (visible.left() - target.left()) * kx,
            source.top() + (visible.top() - target.top()) * ky,
            visible.width() * kx,
            visible.height() * ky,
        )
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, True)
        painter.drawImage(visible, image, part)

    def _tone_view(self) -> QImage | None:
        """What stands out, or deceives, where that is wanted and has been made."""
        if self.fill not in ("contrast", "traps") or self.holds - {"mirror"}:
            return None
        return self.computed.views.tone_view(self.fill)

    @property
    def _shows_masses(self) -> bool:
        plain = not self.holds & {"squint", "values", "step back", "as taken"}
        return self.fill == "masses" and plain and self.computed.masses_image is not None

    def _paint_outlined(self, painter: QPainter, target: QRectF) -> bool:
        """The masses from their outlines, where one is so near that a picture of them would show its pixels."""
        drawn = self.computed.drawn_masses
        if drawn is None or target.width() * self.devicePixelRatioF() <= NEARER * drawn.image.width():
            return False
        painter.save()
        painter.setClipRect(target, Qt.ClipOperation.IntersectClip)
        painter.translate(target.topLeft())
        height, width = drawn.masses.steps.shape
        painter.scale(target.width() / width, target.height() / height)
        paint_masses(painter, drawn.paths)
        painter.restore()
        return True

    def _plainly_framed(self, study: Study) -> bool:
        """Whether the picture is an upright part of the photo, which is quickly drawn."""
        return study.frame.plain and not is_beyond(study.frame, self.plan.ground(study))

    def _paint_turned(self, painter: QPainter, target: QRectF, looks: Looks) -> None:
        """The framed part of a photo that is turned, flipped, stretched or ends inside the frame."""
        photo = self.photo_sight()
        assert photo is not None
        image = self._level(looks, photo.scale / looks.picture.scale * self.devicePixelRatioF())
        painter.save()
        painter.setClipRect(target, Qt.ClipOperation.IntersectClip)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, True)
        painter.setTransform(image_transform(photo, looks, image), True)
        painter.drawImage(QPointF(0, 0), image)
        painter.restore()

    def _framed_image(self, width: float) -> tuple[QImage | None, QRectF]:
        masses = self.computed.masses_image
        if self.fill == "paper" and not self.holds & {"squint", "values"}:
            return None, QRectF()
        if self._shows_masses and masses is not None:
            return masses, QRectF(masses.rect())
        looks, study = self.shown_looks, self.study
        if looks is None or study is None:
            return None, QRectF()
        frame = study.frame
        image = self._level(looks, width / (frame.width_px * looks.picture.scale))
        scale = image.width() / looks.picture.width_px
        return image, QRectF(frame.x_px * scale, frame.y_px * scale, frame.width_px * scale, frame.height_px * scale)

    def _paint_place(self, painter: QPainter, sheet: Sight) -> None:
        """Show me: the place lit up, the rest dimmed."""
        if self.shown_place is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        lines = [sheet.to_widget(np.array(line)) for line in self.shown_place.lines_mm]
        points = np.concatenate(lines)
        low, high = points.min(0) - 22, points.max(0) + 22
        spot = QPainterPath()
        spot.addRect(QRectF(self.rect()))
        spot.addRoundedRect(QRectF(QPointF(*low), QPointF(*high)), 18, 18)
        painter.fillPath(spot, QColor(0, 0, 0, 120))
        for line in lines:
            painter.setPen(casing(4.5, 220))
            painter.drawPolyline(polygon(line))
            painter.setPen(pen("subject", 3.0))
            painter.drawPolyline(polygon(line))

    def _paint_cross(self, painter: QPainter, sheet: Sight) -> None:
        """The linked cross: the same point in board and companion."""
        if self.cross_mm is None:
            return
        x, y = sheet.to_widget(self.cross_mm).tolist()
        for line in (casing(1.0, 200), QPen(QColor("#a2391f"), 1.2)):
            painter.setPen(line)
            painter.drawLine(QPointF(x - 7, y), QPointF(x + 7, y))
            painter.drawLine(QPointF(x, y - 7), QPointF(x, y + 7))

    def show_cross(self, point_mm: tuple[float, float] | None) -> None:
        """Put the linked cross at a point of the sheet, or take it away."""
        if point_mm != self.cross_mm:
            self.cross_mm = point_mm
            self.update()


def _corners_of(photo: Ground) -> list[Point]:
    right, bottom = float(photo.width_px), float(photo.height_px)
    return [(0.0, 0.0), (right, 0.0), (right, bottom), (0.0, bottom)]


def image_transform(sight: PhotoSight, looks: Looks, image: QImage) -> QTransform:
    """From pixels of an image of the whole photo to the widget."""
    across = looks.picture.width_px / image.width()
    down = looks.picture.height_px / image.height()
    (a, b), (c, d) = sight.matrix.tolist()
    return QTransform(a * across, c * across, b * down, d * down, *sight.shift)
