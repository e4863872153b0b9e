"""On Linux: have the system end this process before it changes anything that others see, whichever code tries to, also in C.

A filter for system calls (`seccomp`), written for the two kinds of processors that nearly all machines have. It cannot be
taken off again. Sources: the manual page seccomp(2), and the kernel's tables of system calls.
"""

from __future__ import annotations

import ctypes
import os
import struct

_LOAD, _IF_EQUAL, _IF_BITS, _RETURN = 0x20, 0x15, 0x45, 0x06
_ALLOW, _END, _IS_NOT_THERE = 0x7FFF0000, 0x80000000, 0x00050000 | 38
_NUMBER, _KIND, _FIRST_ARGUMENT = 0, 4, 16
_WRITES = os.O_WRONLY | os.O_RDWR | os.O_CREAT | os.O_TRUNC
_THREAD = 0x10000
_NO_NEW_RIGHTS, _FILTER_CALLS, _BY_PROGRAM = 38, 22, 2

# Of each kind of processor: how it is called, `open` with its flags in the argument of that place, `clone`, `fcntl`, and calls that end.
_X86 = (
    0xC000003E, {2: 1, 257: 2, 304: 2}, 56, 72,
    (41, 42, 44, 46, 49, 57, 58, 59, 62, 64, 68, 29, 73, 76, 82, 83, 84, 85, 86, 87, 88, 90, 91, 92, 93, 94, 101, 133, 188, 189, 190,
     129, 132, 197, 198, 199, 235, 258, 259, 260, 261, 263, 264, 265, 266, 268, 280, 307, 311, 316, 322, 424, 437),
)  # fmt: skip
_ARM = (
    0xC00000B7, {56: 2, 265: 2}, 220, 25,
    (32, 88, 138, 269, 424, 5, 6, 7, 14, 15, 16, 33, 34, 35, 36, 37, 38, 45, 52, 53, 54, 55, 117, 129, 186, 190, 194, 198, 200, 203, 206, 211, 221, 271,
     276, 281, 437),
)  # fmt: skip
_MACHINES = {"x86_64": _X86, "aarch64": _ARM, "arm64": _ARM}
_LOCKS = (6, 7, 37, 38)
"""What `fcntl` is told to lock a part of a file: whoever else opens it would find that."""
_CLONE_BY_STRUCT, _RING = 435, 425
"""Newer calls whose arguments cannot be looked at: the library goes back to the older ones where they are not there."""


def seal() -> bool:
    """Begin with it; False where the system has no such thing."""
    machine = _MACHINES.get(os.uname().machine)
    if machine is None or struct.calcsize("P") != 8:
        return False
    program = _program(*machine)
    code = ctypes.create_string_buffer(program, len(program))
    told = ctypes.create_string_buffer(struct.pack("H6xP", len(program) // 8, ctypes.addressof(code)))
    library = ctypes.CDLL(None, use_errno=True)
    if library.prctl(_NO_NEW_RIGHTS, 1, 0, 0, 0) != 0:
        return False
    return bool(library.prctl(_FILTER_CALLS, _BY_PROGRAM, told, 0, 0) == 0)


def _program(kind: int, opens: dict[int, int], clone: int, control: int, ending: tuple[int, ...]) -> bytes:
    """The filter: a line is an instruction, how far to jump if it is so and if not, and a number."""
    lines = [(_LOAD, 0, 0, _KIND), (_IF_EQUAL, 1, 0, kind), (_RETURN, 0, 0, _END), (_LOAD, 0, 0, _NUMBER)]
    for number, place in opens.items():
        lines += _by_bits(number, place, _WRITES, if_set=_END, if_not=_ALLOW)
    lines += _by_bits(clone, 0, _THREAD, if_set=_ALLOW, if_not=_END)
    lines += [(_IF_EQUAL, 0, 2 * len(_LOCKS) + 2, control), (_LOAD, 0, 0, _FIRST_ARGUMENT + 8)]
    for command in _LOCKS:
        lines += [(_IF_EQUAL, 0, 1, command), (_RETURN, 0, 0, _END)]
    lines.append((_RETURN, 0, 0, _ALLOW))
    for number in (_CLONE_BY_STRUCT, _RING):
        lines += [(_IF_EQUAL, 0, 1, number), (_RETURN, 0, 0, _IS_NOT_THERE)]
    for number in ending:
        lines += [(_IF_EQUAL, 0, 1, number), (_RETURN, 0, 0, _END)]
    lines.append((_RETURN, 0, 0, _ALLOW))
    return b"".join(struct.pack("HBBI", *line) for line in lines)


def _by_bits(number: int, place: int, bits: int, if_set: int, if_not: int) -> list[tuple[int, int, int, int]]:
    """What becomes of a call hangs on bits of an argument."""
    return [
        (_IF_EQUAL, 0, 4, number),
        (_LOAD, 0, 0, _FIRST_ARGUMENT + 8 * place),
        (_IF_BITS, 0, 1, bits),
        (_RETURN, 0, 0, if_set),
        (_RETURN, 0, 0, if_not),
    ]
