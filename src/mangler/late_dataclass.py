"""`dataclass` as in the standard library, but a class gets its methods when it is first used.

The standard decorator compiles six methods of every class while its module is loaded. Of the classes that a command
loads it uses half, and to make those of the others took a tenth of the time of a small run. Of a class that is used
only `__init__` is compiled, and only where more than a few instances are made: to compile all methods took a tenth too.
The standard decorator finds the fields, and the methods do what its own do.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from dataclasses import dataclass as dataclass
else:
    import dataclasses
    from operator import attrgetter
    from reprlib import recursive_repr
    from threading import RLock

    _ONE_AT_A_TIME = RLock()
    _FEW = 16
    """Instances that are made before `__init__` is compiled. Most classes of a run never have so many."""

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
            init = owner.__init__
            whole = signature(init.compiled() if hasattr(init, "compiled") else init)
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
                    dataclasses.dataclass(init=False, repr=False, eq=False)(self._class)
                    _add_methods(self._class, self._options)
                    self._class.__new__ = staticmethod(_new)

    def _add_methods(cls: type, options: dict[str, bool]) -> None:
        """Adds the methods that the class has not defined itself."""
        found = dataclasses.fields(cls)
        is_frozen = options.get("frozen", False)
        own = {
            "__init__": _init(cls, found, is_frozen),
            "__repr__": _repr([one.name for one in found if one.repr]),
        }
        if options.get("eq", True):
            values = _values([one.name for one in found if one.compare])
            own["__eq__"] = _eq(values)
            own["__hash__"] = _hash(values) if is_frozen else None
        if is_frozen:
            own["__setattr__"], own["__delattr__"] = _frozen(cls, frozenset(one.name for one in found))
        for name, method in own.items():
            # A class with an __eq__ of its own has None for __hash__, which it did not ask for.
            if cls.__dict__.get(name) is None:
                if method is not None:
                    method.__qualname__ = f"{cls.__qualname__}.{name}"
                setattr(cls, name, method)

    def _init(cls: type, found: tuple[Any, ...], is_frozen: bool) -> Any:
        """An `__init__` that takes the place of a compiled one until it is worth while."""
        names = [one.name for one in found]
        known = frozenset(names)
        needed = frozenset(
            one.name
            for one in found
            if one.default is dataclasses.MISSING and one.default_factory is dataclasses.MISSING
        )
        put = object.__setattr__ if is_frozen else setattr
        has_more = hasattr(cls, "__post_init__")
        made = 0

        def compiled() -> Any:
            method = _compiled_init(found, is_frozen, has_more)
            method.__qualname__ = __init__.__qualname__
            cls.__init__ = method
            return method

        def __init__(_self: Any, /, *given: Any, **named: Any) -> None:  # noqa: N807
            nonlocal made
            made += 1
            values = dict(zip(names, given, strict=False)) | named
            is_sound = len(values) == len(given) + len(named) and known.issuperset(values)
            is_sound = is_sound and needed.issubset(values)
            if made > _FEW or not is_sound:  # the compiled one says what is wrong
                compiled()(_self, *given, **named)
                return
            for one in found:
                if one.name in values:
                    value = values[one.name]
                elif one.default_factory is not dataclasses.MISSING:
                    value = one.default_factory()
                else:
                    value = one.default
                put(_self, one.name, value)
            if has_more:
                _self.__post_init__()

        __init__.compiled = compiled
        return __init__

    def _compiled_init(found: tuple[Any, ...], is_frozen: bool, has_more: bool) -> Any:
        known: dict[str, Any] = {"_set": object.__setattr__, "_made": _MADE}
        arguments, lines = ["_self"], []
        for one in found:
            name = value = one.name
            if one.default_factory is not dataclasses.MISSING:
                known[f"_make_{name}"] = one.default_factory
                arguments.append(f"{name}=_made")
                value = f"_make_{name}() if {name} is _made else {name}"
            elif one.default is not dataclasses.MISSING:
                known[f"_default_{name}"] = one.default
                arguments.append(f"{name}=_default_{name}")
            else:
                arguments.append(name)
            lines.append(f"_set(_self, {name!r}, {value})" if is_frozen else f"_self.{name} = {value}")
        if has_more:
            lines.append("_self.__post_init__()")
        body = "\n ".join(lines or ["pass"])
        exec(f"def __init__({', '.join(arguments)}):\n {body}", known)
        method = known["__init__"]
        method.__annotations__ = {one.name: one.type for one in found} | {"return": None}
        return method

    class _Made:
        """Shown for a default that is made for each instance."""

        def __repr__(self) -> str:
            return "<made for each>"

    _MADE = _Made()

    def _values(names: list[str]) -> Any:
        """What gives the values of some fields as a tuple."""
        if len(names) > 1:
            return attrgetter(*names)
        return lambda one: tuple(getattr(one, name) for name in names)

    def _repr(names: list[str]) -> Any:
        @recursive_repr()
        def __repr__(self: Any) -> str:  # noqa: N807
            shown = ", ".join(f"{name}={getattr(self, name)!r}" for name in names)
            return f"{self.__class__.__qualname__}({shown})"

        return __repr__

    def _eq(values: Any) -> Any:
        def __eq__(self: Any, other: Any) -> Any:  # noqa: N807
            if other.__class__ is not self.__class__:
                return NotImplemented
            return values(self) == values(other)

        return __eq__

    def _hash(values: Any) -> Any:
        def __hash__(self: Any) -> int:  # noqa: N807
            return hash(values(self))

        return __hash__

    def _frozen(cls: type, names: frozenset[str]) -> tuple[Any, Any]:
        def __setattr__(self: Any, name: str, value: Any) -> None:  # noqa: N807
            if type(self) is cls or name in names:
                raise dataclasses.FrozenInstanceError(f"cannot assign to field {name!r}")
            super(cls, self).__setattr__(name, value)

        def __delattr__(self: Any, name: str) -> None:  # noqa: N807
            if type(self) is cls or name in names:
                raise dataclasses.FrozenInstanceError(f"cannot delete field {name!r}")
            super(cls, self).__delattr__(name)

        return __setattr__, __delattr__
