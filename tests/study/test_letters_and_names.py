"""The views of a stage: letters that stay, and names by what differs."""

from hourglass.analysis.compare.field_words import COMPARE_WORDS
from hourglass.study.commands.figures import set_tracks
from hourglass.study.commands.statements import begin_analysis, remove_analysis
from hourglass.study.commands.undoing import undo
from hourglass.study.in_memory import InMemory
from hourglass.study.view_keys import stage_of_view, view_key
from hourglass.study.views import letters, names_of_views


def shown(study):
    """The letters of the views that are there, in their order."""
    known = letters(study, "compare")
    return [known[a.id] for a in study.of_stage("compare")]


def begun(repository, study, body=None, like=None):
    return begin_analysis(repository, repository.load(study.id), "compare", "", body, like)


def test_a_letter_is_given_once_also_after_its_view_is_gone():
    repository = InMemory()
    study = repository.load(repository.create("A study"))
    study, two = begun(repository, study)
    study, three = begun(repository, study)
    assert letters(repository.load(study.id), "compare")[three] == "C"
    remove_analysis(repository, repository.load(study.id), two)
    begun(repository, study)
    assert shown(repository.load(study.id)) == ["A", "C", "D"]
    undo(repository, repository.load(study.id))
    begun(repository, study)
    assert shown(repository.load(study.id)) == ["A", "C", "E"]
    for _ in range(22):
        begun(repository, study)
    assert shown(repository.load(study.id))[-2:] == ["Z", "AA"]


def test_a_duplicate_shows_the_tracks_of_its_original():
    repository = InMemory()
    study = repository.load(repository.create("A study"))
    study, two = begun(repository, study, {"by": "arm"})
    set_tracks(repository, repository.load(study.id), "compare B", [{"id": "difference"}])
    made, _ = begun(repository, study, {"by": "arm"}, two)
    assert made.snapshot.tracks["compare C"] == [{"id": "difference"}]
    other, _ = begun(repository, study)
    assert "compare D" not in other.snapshot.tracks


def test_a_view_is_called_by_what_the_others_do_not_state():
    bodies = [
        {"stage": "compare", "by": "arm", "weight": "log-rank", "within": []},
        {"stage": "compare", "by": "arm", "weight": "peto-peto", "within": []},
        {"stage": "compare", "by": "eye", "weight": "log-rank", "within": ["centre"]},
    ]
    named = names_of_views(["", "", ""], bodies, COMPARE_WORDS)
    assert named[0] == "Comparison by arm, test log-rank"
    assert named[2] == "Comparison by eye, test log-rank, strata centre"
    assert names_of_views(["", "Mine", ""], bodies, COMPARE_WORDS)[1] == "Mine"
    assert names_of_views(["", ""], bodies[:1] * 2, COMPARE_WORDS) == ["", ""]


def test_the_first_view_is_kept_under_the_name_of_its_stage():
    assert view_key("estimate", "A") == "estimate"
    assert [stage_of_view(view_key("check", letter)) for letter in ("A", "B", "AB")] == [
        "check"
    ] * 3
    assert view_key("check", "B") != view_key("check", "AB")
