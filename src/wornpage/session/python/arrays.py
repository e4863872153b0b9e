"""Arrays of NumPy as they are kept and told apart: with their layout, and with whose memory they look at.

An array owns its memory, or is a view of one that does, or looks at a part of something larger or foreign. All three can be
told by code (`base`, `flags`, `resize`), and views of one array share what is written to either, so all three come
back as they were. What libraries hold inside their own containers is told by content alone.
"""

from __future__ import annotations

import pickle
import sys
from typing import Any

_MANY = 16
"""A view goes with the whole array it looks at as long as that is not so many times larger; else it is a part."""
_SMALL = 4096


class Plain:
    """An array inside a library's container: whose memory it looks at is nobody's business."""

    __slots__ = ("array",)

    def __init__(self, array: object) -> None:
        self.array = array


def is_array(value: object) -> bool:
    """Whether a value is an array of NumPy itself, of no kind derived from it."""
    numpy = sys.modules.get("numpy")
    return numpy is not None and type(value) is numpy.ndarray


def is_any_array(value: object) -> bool:
    """Whether a value is an array of NumPy, or of a kind derived from it."""
    numpy = sys.modules.get("numpy")
    return numpy is not None and isinstance(value, numpy.ndarray)


def is_locked_kind(value: Any) -> bool:
    """Whether a value is an array of a derived kind that must not be written to, which such kinds forget to tell."""
    return is_any_array(value) and not value.flags.writeable


def is_of_a_file(array: object) -> bool:
    """Whether an array looks at a file that is mapped into memory: what is written to it goes there."""
    base = array
    while base is not None:
        if type(base).__name__ in {"memmap", "mmap"}:
            return True
        base = base.obj if type(base) is memoryview else getattr(base, "base", None)
    return False


def warns_of_writing(array: Any) -> bool:
    """Whether an array warns when it is first written to, as those made by broadcasting do; no copy of it would."""
    return bool(array.flags.num & _WARNS)


_WARNS = 1 << 31
"""`NPY_ARRAY_WARN_ON_WRITE` of NumPy's ndarraytypes.h."""


def whole_of(array: Any) -> Any:
    """The array that an array is a view of; None for one that owns its memory or looks at part of something larger."""
    base = array.base
    if not is_array(base) or not base.flags.owndata or base.nbytes > _MANY * array.nbytes + _SMALL:
        return None
    return base


def told(array: Any) -> tuple[object, ...] | None:
    """What an array is, for its fingerprint; None for the usual one, which pickles itself."""
    layout = (array.shape, array.strides, array.flags.writeable)
    whole = whole_of(array)
    if whole is not None:
        return "view", array.dtype, *layout, _offset(array, whole), whole
    usual = array.flags.c_contiguous or array.flags.f_contiguous
    kind = "own" if array.flags.owndata else "part"
    if array.dtype.hasobject:
        return kind, *layout, array.tolist()
    if not usual:
        return kind, array.dtype, *layout, array.tobytes()
    return None if kind == "own" else (kind, Plain(array))


def plainly_told(array: Any) -> tuple[object, ...] | None:
    """The same for an array inside a library's container."""
    if array.dtype.hasobject:
        return "array", array.shape, array.strides, array.flags.writeable, array.tolist()
    if array.flags.c_contiguous or array.flags.f_contiguous:
        return None
    return "strided", array.dtype.str, array.shape, array.strides, array.flags.writeable, array.tobytes()


def _offset(array: Any, whole: Any) -> int:
    start: int = array.__array_interface__["data"][0] - whole.__array_interface__["data"][0]
    return start


# --- into the store and back ------------------------------------------------------------------


def reduced(array: Any) -> object:
    """How an array is pickled so that it comes back as it is, memory and all."""
    whole = whole_of(array)
    if whole is not None:
        return _view, (whole, array.dtype, array.shape, array.strides, _offset(array, whole), array.flags.writeable)
    if array.dtype.hasobject:
        return plainly_reduced(array)
    if array.flags.owndata:
        memory = array.ravel(order="K").view("u1")
        memory.flags.writeable = False  # it is copied when it comes back, and so need not be writable before
        return _own, (pickle.PickleBuffer(memory), array.dtype, array.shape, array.strides, array.flags.writeable)
    return _part, _part_of(array)


def plainly_reduced(array: Any) -> object:
    """The same for an array inside a library's container: it owns its memory if it did, or all that it looks at did."""
    if array.dtype.hasobject:
        return array.__reduce__() if array.flags.writeable else (*array.__reduce__(), None, None, _set_locked)
    whole = whole_of(array)
    if array.flags.owndata or (whole is not None and whole.nbytes == array.nbytes):
        return reduced(array)  # a view of it that code takes has a base that it could ask about
    if array.flags.c_contiguous or array.flags.f_contiguous:
        return array.__reduce_ex__(5)
    return _part, _part_of(array)


def with_plain_arrays(value: Any) -> object:
    """What a container of a library is made of, its arrays marked as inside of it."""
    if is_array(value):
        return Plain(value)
    if type(value) in {tuple, list}:
        return type(value)(map(with_plain_arrays, value))
    if type(value) is dict:
        return {key: with_plain_arrays(item) for key, item in value.items()}
    return value


def _set_locked(array: Any, state: object) -> None:
    """Fill an array of objects that must not be written to."""
    array.__setstate__(state)
    array.flags.writeable = False


def _own(memory: Any, dtype: Any, shape: Any, strides: Any, writeable: bool) -> object:
    import numpy

    made = numpy.ndarray(shape, dtype, memory, 0, strides).copy(order="K")
    made.flags.writeable = writeable
    return made


def _view(whole: Any, dtype: Any, shape: Any, strides: Any, offset: int, writeable: bool) -> object:
    import numpy

    made = numpy.ndarray(shape, dtype, whole, offset, strides)
    made.flags.writeable = writeable
    return made


def _part_of(array: Any) -> tuple[object, ...]:
    """An array's memory from its first byte to its last, and how to look at it."""
    import ctypes

    import numpy

    low, high = numpy.lib.array_utils.byte_bounds(array)
    start = array.__array_interface__["data"][0] - low
    data = ctypes.string_at(low, high - low)
    return data, array.dtype, array.shape, array.strides, start, array.flags.writeable


def _part(data: bytes, dtype: Any, shape: Any, strides: Any, offset: int, writeable: bool) -> object:
    import numpy

    made = numpy.ndarray(shape, dtype, bytearray(data), offset, strides)
    made.flags.writeable = writeable
    return made
