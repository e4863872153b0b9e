"""Tensors of PyTorch: told and kept by content, layout and gradient; those that look at one memory share what is written to it."""

from __future__ import annotations

import sys
from importlib import import_module
from typing import Any

from wornpage.session.python.atoms import NoFingerprint

_MOST = 20_000
"""Steps of a calculation that are followed back to what it was made from."""


def is_tensor(value: object) -> bool:
    """Whether a value is a tensor, or of a kind derived from it."""
    kind = getattr(sys.modules.get("torch"), "Tensor", None)
    return kind is not None and issubclass(type(value), kind)


def told(tensor: Any) -> tuple[object, ...]:
    """What makes a tensor the one it is. Raises `NoFingerprint` for what hangs on a calculation, or lies elsewhere."""
    if tensor.grad_fn is not None:
        raise NoFingerprint("a tensor that knows how it was calculated")
    if str(tensor.layout) != "torch.strided" or tensor.device.type != "cpu" or tensor.is_quantized:
        raise NoFingerprint("a tensor that is not plainly in memory")
    if tensor._backward_hooks:
        raise NoFingerprint("a tensor with hooks")
    return ("tensor", type(tensor), *_shape(tensor), _bytes(tensor.detach()), tensor.grad, dict(vars(tensor)))


def reduced(tensor: Any) -> tuple[object, ...]:
    """How it is made again, with the whole of the memory that it looks at."""
    torch: Any = sys.modules["torch"]
    whole = torch.empty(0, dtype=torch.uint8).set_(tensor.untyped_storage())
    return _made, (type(tensor), *_shape(tensor), whole.numpy(), tensor.grad, dict(vars(tensor)))


def address(value: Any) -> int:
    """Where the memory begins that a tensor or an array looks at; 0 for other things."""
    if is_tensor(value):
        return int(value.untyped_storage().data_ptr()) if value.device.type == "cpu" else 0
    if type(value).__module__ == "numpy" and hasattr(value, "__array_interface__"):
        return int(value.__array_interface__["data"][0])
    return 0


def within(tensor: Any) -> list[object]:
    """What else a tensor reaches: its gradient, what its author has hung on it, and what it was calculated from."""
    found = [held for held in (tensor.grad if tensor.is_leaf else None, *vars(tensor).values()) if held is not None]
    todo, seen = [tensor.grad_fn], set[object]()
    while todo and len(seen) < _MOST:
        step = todo.pop()
        if step is None or step in seen:
            continue
        seen.add(step)
        if (leaf := getattr(step, "variable", None)) is not None:
            found.append(leaf)
        todo += [before for before, _ in step.next_functions]
    return found


def _shape(tensor: Any) -> tuple[object, ...]:
    kind = str(tensor.dtype).rpartition(".")[2]
    return kind, tuple(tensor.shape), tensor.stride(), tensor.storage_offset(), tensor.requires_grad


def _bytes(plain: Any) -> object:
    return plain.contiguous().reshape(-1).view(sys.modules["torch"].uint8).numpy()


def _made(
    kind: Any,
    dtype: str,
    shape: object,
    stride: object,
    offset: int,
    requires_grad: bool,
    memory: Any,
    grad: object,
    held: dict[str, object],
) -> object:
    torch: Any = import_module("torch")
    whole = torch.empty(len(memory), dtype=torch.uint8)
    whole.copy_(torch.from_numpy(memory))
    plain = torch.empty(0, dtype=getattr(torch, dtype)).set_(whole.untyped_storage(), offset, shape, stride)
    tensor = plain if kind is torch.Tensor else plain.as_subclass(kind)
    if kind is torch.nn.Parameter:
        tensor = torch.nn.Parameter(plain, requires_grad)
    tensor.requires_grad_(requires_grad)
    tensor.grad = grad
    vars(tensor).update(held)
    return tensor
