"""What ``audit`` prints: a line a finding, and what they come to."""

from collections import Counter
from collections.abc import Iterable

from pickcrate.cli.lists import write_json
from pickcrate.cli.terminal import Out
from pickcrate.cli.text import count, shown
from pickcrate.crate.inspection import Discrepancy, Trouble
from pickcrate.run.auditing import Audited

_STYLES = {
    Trouble.MISSING: "red",
    Trouble.ALTERED: "yellow",
    Trouble.BROKEN: "red",
}


def show_audit(events: Iterable[Discrepancy | Audited], out: Out, *, as_data: bool = False) -> list[Discrepancy]:
    """Print what an audit finds, for people or as JSON Lines; return what is not as it was fetched."""
    findings: list[Discrepancy] = []
    for event in events:
        if isinstance(event, Discrepancy):
            findings.append(event)
            if as_data:
                row = {"trouble": event.trouble.value, "file": event.file, "words": event.words}
                write_json(row)
                continue
            out.line(
                (f"{event.trouble.value:8} ", _STYLES.get(event.trouble, "dim")),
                shown(event.file),
                (f"  {event.words}", "dim"),
            )
            continue
        tally = Counter(finding.trouble for finding in findings)
        parts = [f"{number:,} {trouble.value}" for trouble, number in tally.items()]
        said = " · ".join(parts) if parts else "all as they were fetched"
        out.line((f"{count(event.files, 'file')} of the ledger looked at: {said}", "bold"))
    return [finding for finding in findings if finding.trouble is not Trouble.UNENDED]
