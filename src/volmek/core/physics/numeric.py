"""NumPy, imported when it is first used: sizing a starter without a run-up does not wait for it."""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

    Array = npt.NDArray[np.float64]
    ComplexArray = npt.NDArray[np.complex128]
else:
    Array = ComplexArray = Any

    class _OnFirstUse:
        def __getattr__(self, name: str) -> Any:
            import numpy

            value = getattr(numpy, name)
            setattr(self, name, value)
            return value

    np = _OnFirstUse()

__all__ = ["Array", "ComplexArray", "np"]
