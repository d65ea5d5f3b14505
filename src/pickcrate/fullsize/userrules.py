"""The user's own conventions: ``--rule 'PATTERN => REPLACEMENT'``, and files of them."""

from msgspec import Struct

from pickcrate.addresses.url import absolute, is_web
from pickcrate.errors import UsageError
from pickcrate.text.expression import Expression
from pickcrate.values.evidence import Basis, Evidence
from pickcrate.values.image import Candidate

_HINT = r"for example --rule '/small/(.+)-\d+\.jpg => /large/\1.jpg'"


class UserRule(Struct, frozen=True):
    """One pattern, searched in the whole address, and what takes its place, with the pattern's groups."""

    text: str
    pattern: Expression
    replacement: str

    def apply(self, url: str) -> Candidate | None:
        """Return what the rule makes of an address, or None if it does not fit."""
        match = self.pattern.search(url)
        if match is None:
            return None
        made = absolute(url[: match.start()] + match.expand(self.replacement) + url[match.end() :], url)
        if made is None or made == url or not is_web(made):
            return None
        return Candidate(made, Evidence(Basis.RULE, self.text, is_sure=False))


def parse_rule(text: str, option: str = "--rule") -> UserRule:
    """Return the rule that ``text`` spells; a UsageError names ``option``."""
    pattern, arrow, replacement = (part.strip() for part in text.partition("=>"))
    if not (pattern and arrow):
        raise UsageError(f"{option} {text!r}: a rule is PATTERN => REPLACEMENT", hint=_HINT)
    compiled = Expression(pattern, option, _HINT, typed=text)
    compiled.check_replacement(replacement)
    return UserRule(text, compiled, replacement)


def parse_rules(text: str, name: str) -> list[UserRule]:
    """Return the rules of a file: one a line; blank lines and those that start with ``#`` are passed over."""
    lines = (line.strip() for line in text.splitlines())
    return [parse_rule(line, f"--rules {name}:") for line in lines if line and not line.startswith("#")]
