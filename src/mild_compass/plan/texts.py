"""Text that can be written anywhere: names as they come in are cleaned, what stands in a plan is checked."""

from __future__ import annotations

from mild_compass.plan.errors import PlanError

LONGEST = 4000
SHOWN = 40
ALLOWED_CONTROLS = "\n\t"


def clean_name(name: str) -> str:
    """A file's name as one line of plain text: what no file could hold as text becomes a question mark.

    Names of files are bytes on Linux and need not be UTF-8; Python gives such bytes as lone surrogates, which no plan,
    PDF or CSV can hold.
    """
    sound = name.encode("utf-8", "replace").decode("utf-8")
    return "".join(sign if sign.isprintable() else "?" for sign in sound)[:LONGEST] or "?"


def require_text(text: str) -> None:
    """Refuse what cannot be written into every kind of file.

    Raises:
        PlanError: the text is too long, cannot be encoded, or holds control characters.
    """
    if len(text) > LONGEST:
        raise PlanError(f"“{text[:SHOWN]}…” is longer than {LONGEST} letters. Make it shorter.")
    try:
        text.encode("utf-8")
    except UnicodeEncodeError as error:
        raise PlanError("A name or note holds letters that cannot be saved. Write it anew.") from error
    if any((sign < " " and sign not in ALLOWED_CONTROLS) or sign in "\x7f\ufffe\uffff" for sign in text):
        raise PlanError("A name or note holds control characters, which cannot be printed. Write it anew.")
