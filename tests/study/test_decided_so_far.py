"""A finding that was kept stays so for the rows it had, and is open again once it names more."""

from hourglass.analysis.prepare.finding_views import open_findings
from hourglass.study.actions.follow_up import FindingDecided
from hourglass.study.commands.follow_up import Choice, decide_finding
from hourglass.study.decided_so_far import kept_findings
from hourglass.study.demos import load_demo
from hourglass.study.findings import findings_of
from hourglass.study.history import NewDecision
from hourglass.study.source import source_of


def test_keeping_a_finding_notes_how_many_rows_it_had(repository, blobs):
    study = repository.load(load_demo(repository, blobs, "larkmoor_as_received")[0])
    source = source_of(study, blobs)
    found = findings_of(source, study.file.read_at.date())
    finding = next(f for f in found if f.choice("keep") is not None and f.rows.size > 1)
    rows = int(finding.rows.size)
    study = decide_finding(repository, study, source, Choice(finding.key, "keep", "as they are"))
    assert kept_findings(study) == {finding.key: rows}
    assert finding.key not in [f.key for f in open_findings(found, kept_findings(study))]
    fewer = {finding.key: rows - 1}
    assert finding.key in [f.key for f in open_findings(found, fewer)]


def test_a_finding_kept_twice_is_kept_for_the_most_rows_that_it_had(repository):
    study = repository.load(repository.create("A study"))
    for rows in (5, 3):
        action = FindingDecided(
            finding="zero time", choice="keep", rows=rows, title="", done="kept"
        )
        study = repository.append(study, NewDecision(action=action), study.snapshot)
    assert kept_findings(study) == {"zero time": 5}
