"""The machine: compiles formulas once for the whole process, keeps the code for the next, and runs programs of it."""

import ctypes
import ctypes.util
import threading
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

from llvmlite import binding, ir

from rhombos.core.graph.compiled.driver import lower_driver
from rhombos.core.graph.compiled.iteration import lower_iteration
from rhombos.core.graph.compiled.lower import LIBRARY, VECTORED, Lowering
from rhombos.core.graph.compiled.trace import Traced, TraceError, trace, unreduced

Key = tuple[Callable[..., Any], int]
"""A formula and its number of arguments."""

_LIBRARY_NAMES = (*LIBRARY, "exp", "log", "log10", "sin", "cos", "pow")


@dataclass(frozen=True)
class Code:
    """A compiled formula: where its code lies, and which parameters hand their corners on to its result.

    `prepared` numbers are worked out beforehand by the code at `preparation`, once for all corners; the parameters
    in `steady` must therefore not differ between them.
    """

    address: int
    unreduced: frozenset[int]
    prepared: int = 0
    preparation: int = 0
    steady: frozenset[int] = frozenset()


@dataclass(frozen=True)
class Fact:
    """What must be known of a compiled formula beside its code (see `Code`)."""

    unreduced: list[int]
    prepared: int
    steady: list[int]


Compiled = tuple[bytes, list[Fact | None]]
"""An object file with the facts of each formula in it; None for one that cannot be traced."""


class Keeper(Protocol):
    """Keeps compiled code between runs; the core itself knows no files."""

    def load(self, formulas: Sequence[Key], host: str) -> Compiled | None: ...

    def save(self, formulas: Sequence[Key], host: str, compiled: Compiled) -> None: ...


class Machine:
    """Compiled formulas by function and number of arguments; those that cannot be traced are remembered too."""

    def __init__(self) -> None:
        self._codes: dict[Key, Code | None] = {}
        self._lock = threading.Lock()
        self._engines: list[Any] = []
        self._target: Any = None
        self._vectored = False
        self.keeper: Keeper | None = None
        self.run: Callable[[int, int, int, int, int, int], None] = self._not_yet
        self.iterate: Callable[[int, int, int, int, int, int, float, int], None] = self._not_yet

    def _not_yet(self, *_: float) -> None:
        raise RuntimeError("nothing has been compiled yet")

    def compile(self, formulas: Iterable[Key]) -> dict[Key, Code | None]:
        """Codes of `formulas` (function, number of arguments), compiling what has not been; None where NumPy must do it."""
        with self._lock:
            wanted = list(dict.fromkeys(formulas))
            new = [f for f in wanted if f not in self._codes]
            if new:
                self._add(new)
            return {f: self._codes[f] for f in wanted}

    def _add(self, formulas: list[Key]) -> None:
        target = self._host()
        host = f"{'vectored ' if self._vectored else ''}{target.triple} {binding.get_host_cpu_name()} {binding.get_host_cpu_features().flatten()}"
        found = self.keeper.load(formulas, host) if self.keeper else None
        if found is None:
            module, facts = _written(formulas, vectored=self._vectored)
            found = _object(module, target), facts
            if self.keeper:
                self.keeper.save(formulas, host, found)
        code, facts = found
        engine = binding.create_mcjit_compiler(binding.parse_assembly(""), target)
        engine.add_object_file(binding.ObjectFileRef.from_data(code))
        engine.finalize_object()
        self._engines.append(engine)
        for k, (key, fact) in enumerate(zip(formulas, facts, strict=True)):
            self._codes[key] = None if fact is None else _code(engine, k, fact)
        if len(self._engines) == 1:
            words = (ctypes.c_void_p, ctypes.c_void_p, ctypes.c_int64, ctypes.c_void_p, ctypes.c_int64, ctypes.c_int64)
            self.run = ctypes.CFUNCTYPE(None, *words)(engine.get_function_address("run"))
            self.iterate = ctypes.CFUNCTYPE(None, *words, ctypes.c_double, ctypes.c_void_p)(engine.get_function_address("iterate"))

    def _host(self) -> Any:
        if self._target is None:
            binding.initialize_native_target()
            binding.initialize_native_asmprinter()
            _name_library()
            self._vectored = _name_vector_library()
            features = binding.get_host_cpu_features().flatten()
            self._target = binding.Target.from_default_triple().create_target_machine(cpu=binding.get_host_cpu_name(), features=features, opt=2, jit=True)
        return self._target


def _code(engine: Any, k: int, fact: Fact) -> Code:
    prepare = engine.get_function_address(f"prepare_{k}") if fact.prepared else 0
    return Code(engine.get_function_address(f"figure_{k}"), frozenset(fact.unreduced), fact.prepared, prepare, frozenset(fact.steady))


def _written(formulas: list[Key], *, vectored: bool) -> tuple[ir.Module, list[Fact | None]]:
    """A module of all formulas with the driver, and what is to be known of each; None for those that cannot be traced."""
    module = ir.Module("figures")
    lower_driver(module)
    lower_iteration(module)
    facts: list[Fact | None] = []
    for k, (fn, count) in enumerate(formulas):
        try:
            traced = trace(fn, count)
        except TraceError:
            facts.append(None)
            continue
        Lowering(module, f"figure_{k}", traced, vectored=vectored).lower()
        if traced.steady:
            Lowering(module, f"prepare_{k}", Traced(traced.steady, (), count), vectored=vectored).lower()
        params = sorted(p for p in unreduced(*traced.results) if p < count)
        facts.append(Fact(params, len(traced.steady), sorted(unreduced(*traced.steady))))
    return module, facts


def _object(module: ir.Module, target: Any) -> bytes:
    """Machine code. Variables go into registers and common terms together; the full pipeline takes seconds and gains little."""
    module.triple = target.triple
    parsed = binding.parse_assembly(str(module))
    builder = binding.create_pass_builder(target, binding.create_pipeline_tuning_options())
    passes = binding.create_new_module_pass_manager()
    passes.add_sroa_pass()
    passes.add_new_gvn_pass()
    passes.run(parsed, builder)
    return bytes(target.emit_object(parsed))


def _name_vector_library() -> bool:
    """Tell the linker where the vector library's functions are, if this machine has them."""
    if not binding.get_host_cpu_features().get("avx2", False):
        return False
    try:
        library = ctypes.CDLL("libmvec.so.1")
        addresses = {name: ctypes.cast(getattr(library, name), ctypes.c_void_p).value for name in VECTORED.values()}
    except (OSError, AttributeError):
        return False
    for name, address in addresses.items():
        assert address is not None
        binding.add_symbol(name, address)
    return True


def _name_library() -> None:
    """Tell the linker where the C library's functions are."""
    library = ctypes.CDLL(ctypes.util.find_library("m"))
    for name in _LIBRARY_NAMES:
        address = ctypes.cast(getattr(library, name), ctypes.c_void_p).value
        assert address is not None
        binding.add_symbol(name, address)


MACHINE = Machine()
