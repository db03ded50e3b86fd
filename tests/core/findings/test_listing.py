"""Margin notes with their numbers: what says the same is one note, hands stand between errors and warnings."""

from __future__ import annotations

import pytest

from orvik.core.errors import FindingRefused
from orvik.core.findings.acceptance import Acceptance, Judged
from orvik.core.findings.finding import Finding
from orvik.core.findings.listing import keys_of, left_over, listed
from orvik.core.findings.margin_note import LONGEST_TEXT, Answer, MarginNote
from orvik.core.findings.taken_proof import TakenProof, told_as

AT = "2026-07-02T10:00:00+00:00"


def finding(number: int, rule: str = "dangle", severity: str = "error", shared: str = "") -> Finding:
    return Finding(rule, severity, f"{rule} {number}", (1.0, 2.0), (("lines", number),), shared=shared)


def pinned(number: int, sheet: int = 1, settled: bool = False, answers: tuple[Answer, ...] = ()) -> MarginNote:
    return MarginNote(f"Note {number}", "AM", AT, sheet=sheet, settled=settled, answers=answers, id=number)


COARSE = [finding(i, "coarse", "warning", "features were digitized at 1:50 000.") for i in range(1, 5)]


def test_errors_come_first_then_hands_then_warnings_each_numbered_once() -> None:
    judged = Judged((finding(1), finding(2), *COARSE, finding(9, "outside", "warning")))
    notes = listed(judged, [pinned(5), pinned(6, sheet=2), pinned(7, settled=True)], 1, {5: (3.0, 4.0)})
    assert [note.number for note in notes] == [1, 2, 3, 4, 5]
    assert [note.severity for note in notes] == ["error", "error", "note", "warning", "warning"]
    assert notes[3].message == "4 features were digitized at 1:50 000."
    assert notes[2].spots == ((3.0, 4.0),)
    assert sorted(key for note in notes for key in keys_of(note)) == sorted(
        [finding.key for finding in judged.open] + ["note 5"]
    )
    # Two of which the same is said are two.
    assert len(listed(Judged(tuple(COARSE[:2])))) == 2


def test_what_is_answered_to_all_that_say_the_same_stays_when_the_first_is_mended() -> None:
    (note,) = listed(Judged(tuple(COARSE)))
    said = MarginNote(note.message, "AM", AT, note.thread_key, answers=(Answer("All from one sheet.", "BR", AT),), id=1)
    for left in (COARSE, COARSE[1:], COARSE[2:3]):
        judged = Judged(tuple(left))
        assert listed(judged, [said])[0].written is said
        assert left_over(judged, [said], None) == []
    assert left_over(Judged(()), [said], None) == [said]


def test_new_is_what_the_last_proof_did_not_tell() -> None:
    judged = Judged((finding(1), *COARSE))
    hands = [pinned(5, answers=(Answer("Yes.", "BR", AT, id=3),))]
    before = listed(judged, hands, 1)
    last = TakenProof("AM", AT, frozenset(told_as(key) for note in before for key in keys_of(note)))
    assert not any(note.is_new for note in listed(judged, hands, 1, last=last))
    # Another error, another feature of a note, another answer.
    again = Judged((finding(1), finding(2), *COARSE, finding(8, "coarse", "warning", COARSE[0].shared)))
    hands = [pinned(5, answers=(*hands[0].answers, Answer("No.", "AM", AT, id=4))), pinned(6)]
    new = [note.message for note in listed(again, hands, 1, last=last) if note.is_new]
    assert new == ["dangle 2", "Note 5", "Note 6", "5 features were digitized at 1:50 000."]
    # Without a proof nothing is new.
    assert not any(note.is_new for note in listed(again, hands, 1))


def test_what_is_settled_or_told_no_more_is_left_over() -> None:
    accepted = Acceptance(finding(2).key, "{}", "dangle 2", "As it is.", "HQ", "2026-07-02", 1)
    judged = Judged((finding(1),), ((finding(2), accepted),))
    notes = [MarginNote(f"dangle {i}", "AM", AT, finding(i).key, id=i) for i in (1, 2, 3)]
    notes += [pinned(11), pinned(12, settled=True), pinned(13, sheet=2, settled=True)]
    assert [note.id for note in left_over(judged, notes, 1)] == [3, 12]


@pytest.mark.parametrize(
    ("text", "author", "given"),
    [(" ", "AM", ""), ("x" * (LONGEST_TEXT + 1), "AM", ""), ("x", "", ""), ("x", "A" * 61, ""), ("x", "AM", "B" * 61)],
)
def test_a_note_says_something_and_is_signed(text: str, author: str, given: str) -> None:
    with pytest.raises(FindingRefused):
        MarginNote(text, author, AT, sheet=1, given_to=given)
