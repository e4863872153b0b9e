"""Tensors, where PyTorch is there: told by content, layout and gradient, kept exactly, sharing memory with arrays."""

import io
import unittest
from importlib.util import find_spec
from typing import Any

from wornpage.session.python import keeping
from wornpage.session.python.atoms import NoFingerprint
from wornpage.session.python.fingerprint import fingerprint
from wornpage.session.python.sharing import reach


def kept(values: dict[str, object]) -> dict[str, Any]:
    """The values after they were stored and loaded."""
    file, buffers = io.BytesIO(), list[Any]()
    keeping.Keeper(file, buffers, {}).dump(values)
    return keeping._load(file.getvalue(), [bytearray(buffer.raw()) for buffer in buffers], str)


def load_tests(_loader: object, tests: unittest.TestSuite, _pattern: object) -> unittest.TestSuite:
    """Nothing where PyTorch is not installed."""
    return tests if find_spec("torch") else unittest.TestSuite()


class Tensors(unittest.TestCase):
    torch: Any

    def setUp(self) -> None:
        from importlib import import_module

        self.torch = import_module("torch")

    def test_they_come_back_as_they_are(self) -> None:
        torch = self.torch
        base = torch.arange(12.0).reshape(3, 4)
        slope = torch.tensor([1.0, 2.0], requires_grad=True)
        (slope**2).sum().backward()
        for tensor in (
            base, base[1:, ::2], base.t(), slope, torch.tensor(5), torch.zeros(0, 3), torch.tensor([True, False]),
            torch.tensor([1 + 2j]), torch.ones(2, dtype=torch.bfloat16), torch.nn.Parameter(torch.ones(2)),
        ):  # fmt: skip
            again = kept({"it": tensor})["it"]
            self.assertEqual(fingerprint(again), fingerprint(tensor), tensor)
            self.assertEqual((again.stride(), again.storage_offset()), (tensor.stride(), tensor.storage_offset()))
        self.assertEqual(kept({"it": slope})["it"].grad.tolist(), [2.0, 4.0])

    def test_what_hangs_on_a_calculation_is_live_and_reaches_what_it_came_from(self) -> None:
        slope = self.torch.ones(2, requires_grad=True)
        whole = (slope * 3).sum()
        self.assertRaises(NoFingerprint, fingerprint, whole)
        self.assertTrue(reach(whole).meets(reach(slope)))
        before = fingerprint(slope)
        whole.backward()
        self.assertNotEqual(fingerprint(slope), before)

    def test_memory_is_shared_with_views_and_arrays(self) -> None:
        import numpy

        whole, array = self.torch.zeros(4), numpy.zeros(3)
        self.assertTrue(reach(whole).meets(reach(whole[1:3])))
        self.assertTrue(reach(whole.numpy()).meets(reach(whole)))
        self.assertTrue(reach(array[1:]).meets(reach(self.torch.from_numpy(array))))
        self.assertFalse(reach(whole).meets(reach(whole.clone())))

    def test_a_net_and_what_trains_it_stay_together(self) -> None:
        torch = self.torch
        net = torch.nn.Linear(2, 1)
        training = torch.optim.SGD(net.parameters(), lr=0.1, momentum=0.9)
        net(torch.ones(1, 2)).sum().backward()
        training.step()
        again = kept({"net": net, "training": training})
        self.assertIs(again["training"].param_groups[0]["params"][0], again["net"].weight)
        self.assertEqual([fingerprint(again[name]) for name in again], [fingerprint(net), fingerprint(training)])
