"""The machine: the kernels and the loops' iteration as native code, made once when the process first solves."""

import ctypes
import ctypes.util
import threading
from collections.abc import Callable, Sequence
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


class Machine:
    """`run` works a program through, `iterate` brings a loop to rest, `judge` decides a pick, `pass_on` makes an outer pass of all of it, `calm` as many as it takes, `pass_blocks` of many variants, `take_lanes` moves variants; they are made at the first use."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._engine: Any = None
        self._vectored = False
        self.run: Callable[[int, int, int, int, int, int], None] = self._first_run
        self.iterate: Callable[[int, int, int, int, int, int, float, int], None] = self._first_iterate
        self.judge: Callable[[int, int], None] = self._first_judge
        self.pass_on: Callable[[int, int, int, int, int, int, int], int] = self._first_pass
        self.pass_blocks: Callable[[int, int, int, int, int, int, int, int], int] = self._first_blocks
        self.calm: Callable[[int], int] = self._first_calm
        self.take_lanes: Callable[[int, int, int, int, int, int], None] = self._first_lanes

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
            words = (ctypes.c_void_p, ctypes.c_void_p, ctypes.c_int64, ctypes.c_void_p, ctypes.c_int64, ctypes.c_int64)
            self.run = ctypes.CFUNCTYPE(None, *words)(self._engine.get_function_address("run"))
            self.iterate = ctypes.CFUNCTYPE(None, *words, ctypes.c_double, ctypes.c_void_p)(self._engine.get_function_address("iterate"))
            passing = (ctypes.c_void_p, ctypes.c_void_p, ctypes.c_int64, ctypes.c_int64, ctypes.c_void_p, ctypes.c_int64, ctypes.c_void_p)
            self.pass_on = ctypes.CFUNCTYPE(ctypes.c_int64, *passing)(self._engine.get_function_address("pass_on"))
            self.pass_blocks = ctypes.CFUNCTYPE(ctypes.c_int64, *passing, ctypes.c_int64)(self._engine.get_function_address("pass_blocks"))
            self.calm = ctypes.CFUNCTYPE(ctypes.c_int64, ctypes.c_void_p)(self._engine.get_function_address("calm"))
            lanes = (ctypes.c_void_p, ctypes.c_void_p, ctypes.c_int64, ctypes.c_int64, ctypes.c_void_p, ctypes.c_void_p)
            self.take_lanes = ctypes.CFUNCTYPE(None, *lanes)(self._engine.get_function_address("take_lanes"))
            self.judge = ctypes.CFUNCTYPE(None, ctypes.c_void_p, ctypes.c_int64)(self._engine.get_function_address("judge"))

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

    def _first_run(self, *words: int) -> None:
        self.ready()
        self.run(*words)  # type: ignore[call-arg]

    def _first_iterate(self, *words: float) -> None:
        self.ready()
        self.iterate(*words)  # type: ignore[call-arg,arg-type]

    def _first_judge(self, *words: int) -> None:
        self.ready()
        self.judge(*words)  # type: ignore[call-arg]

    def _first_pass(self, *words: int) -> int:
        self.ready()
        return self.pass_on(*words)  # type: ignore[call-arg]

    def _first_calm(self, call: int) -> int:
        self.ready()
        return self.calm(call)

    def _first_lanes(self, *words: int) -> None:
        self.ready()
        self.take_lanes(*words)  # type: ignore[call-arg]

    def _first_blocks(self, *words: int) -> int:
        self.ready()
        return self.pass_blocks(*words)  # type: ignore[call-arg]


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
