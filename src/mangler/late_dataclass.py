"""`dataclass` as in the standard library, but a class gets its methods when it is first used.

The standard decorator compiles six methods of every class while its module is loaded. Of the classes that a command
loads it uses half, and to make those of the others took a tenth of the time of a small run.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from dataclasses import dataclass as dataclass
else:
    import dataclasses
    from threading import RLock

    _ONE_AT_A_TIME = RLock()

    def dataclass(cls: type | None = None, /, **options: bool) -> Any:
        """The class as it is. The first instance of it, and whoever asks for its fields, makes its methods."""
        if cls is None:
            return lambda known: _begun(known, options)
        return _begun(cls, options)

    def _begun(cls: type, options: dict[str, bool]) -> type:
        pending = _Pending(cls, options)

        def new(kind: type, /, *_args: Any, **_named: Any) -> Any:
            """Every instance comes from here, also one that is copied or unpickled."""
            pending.complete()
            return object.__new__(kind)

        cls.__new__ = staticmethod(new)
        cls.__dataclass_fields__ = pending
        cls.__signature__ = _SIGNATURE
        return cls

    def _new(kind: type, /, *_args: Any, **_named: Any) -> Any:
        """In the place of the first: without `__new__`, Python would refuse arguments to a class that once had it."""
        return object.__new__(kind)

    class _Signature:
        """What `help` and `inspect` say of a class: the arguments of its `__init__`, and not those of `__new__`."""

        def __get__(self, instance: Any, owner: type) -> Any:
            from inspect import signature

            dataclasses.fields(owner)  # makes the methods
            whole = signature(owner.__init__)
            return whole.replace(parameters=list(whole.parameters.values())[1:])

    _SIGNATURE = _Signature()

    class _Pending:
        """What a class still lacks. It is where the fields will be."""

        def __init__(self, cls: type, options: dict[str, bool]) -> None:
            self._class, self._options = cls, options

        def __get__(self, instance: Any, owner: type) -> Any:
            self.complete()
            return owner.__dataclass_fields__

        def complete(self) -> None:
            """Makes the methods. Another thread waits until they are there."""
            with _ONE_AT_A_TIME:
                if self._class.__dict__["__dataclass_fields__"] is self:
                    dataclasses.dataclass(**self._options)(self._class)
                    self._class.__new__ = staticmethod(_new)
