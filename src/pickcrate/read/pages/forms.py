"""What the controls of a form are (HTML standard, 4.10.5, 4.10.6)."""

from selectolax.lexbor import LexborNode

SUBMITTING = frozenset(("submit", "image"))
"""kinds of controls that send their form"""

NOTHING_SENT = "="
"""what stands for a form without any entry, which is posted all the same"""


def control_kind(control: LexborNode) -> str:
    """Return the type of an ``input`` or ``button``, in lower case; the name of the element for any other control."""
    if control.tag in {"select", "textarea"}:
        return control.tag
    return (control.attributes.get("type") or ("submit" if control.tag == "button" else "text")).strip().lower()
