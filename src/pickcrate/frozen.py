"""Values: what is complete once it is built, and never changed."""

from dataclasses import dataclass, field, fields
from operator import attrgetter
from typing import Any, TypeVar, dataclass_transform

T = TypeVar("T")


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
def frozen(cls: type[T]) -> type[T]:
    """Make a dataclass with slots of a class, whose fields a type checker lets nobody assign to.

    It is not frozen at run time: a constructor that is takes six times as long, and every picture is a dozen values.
    Comparing, hashing and showing are the same few functions for all, where ``dataclass`` compiles them for each.
    """
    made: type[Any] = dataclass(slots=True, eq=False, repr=False)(cls)
    names = [field.name for field in fields(made)]
    made._values = staticmethod(attrgetter(*names) if names else type)  # noqa: SLF001 (it is our own)
    for special in (_eq, _hash, _repr):
        name = f"__{special.__name__.strip('_')}__"
        if name not in cls.__dict__:
            setattr(made, name, special)
    return made


def _eq(self: Any, other: Any) -> Any:
    return self._values(self) == self._values(other) if other.__class__ is self.__class__ else NotImplemented


def _hash(self: Any) -> int:
    return hash(self._values(self))


def _repr(self: Any) -> str:
    shown = ", ".join(f"{field.name}={getattr(self, field.name)!r}" for field in fields(self))
    return f"{type(self).__qualname__}({shown})"
