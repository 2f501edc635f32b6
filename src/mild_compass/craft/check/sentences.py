"""What is said where a drawing cannot be compared, and what would help."""

from __future__ import annotations

NO_SHEET = (
    "No sheet of paper can be told from its ground in this photo. Lay it on something darker and take all four corners "
    "in, or put the corners on by hand."
)
TOO_FAR = "The sheet is too small in this photo to measure on it. Go nearer, so that it fills the picture."
PAINTED = "This sheet is painted: lines cannot be told in it any more. Its values can be compared with the plan's."
BLANK = (
    "Nothing is drawn on this sheet yet, or so lightly that the photo does not show it. Take it again in better light."
)
NOT_THIS = (
    "What is drawn on this sheet does not follow this plan, or too little is drawn yet to tell. Nothing is compared."
)
NO_LINES = "The plan has no lines yet that a drawing could follow. Choose lines, shapes or masses for the sheet first."
FEW_LINES = "The plan has too few lines to compare a drawing with."
SCANNED = (
    "No edge of the sheet is to be seen: the whole picture is taken for it, as from a scanner. Put the corners on by "
    "hand where that is not so."
)

BY_CHANCE = (
    "So many parts would be off in this drawing, and all of it askew, that none is told: most lines lie under tones. "
    "Compare it by eye under Plan over drawing; a photo taken before tones are laid in tells more."
)


def too_small(longest_px: int, wanted_px: int) -> str:
    """A photo with too few pixels."""
    return (
        f"This photo is only {longest_px} pixels long, too few to measure a drawing on. Take it again with at least "
        f"{wanted_px}, or send the original instead of a small copy."
    )


def other_proportion(ratio: float, name: str, wanted: float, paper: str) -> str:
    """A sheet that is not as long for its width as that of the plan."""
    like = f", like {name}" if name else ""
    return (
        f"The sheet in this photo is {ratio:.2f} times as long as wide{like}; the plan is for {paper}, {wanted:.2f} "
        "times. Is it the right sheet, and are these its corners?"
    )


def covered(share: float) -> str:
    """Something lies over the sheet, and nothing can be told."""
    return f"Something lies over {share:.0%} of the sheet. Take it away and take the photo again."


def partly_covered(share: float) -> str:
    """Something lies over part of the sheet."""
    return f"Something lies over {share:.0%} of the sheet; what is under it is not judged."
