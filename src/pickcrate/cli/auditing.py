"""What ``audit`` prints: a line a finding, and what they come to."""

from collections import Counter
from collections.abc import Iterable

from pickcrate.addresses.url import without_userinfo
from pickcrate.cli.lists import write_json
from pickcrate.cli.terminal import Out
from pickcrate.cli.text import count, shown
from pickcrate.crate.inspection import HARMLESS, Discrepancy, Trouble
from pickcrate.orders.setting import ForOne
from pickcrate.run.auditing import Audited
from pickcrate.stores.hauled import hauled_at

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
            _show(event, out, as_data=as_data)
            continue
        tally = Counter(finding.trouble for finding in findings)
        parts = [f"{number:,} {trouble.value}" for trouble, number in tally.items()]
        said = " · ".join(parts) if parts else "all as they were fetched"
        out.line((f"{count(event.files, 'file')} of the ledger looked at: {said}", "bold"))
    return [finding for finding in findings if finding.trouble not in HARMLESS]


def _show(finding: Discrepancy, out: Out, *, as_data: bool) -> None:
    if as_data:
        write_json({"trouble": finding.trouble.value, "file": finding.file, "words": finding.words})
        return
    style = _STYLES.get(finding.trouble, "dim")
    out.line((f"{finding.trouble.value:8} ", style), shown(finding.file), (f"  {finding.words}", "dim"))


def audit_store(address: str, out: Out, form: ForOne, *, repairs: bool) -> bool:
    """Print what is wrong with the shards of a haul, and take back the receipts of broken loads if that is wanted.

    Return whether nothing is wrong. Raises UsageError, StoreError.
    """
    from pickcrate.haul.auditing import StoreAudited, audit, take_back  # noqa: PLC0415 (most audits are of crates)

    found = hauled_at(address)
    tally: Counter[Trouble] = Counter()
    for event in audit(found):
        if isinstance(event, Discrepancy):
            tally[event.trouble] += 1
            _show(event, out, as_data=form is ForOne.JSONL)
        elif isinstance(event, StoreAudited):
            looked_at = f"{count(event.pictures, 'picture')} in {count(event.shards, 'shard')} looked at"
            parts = [f"{number:,} {trouble.value}" for trouble, number in tally.items()]
            out.line((f"{looked_at}: {' · '.join(parts) or 'all as their receipts say'}", "bold"))
            again = f"pickcrate haul --resume {shown(without_userinfo(address))}"
            if event.loads and repairs:
                take_back(found, event.loads)
                out.line((f"{count(len(event.loads), 'receipt')} taken back; {again} packs these loads again", "cyan"))
            elif event.loads:
                out.line(("--repair takes back the receipts of what is broken: it is hauled again then", "cyan"))
    return not tally
