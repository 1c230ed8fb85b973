"""Undo and redo: an edit's changes are taken back field by field on the newest rows; what others built on them is asked about."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from ..core.errors import BadInput
from ..core.job.operations import merge, path_words
from ..core.job.owners import ALL
from ..core.job.words import named
from .documents import owner_row
from .edits import Editor, Log, add_row, as_kept, dependents, is_valid, last_done, rivals, take_away, write
from .materials import refuse_unknown
from .models import TABLES, ChangeRow, EditRow

_UNDONE = aliased(EditRow)


class Blocked(Exception):
    """An edit that cannot be taken back without touching what others did; ``edit`` is its number, ``why`` says what."""

    def __init__(self, edit: int, why: str, forcible: bool) -> None:
        super().__init__(why)
        self.edit, self.why, self.forcible = edit, why, forcible


def undo(editor: Editor, owner_id: int, skip: int | None = None, force: int | None = None) -> str:
    """Take back the author's newest edit that stands; says what was undone.

    ``skip`` leaves that edit as it is and goes on to the one before; ``force`` takes it back although others built on it
    (what of theirs must go, goes with it, and redo brings it back). BadInput when there is none; Blocked as said.
    """
    with editor.begin() as session:
        job = owner_row(session, owner_id)
        if skip is not None:
            _skip(session, editor, owner_id, skip)
        edit = last_done(session, owner_id, editor.hand.author)
        if edit is None:
            session.commit()
            raise BadInput("there is nothing of yours to undo", "undo", "edits of others stay")
        changes = _changes(session, edit)
        _take_back(session, Log(session, job, editor.hand, "undo", edit.id), edit, changes, force == edit.id)
        edit.state = "undone"
        session.commit()
        return _said(changes)


def redo(editor: Editor, owner_id: int, skip: int | None = None, force: int | None = None) -> str:
    """Bring back the author's edit undone last; as ``undo`` otherwise."""
    with editor.begin() as session:
        job = owner_row(session, owner_id)
        if skip is not None:
            _skip(session, editor, owner_id, skip)
        found = session.execute(
            select(EditRow, _UNDONE).join(_UNDONE, _UNDONE.id == EditRow.of)
            .where(EditRow.state == "undo", _UNDONE.owner_id == owner_id, _UNDONE.author == editor.hand.author,
                   _UNDONE.state == "undone").order_by(EditRow.id.desc()).limit(1)).first()
        if found is None:
            session.commit()
            raise BadInput("there is nothing of yours to bring back", "redo", "undo something first")
        back, edit = found
        _take_back(session, Log(session, job, editor.hand, "redo", edit.id), edit, _changes(session, back), force == edit.id)
        edit.state = "done"
        session.commit()
        return _said(_changes(session, edit))


def _skip(session: Session, editor: Editor, owner_id: int, number: int) -> None:
    edit = session.get(EditRow, number)
    if edit is not None and (edit.owner_id, edit.author) == (owner_id, editor.hand.author):
        edit.state = "skipped"
        session.flush()


def _changes(session: Session, edit: EditRow) -> list[ChangeRow]:
    return list(session.scalars(select(ChangeRow).where(ChangeRow.edit_id == edit.id).order_by(ChangeRow.id)))


def _take_back(session: Session, log: Log, edit: EditRow, changes: list[ChangeRow], force: bool) -> None:
    """Do the opposite of changes, the last first. Blocked, with nothing done, where others stand in the way, or where what comes
    back cannot be used."""
    try:
        _opposite(session, log, edit, changes, force)
    except BadInput as error:
        raise Blocked(edit.id, f"what would come back cannot be used: {error.what}", False) from None


def _opposite(session: Session, log: Log, edit: EditRow, changes: list[ChangeRow], force: bool) -> None:
    for change in reversed(changes):
        model = TABLES.get(change.collection)
        row = log.owner if model is None else session.get(model, change.row_id)
        if change.after is None:
            _bring_back(session, log, edit, change, row, force)
        elif row is None:
            raise Blocked(edit.id, f"{named(change.collection, change.after)} was removed by somebody else", False)
        elif change.before is None:
            _remove_again(session, log, edit, change, row, force)
        else:
            _give_back(session, log, edit, change, row, force)
    left = [(c.collection, session.get(TABLES[c.collection], c.row_id)) for c in changes if c.collection in TABLES]
    refuse_unknown(session, log.owner, [(name, {} if row is None else row.content) for name, row in left])


def _bring_back(session: Session, log: Log, edit: EditRow, change: ChangeRow, row: Any, force: bool) -> None:
    assert change.before is not None
    if row is not None:
        return
    content = as_kept(change.collection, change.before)
    for field, target in ALL[change.collection].points_to.items():
        if content.get(field) is not None and session.get(TABLES[target], content[field]) is None:
            raise Blocked(edit.id, f"what {named(change.collection, content)} belonged to is gone", False)
    if not force and rivals(session, log.owner.id, change.collection, content, None):
        raise Blocked(edit.id, f"another was chosen since in place of {named(change.collection, content)}", True)
    add_row(session, log, change.collection, content, change.row_id, change.version + 1)


def _remove_again(session: Session, log: Log, edit: EditRow, change: ChangeRow, row: Any, force: bool) -> None:
    here, then = as_kept(change.collection, row.content), as_kept(change.collection, change.after or {})
    if here != then and not force:
        raise Blocked(edit.id, f"somebody else changed {named(change.collection, here)} since", True)
    opposite = ALL[change.collection].opposite.get(str(here.get("what")))
    if opposite is not None:
        add_row(session, log, change.collection, {**here, "what": opposite})
        return
    hanging = dependents(session, log.owner.id, change.collection, row.id)
    if len(hanging) > 1 and not force:
        what = named(*_first(hanging[1:]))
        more = f" and {len(hanging) - 2} more" if len(hanging) > 2 else ""
        raise Blocked(edit.id, f"somebody else added {what}{more} to {named(change.collection, here)}; it would go too", True)
    for name, one in reversed(hanging):
        take_away(session, log, name, one)


def _first(hanging: list[tuple[str, Any]]) -> tuple[str, dict[str, Any]]:
    name, row = hanging[0]
    return name, row.content


def _give_back(session: Session, log: Log, edit: EditRow, change: ChangeRow, row: Any, force: bool) -> None:
    name = change.collection
    here = as_kept(name, row.content)
    if not is_valid(name, here):  # whoever spoiled it made no edit of it
        write(session, log, name, row, dict(change.before or {}))
        return
    content, blocked = merge(here, as_kept(name, change.after or {}), as_kept(name, change.before or {}), force)
    if blocked:
        raise Blocked(edit.id, f"somebody else changed {path_words(blocked[0])} of {named(name, here)} since", True)
    if content == here:
        return
    chosen = [] if force else [r for r in rivals(session, log.owner.id, name, content, row.id)
                               if not _in_edit(session, edit, name, r.id)]
    if chosen:
        raise Blocked(edit.id, f"somebody else chose {named(name, chosen[0].content)} since", True)
    write(session, log, name, row, content)


def _in_edit(session: Session, edit: EditRow, collection: str, row_id: int) -> bool:
    return session.scalars(select(ChangeRow.id).where(
        ChangeRow.edit_id == edit.id, ChangeRow.collection == collection, ChangeRow.row_id == row_id)).first() is not None


def _said(changes: list[ChangeRow]) -> str:
    """What an edit did, in a few words."""
    if not changes:
        return "nothing"
    first = next((c for c in changes if c.before is None), changes[-1])
    verb = "added" if first.before is None else "removed" if first.after is None else "changed"
    return f"{verb} {named(first.collection, first.after or first.before or {})}"
