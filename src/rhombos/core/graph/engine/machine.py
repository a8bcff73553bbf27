"""The machine: the kernels and the loops' iteration as native code, made once when the process first solves."""

import ctypes
import ctypes.util
import threading
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from llvmlite import binding, ir

from rhombos.core.graph.engine.arithmetic import LIBRARY, VECTORED
from rhombos.core.graph.engine.calming import lower_calming
from rhombos.core.graph.engine.iteration import lower_iteration
from rhombos.core.graph.engine.judging import lower_judging
from rhombos.core.graph.engine.kept_code import kept
from rhombos.core.graph.engine.kernels import lower_run
from rhombos.core.graph.engine.lanes import lower_lanes
from rhombos.core.graph.engine.passing import lower_passing

_LIBRARY_NAMES = (*LIBRARY, "exp", "log", "log10", "sin", "cos", "pow")


_AT, _COUNT, _NUMBER = ctypes.c_void_p, ctypes.c_int64, ctypes.c_double
_RUN, _PASS = (_AT, _AT, _COUNT, _AT, _COUNT, _COUNT), (_AT, _AT, _COUNT, _COUNT, _AT, _COUNT, _AT)
_FUNCTIONS: dict[str, tuple[Any, ...]] = {
    "run": (None, *_RUN),
    "iterate": (None, *_RUN, _NUMBER, _AT),
    "judge": (None, _AT, _COUNT),
    "pass_on": (_COUNT, *_PASS),
    "pass_blocks": (_COUNT, *_PASS, _COUNT),
    "calm": (_COUNT, _AT),
    "take_lanes": (None, _AT, _AT, _COUNT, _COUNT, _AT, _AT),
}
"""What each gives back and takes."""


class Machine:
    """`run` works a program through, `iterate` brings a loop to rest, `judge` decides a pick, `pass_on` makes an outer pass of all of it, `calm` as many as it takes, `pass_blocks` of many variants, `take_lanes` moves variants; they are made at the first use."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._engine: Any = None
        self._vectored = False
        self.run: Callable[[int, int, int, int, int, int], None] = partial(self._first, "run")
        self.iterate: Callable[[int, int, int, int, int, int, float, int], None] = partial(self._first, "iterate")
        self.judge: Callable[[int, int], None] = partial(self._first, "judge")
        self.pass_on: Callable[[int, int, int, int, int, int, int], int] = partial(self._first, "pass_on")
        self.pass_blocks: Callable[[int, int, int, int, int, int, int, int], int] = partial(self._first, "pass_blocks")
        self.calm: Callable[[int], int] = partial(self._first, "calm")
        self.take_lanes: Callable[[int, int, int, int, int, int], None] = partial(self._first, "take_lanes")

    def _first(self, name: str, *words: float) -> Any:
        """Make the native code, and do with it what was asked for."""
        self.ready()
        return getattr(self, name)(*words)

    def ready(self) -> None:
        """Make the native code, if it is not there."""
        with self._lock:
            if self._engine is not None:
                return
            binding.initialize_native_target()
            binding.initialize_native_asmprinter()
            _name_library()
            self._vectored = _name_vector_library()
            processor = f"{binding.get_default_triple()} {binding.get_host_cpu_name()} {binding.get_host_cpu_features().flatten()} {self._vectored}"
            self._engine = _loaded(kept(processor, self._made))
            for name, (result, *words) in _FUNCTIONS.items():
                setattr(self, name, ctypes.CFUNCTYPE(result, *words)(self._engine.get_function_address(name)))

    def _made(self) -> bytes:
        """The object code of everything."""
        module = ir.Module("kernels")
        lower_run(module, vectored=self._vectored)
        lower_iteration(module)
        lower_judging(module)
        lower_passing(module)
        lower_calming(module)
        lower_lanes(module)
        return _object_of(module)

    def vectored(self) -> bool:
        """Whether this machine has the vector library."""
        self.ready()
        return self._vectored

    def link(self, module: ir.Module, names: Sequence[str]) -> tuple[dict[str, int], object]:
        """Make functions native beside the kernels: where each lies, and what has to be kept for as long as one may be called."""
        self.ready()
        engine = _loaded(_object_of(module))
        return {name: engine.get_function_address(name) for name in names}, engine


def _target() -> Any:
    features = binding.get_host_cpu_features().flatten()
    return binding.Target.from_default_triple().create_target_machine(cpu=binding.get_host_cpu_name(), features=features, opt=2, jit=True)


def _object_of(module: ir.Module) -> bytes:
    """Native code for this processor. Variables go into registers and common terms together; the full pipeline gains little."""
    target = _target()
    module.triple = target.triple
    parsed = binding.parse_assembly(str(module))
    builder = binding.create_pass_builder(target, binding.create_pipeline_tuning_options(speed_level=2))
    builder.getModulePassManager().run(parsed, builder)
    code: bytes = target.emit_object(parsed)
    return code


def _loaded(code: bytes) -> Any:
    """Object code where it can be called."""
    engine = binding.create_mcjit_compiler(binding.parse_assembly(""), _target())
    engine.add_object_file(binding.ObjectFileRef.from_data(code))
    engine.finalize_object()
    return engine


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
