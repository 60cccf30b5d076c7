"""Jobs as cards: the trunk in small, what was ordered and for whom, how far it is, what holds it up."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from umber_trunk.app import theme
from umber_trunk.app.shop.shop_look import SMALL, ShopLook
from umber_trunk.app.widgets.plain import plain_of
from umber_trunk.app.widgets.words import tr
from umber_trunk.core.shop.jobs import ACCEPTED, CANCELLED, CLOSED, CUT, HANDED, MADE, PROVEN, QUOTED, JobState

JOB = int(Qt.ItemDataRole.UserRole)
STEPS = (QUOTED, ACCEPTED, CUT, MADE, PROVEN, HANDED)
TALL = 6.2
"""Lines a card is tall."""


class JobCards(QListWidget):
    """All jobs, those that are held up or due first; arrows go from one to the next."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.shown: ShopLook | None = None
        self.setItemDelegate(_Card(self))
        self.setAccessibleName(tr("Jobs"))
        self.setVerticalScrollMode(QListWidget.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_look(self, shown: ShopLook) -> None:
        """The jobs as they stand now; the one that was chosen stays so."""
        chosen = self.chosen
        self.shown = shown
        self.blockSignals(True)
        self.clear()
        for state in sorted(shown.states, key=_order):
            item = QListWidgetItem(_told(state))
            item.setData(JOB, state.job.id)
            item.setToolTip(plain_of("\n".join(map(str, state.holds))))
            self.addItem(item)
        self.blockSignals(False)
        rows = [self.item(row).data(JOB) for row in range(self.count())]
        self.setCurrentRow(rows.index(chosen) if chosen in rows else 0)

    @property
    def chosen(self) -> str:
        """The chosen job's id, "" where none is."""
        item = self.currentItem()
        return str(item.data(JOB)) if item is not None else ""

    def choose(self, job: str) -> bool:
        """Chooses a job by its id."""
        for row in range(self.count()):
            if self.item(row).data(JOB) == job:
                self.setCurrentRow(row)
                return True
        return False

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """Return is the window's."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.ignore()
            return
        super().keyPressEvent(event)


def _order(state: JobState) -> tuple[bool, str, str]:
    over = state.state in (CLOSED, CANCELLED) or state.handed >= state.job.units
    return over, state.job.due or "9999", state.job.id


def _told(state: JobState) -> str:
    """What a screen reader and a search have of a card."""
    job = state.job
    due = tr(", due {due}", due=job.due) if job.due else ""
    return tr(
        "{job}: {units} × {harness} for {customer}, {told}{due}",
        job=job.id,
        units=job.units,
        harness=job.harness,
        customer=job.customer or "nobody named",
        told=state.told,
        due=due,
    )


class _Card(QStyledItemDelegate):
    def __init__(self, cards: JobCards) -> None:
        super().__init__(cards)
        self.cards = cards

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(320, round(TALL * QFontMetricsF(theme.font()).height()))

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        shown = self.cards.shown
        state = shown.state(index.data(JOB)) if shown is not None else None
        if shown is None or state is None:
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        room = QRectF(option.rect).adjusted(4, 3, -4, -3)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.setPen(QPen(theme.GOOD if chosen else theme.GRIP, 2 if chosen else 1))
        painter.setBrush(theme.PAPER_BRIGHT)
        painter.drawRoundedRect(room, 5, 5)
        inside = room.adjusted(8, 6, -10, -6)
        wide = min(SMALL[0], 0.36 * inside.width())
        picture = QRectF(inside.left(), inside.top(), wide, inside.height())
        image = shown.trunks.get(state.job.id)
        if image is not None:
            size = image.deviceIndependentSize().scaled(picture.size(), Qt.AspectRatioMode.KeepAspectRatio)
            left, top = picture.center().x() - size.width() / 2, picture.center().y() - size.height() / 2
            painter.drawImage(QRectF(left, top, size.width(), size.height()), image)
        else:
            painter.setPen(theme.BROKEN)
            painter.drawText(
                picture, int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap), tr("no harness to read")
            )
        self._words(painter, inside.adjusted(wide + 12, 0, 0, 0), state, shown)
        painter.restore()

    def _words(self, painter: QPainter, room: QRectF, state: JobState, shown: ShopLook) -> None:
        job, bold, plain, small = state.job, theme.font(theme.BASE_POINT + 1, bold=True), theme.font(), theme.font(8.5)
        head, line, fine = QFontMetricsF(bold), QFontMetricsF(plain).height(), QFontMetricsF(small)
        due, late = _due(state, shown)
        right = fine.horizontalAdvance(due) + 4
        painter.setFont(small)
        painter.setPen(theme.BROKEN if late else theme.INK_SOFT)
        painter.drawText(QRectF(room.right() - right, room.top(), right, line), int(Qt.AlignmentFlag.AlignRight), due)
        title = f"{job.id}  {job.customer}"
        painter.setFont(bold)
        painter.setPen(theme.INK)
        elided = head.elidedText(title, Qt.TextElideMode.ElideRight, room.width() - right - 6)
        painter.drawText(QPointF(room.left(), room.top() + head.ascent()), elided)
        painter.setFont(plain)
        what = f"{job.units} × {job.harness}" + ("  repair" if job.repair is not None else "")
        what = QFontMetricsF(plain).elidedText(what, Qt.TextElideMode.ElideRight, room.width())
        painter.drawText(QPointF(room.left(), room.top() + head.height() + QFontMetricsF(plain).ascent()), what)
        ladder = QRectF(room.left(), room.top() + head.height() + line + 4, room.width(), fine.height() + 12)
        _ladder(painter, ladder, state, small, fine)
        painter.setFont(small)
        hold = str(state.holds[0]) if state.holds else ""
        more = f"  (+{len(state.holds) - 1})" if len(state.holds) > 1 else ""
        painter.setPen(theme.TIGHT_TEXT if hold else theme.GOOD)
        free = room.width() - fine.horizontalAdvance(more)
        told = fine.elidedText(hold, Qt.TextElideMode.ElideRight, free) + more if hold else _well(state)
        painter.drawText(QPointF(room.left(), room.bottom() - fine.descent()), told)


def _due(state: JobState, shown: ShopLook) -> tuple[str, bool]:
    late = state.late(shown.day)
    if late:
        return tr("{late} d late", late=late), True
    return (tr("due {due}", due=state.job.due) if state.job.due else tr("no day promised")), False


def _well(state: JobState) -> str:
    return "" if state.state in (CLOSED, CANCELLED) else tr("nothing known holds it up")


def _ladder(painter: QPainter, room: QRectF, state: JobState, font: object, fine: QFontMetricsF) -> None:
    """The steps of a job from left to right, those behind it filled; how many units where not all are."""
    painter.setFont(theme.font(8.5))
    if state.state in (CLOSED, CANCELLED):
        painter.setPen(theme.SLATE)
        told = state.state if state.state == CLOSED else tr("cancelled: {cancelled}", cancelled=state.job.cancelled)
        painter.drawText(
            room, int(Qt.AlignmentFlag.AlignVCenter), fine.elidedText(told, Qt.TextElideMode.ElideRight, room.width())
        )
        return
    of, wide = state.job.units, room.width() / len(STEPS)
    many = {CUT: state.cut, MADE: state.made, PROVEN: state.proven, HANDED: state.handed}
    for number, step in enumerate(STEPS):
        share = min(many[step] / of, 1.0) if step in many else float(_behind(state, step))
        bar = QRectF(room.left() + number * wide, room.top() + 2, wide - 4, 5)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.PAPER_DIM)
        painter.drawRoundedRect(bar, 2, 2)
        if share > 0:
            painter.setBrush(theme.GOOD)
            painter.drawRoundedRect(QRectF(bar.left(), bar.top(), bar.width() * share, bar.height()), 2, 2)
        short = "handed" if step == HANDED else step
        told = f"{short} {min(many[step], of)}/{of}" if step in many and many[step] > 0 and of > 1 else short
        painter.setPen(theme.INK if share > 0 else theme.INK_SOFT)
        label = fine.elidedText(told, Qt.TextElideMode.ElideNone, wide)
        painter.drawText(
            QPointF(bar.left(), bar.bottom() + fine.ascent() + 1),
            label if fine.horizontalAdvance(label) <= wide else short,
        )


def _behind(state: JobState, step: str) -> bool:
    return state.job.quoted is not None if step == QUOTED else state.job.accepted is not None
