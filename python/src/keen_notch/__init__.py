"""Pieces out of a column of codes, by the language of cuts and the jigs of Keen Notch.

The work is done by the program `notch`, which comes with this package: tables go to it as Arrow
streams and come back so. What can be cut, and what jigs are, is told in its documentation;
`notch words` on the command line lists the language.
"""

from .commands import carve, check, learn, survey
from .running import NotchError, Problem, program, version
from .results import (
    Carved,
    ColumnReport,
    ColumnSurvey,
    Finding,
    Layout,
    LearntCut,
    Learned,
    ProposedCut,
    Question,
    Reason,
    Report,
    Survey,
)

__all__ = [
    "Carved",
    "ColumnReport",
    "ColumnSurvey",
    "Finding",
    "Layout",
    "LearntCut",
    "Learned",
    "NotchError",
    "Problem",
    "ProposedCut",
    "Question",
    "Reason",
    "Report",
    "Survey",
    "carve",
    "check",
    "learn",
    "program",
    "survey",
    "version",
]
