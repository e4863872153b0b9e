"""What chunks of made-up pages consist of: pieces of code over names of certain kinds.

A piece needs names of some kinds and makes others. In its code `{a}` is a name and `{n}`, `{m}` stand for numbers. Pieces that
show, change and share things of one kind are chosen together often enough that every way to change something meets every
way to hold it.
"""

from __future__ import annotations

import re
from typing import NamedTuple

Kinds = dict[str, str]


class Piece(NamedTuple):
    """One kind of chunk: names it `needs` and `makes`, by the letter they have in `code`, with their kinds."""

    code: str
    needs: Kinds
    makes: Kinds
    wide: bool
    """Whether it reaches beyond its own names, so that chunks of other names may have to run too."""


_PART = re.compile(r"(\w):(\w+)")


def _piece(line: str, wide: bool) -> Piece:
    """`a:list b:list -> c:list | code`, with `;;` for a new line."""
    head, _, code = line.partition(" | ")
    needs, _, makes = head.partition("->")
    return Piece(code.replace(";;", "\n"), dict(_PART.findall(needs)), dict(_PART.findall(makes)), wide)


_OWN = r"""
-> a:list | {a} = [{n}, {m}, {n}]
-> a:list | {a} = [[{n}], [{m}]]
-> a:list | {a} = list(range({n} % 5))
-> a:dict | {a} = dict(a={n}, b=[{m}])
-> a:dict | import collections;;{a} = collections.defaultdict(list, a=[{n}])
-> a:dict | import collections;;{a} = collections.OrderedDict(b={n}, a={m})
-> a:word | {a} = 'word {n} ' + str({m})
-> a:number | {a} = {n} * 1000 + {m}
-> a:number | {a} = float('nan')
-> a:number | {a} = {n} / 3
a:list -> b:list | {b} = {a}
a:list -> b:list | {b} = list({a})
a:list -> b:list | {b} = [{a}, {n}]
a:list -> b:list | {b} = [{a}, {a}]
a:list -> b:list | {b} = {a}[0] if isinstance({a}[0], list) else {a}
a:list -> b:list | import copy;;{b} = copy.deepcopy({a})
a:list -> b:list | {b} = sorted({a}, key=str)
a:list -> b:dict | {b} = dict(a={a}, n={n})
a:list -> b:dict | {b} = {'deep': {'deeper': ({a},)}}
a:list -> b:thing | {b} = ({a}, {n})
a:list b:list -> | {a}.append({b});;print(len({a}))
a:list b:list -> | print({a} is {b}, {a} == {b}, id({a}) == id({b}))
a:list b:list -> | {a}[:] = {b}
a:list -> | {a}.append({n})
a:list -> | {a} += [{n}]
a:list -> a:list | {a} = {a} + [{n}]
a:list -> | {a}[0] = {n};;print({a}[0])
a:list -> | {a}.sort(key=str);;print({a}[0])
a:list -> | del {a}[-1]
a:list -> | {a}.clear()
a:list -> | print({a})
a:list -> | print(len({a}))
a:list -> | print('changed' if {a} and {a}[0] == {n} else 'same')
a:dict -> b:dict | {b} = {a}
a:dict -> b:dict | {b} = dict({a})
a:dict -> b:list | {b} = [{a}]
a:dict -> | {a}['c'] = {n}
a:dict -> | {a}.update(a={n})
a:dict -> | {a}.pop('b', None)
a:dict -> | {a}.setdefault('x', []).append({n})
a:dict -> | print({a})
a:dict -> | print({a}['missing'] if hasattr({a}, 'default_factory') and {a}.default_factory else list({a}))
a:dict -> v:view | {v} = {a}.items()
a:dict -> v:view | {v} = {a}.keys()
a:dict -> v:view | import types;;{v} = types.MappingProxyType({a})
a:dict -> v:view | import collections;;{v} = collections.ChainMap({a})
v:view -> | print(list({v}))
v:view -> | print(len({v}))
v:view -> w:list | {w} = [{v}]
a:word b:word -> | print({a} is {b}, {a} == {b})
a:word -> b:word | {b} = {a}
a:word -> b:word | import sys;;{b} = sys.intern({a})
a:word -> b:list | {b} = [{a}, {n}]
a:word -> | print({a}.upper())
a:number -> b:number | {b} = {a}
a:number -> b:number | {b} = {a} + {n}
a:number -> b:list | {b} = [{a}, {a}, {n}]
a:number b:number -> | print({a} is {b})
a:number b:list -> | print({a} in {b}, {b}.count({a}))
a:number -> | print({a})
a:number -> | print({a} > {n})
a:list -> f:call | {f} = {a}.append
a:list -> f:call | {f} = lambda v: {a}.append(v)
a:list -> f:call | def {f}(v, kept={a}):;;    kept.append(v);;    return len(kept)
a:list -> f:call | def {f}(v):;;    {a}.append(v);;    return list({a})
a:list -> f:call | def make_{f}(kept):;;    def inner(v):;;        kept.append(v);;        return len(kept);;    return inner;;{f} = make_{f}({a})
a:list -> f:call | import functools;;{f} = functools.partial({a}.insert, 0)
a:list -> f:call | import functools;;@functools.lru_cache;;def {f}(v):;;    {a}.append(v);;    return len({a})
-> f:call | import itertools;;def make_{f}():;;    count = {n};;    def inner(v):;;        nonlocal count;;        count += v;;        return count;;    return inner;;{f} = make_{f}()
-> f:call | def {f}(v):;;    {f}.calls = getattr({f}, 'calls', 0) + 1;;    return {f}.calls + v + {n}
-> f:call | import functools;;@functools.singledispatch;;def {f}(v):;;    return 'any {n}'
f:call -> | import functools;;if hasattr({f}, 'register'):;;    {f}.register(int)(lambda v: 'int {m}')
f:call -> g:call | {g} = {f}
f:call -> g:call | import functools;;{g} = functools.partial({f}, {n})
f:call -> g:call | def {g}(v):;;    return {f}(v)
f:call -> g:list | {g} = [{f}]
f:call -> | print({f}({n}))
f:call -> | {f}({n})
f:call -> | print(getattr({f}, 'calls', 'none'), callable({f}))
f:call g:call -> | print({f} is {g}, {f} == {g})
a:list -> i:iter | {i} = iter({a})
a:list -> i:iter | {i} = enumerate({a})
a:list -> i:iter | {i} = map(str, {a})
a:list -> i:iter | {i} = (str(x) for x in {a})
a:list -> i:iter | import itertools;;{i} = itertools.chain({a}, {a})
a:list -> i:iter | import itertools;;{i} = itertools.islice({a}, {n} + 4)
a:list -> i:iter | def walk_{i}():;;    for x in {a}:;;        yield x, len({a});;{i} = walk_{i}()
a:dict -> i:iter | {i} = iter({a}.items())
i:iter -> j:iter | {j} = {i}
i:iter -> j:list | {j} = [{i}]
i:iter -> j:iter | import itertools;;{j} = itertools.chain({i}, [{n}])
i:iter -> | print(next({i}, 'end'))
i:iter -> | print(list({i}))
-> C:class | class {C}:;;    k = {n};;    shared = [];;    def __init__(self, v=None):;;        self.v = v;;    def show(self):;;        return self.k, self.v
-> C:class | class {C}:;;    __slots__ = ('v', 'w');;    k = {n};;    def __init__(self, v=None):;;        self.v = v;;    def show(self):;;        return self.k, self.v
-> C:class | import dataclasses;;@dataclasses.dataclass;;class {C}:;;    v: object = None;;    k: int = {n};;    def show(self):;;        return self.k, self.v
-> C:class | class {C}:;;    k = {n};;    made = 0;;    def __init__(self, v=None):;;        self.v = v;;        type(self).made += 1;;    def show(self):;;        return self.made, self.v
C:class -> D:class | class {D}({C}):;;    k = {m}
C:class -> D:class | {D} = {C}
C:class -> o:object | {o} = {C}()
C:class a:list -> o:object | {o} = {C}({a})
C:class -> | {C}.k = {n}
C:class -> | {C}.extra = lambda self: (self.v, {n})
C:class -> | {C}.show = lambda self: ('new', {m})
C:class -> | getattr({C}, 'shared', []).append({n})
C:class -> | print({C}.k, getattr({C}, 'shared', None), getattr({C}, 'made', None))
C:class o:object -> | print(isinstance({o}, {C}), type({o}) is {C})
o:object -> | print({o}.show())
o:object -> | print({o}.extra() if hasattr({o}, 'extra') else 'plain')
o:object -> | {o}.v = {n}
o:object -> | {o}.v = [{n}]
o:object -> | {o}.v.append({n})
o:object -> p:object | {p} = {o}
o:object -> p:object | import copy;;{p} = copy.copy({o})
o:object -> p:list | {p} = [{o}, {o}]
o:object -> p:dict | {p} = {{o}: {n}}
o:object -> f:call | {f} = lambda v: setattr({o}, 'v', v) or {o}.show()
o:object -> f:method | {f} = {o}.show
f:method -> | print({f}())
o:object p:object -> | print({o} is {p});;{o}.v = {p}.v
o:object d:dict -> | print({d}.get({o}, 'not there'))
-> r:random | import random;;{r} = random.Random({n})
-> r:random | import random;;{r} = random
r:random -> | print({r}.random())
r:random -> a:number | {a} = {r}.randint(0, 1000000)
r:random -> a:list | {a} = [{r}.random() for _ in range(3)]
r:random -> s:random | {s} = {r}
a:list -> | a_file = open('{a}.txt', 'w');;a_file.write(str({a}) + '{n}');;a_file.close()
a:list -> | with open('{a}.txt', 'a') as out:;;    out.write('{n}')
a:list -> | try:;;    print(open('{a}.txt').read());;except OSError as fault:;;    print(type(fault).__name__)
a:list -> | import os;;print(os.path.exists('{a}.txt') and os.path.getsize('{a}.txt'))
a:list -> | import os;;print([(e.name, e.stat().st_size) for e in os.scandir('.') if e.name == '{a}.txt'])
a:list -> | import pathlib;;print([p.stat().st_size for p in pathlib.Path('.').glob('{a}.*')])
a:list -> | import os;;h = os.open('.', os.O_RDONLY);;try:;;    print(os.stat('{a}.txt', dir_fd=h).st_size);;except OSError:;;    print('none');;finally:;;    os.close(h)
a:list -> h:handle | {h} = open('{a}.txt', 'a+')
a:list -> | import os;;os.makedirs('{a}_d', exist_ok=True);;open('{a}_d/in.txt', 'w').write('{n}')
a:list -> | import pathlib;;pathlib.Path('{a}_d/deep').mkdir(parents=True, exist_ok=True);;pathlib.Path('{a}_d/deep/in.txt').write_text(str({a}))
a:list -> | import os;;print(os.path.isdir('{a}_d'), os.path.exists('{a}_d/in.txt'))
a:list -> | import os;;try:;;    os.mkdir('{a}_d');;    print('made');;except FileExistsError:;;    print('there')
a:list -> | import os;;if not os.path.exists('{a}_d/deep'):;;    os.makedirs('{a}_d/deep');;print(os.path.isdir('{a}_d'))
a:list -> | import shutil;;shutil.rmtree('{a}_d', ignore_errors=True)
a:list -> | import os, shutil;;shutil.rmtree('{a}_d', ignore_errors=True);;os.makedirs('{a}_d')
a:list -> | try:;;    open('{a}_d/in.txt', 'w').write(str({a}));;except OSError as fault:;;    print(type(fault).__name__)
a:list -> | import pathlib;;print(sorted(str(p) for p in pathlib.Path('.').glob('{a}_d/**')))
a:list -> | import os;;try:;;    print(sorted(os.listdir('{a}_d')));;except OSError as fault:;;    print(type(fault).__name__)
a:list -> | import os;;if os.path.isdir('{a}_d') and not os.path.exists('{a}_e'):;;    os.rename('{a}_d', '{a}_e')
a:list -> | import os;;print(os.path.isdir('{a}_e') and sorted(os.listdir('{a}_e')))
a:list -> | import subprocess;;print(subprocess.run(['test', '-d', '{a}_d']).returncode)
a:list -> | import subprocess;;print(subprocess.run('cat {a}_d/in.txt', shell=True, capture_output=True).stdout)
a:list -> | import subprocess;;subprocess.run('mkdir -p {a}_d/sub && echo {n} > {a}_d/in.txt', shell=True)
a:list -> | import os, tempfile;;with tempfile.TemporaryDirectory() as place:;;    open(os.path.join(place, 'in.txt'), 'w').write('{n}');;    print(os.listdir(place));;del place
a:list -> | import os;;if os.path.lexists('{a}_l'):;;    os.remove('{a}_l');;os.symlink('{a}.txt', '{a}_l');;print(os.path.exists('{a}_l'))
a:list -> | try:;;    print(open('{a}_l').read());;except OSError as fault:;;    print(type(fault).__name__)
a:list -> | import os;;try:;;    os.chdir('{a}_d');;    print(sorted(os.listdir()));;    os.chdir('..');;except OSError as fault:;;    print(type(fault).__name__)
h:handle -> | {h}.write('{n}');;{h}.flush()
h:handle -> | {h}.seek(0);;print({h}.read())
-> d:data | import json;;{d} = json.load(open('data.json'))
-> d:data | import os;;{d} = {'size': os.stat('data.json').st_size}
-> d:data | import mmap;;with open('data.json', 'rb') as opened:;;    with mmap.mmap(opened.fileno(), 0, access=mmap.ACCESS_READ) as mapped:;;        {d} = {'text': mapped[:].decode()}
d:data -> | print({d})
d:data -> a:list | {a} = list({d})
-> a:list | {a} = [given.g, {n}]
-> a:word | {a} = f'for {given.h}'
-> | print(given.g)
a:list -> | print('{a}' in globals(), '{a}_none' in globals())
a:list -> | print(type(globals().get('{a}')).__name__)
a:list -> | del {a}
a:list -> | globals()['{a}'] = [{n}]
a:list -> | globals().pop('{a}', None)
a:list -> | try:;;    {a};;except NameError:;;    {a} = ['made here', {n}];;print({a})
a:dict -> | print('{a}' in dir(), '{a}' in vars())
a:list -> | import __main__;;print(hasattr(__main__, '{a}'))
-> | import sys;;print(sys._getframe().f_lineno)
-> f:call | import sys;;def {f}(v):;;    return sys._getframe(1).f_lineno, v
f:call -> | import inspect;;print(inspect.isfunction({f}) and len(inspect.getsource({f}).splitlines()))
a:list -> | import threading;;t = threading.Thread(target={a}.append, args=({n},));;t.start();;t.join()
a:list -> | import concurrent.futures as cf;;with cf.ThreadPoolExecutor(2) as pool:;;    print(sorted(pool.map(str, {a})))
a:list -> | import pickle;;{a}[:] = pickle.loads(pickle.dumps({a}))
a:list -> q:thing | import collections;;{q} = collections.deque({a}, maxlen=3)
q:thing -> | print({q}, bool({q}))
q:thing -> | {q}.append({n})
q:thing -> | {q}[0].append({n})
-> q:thing | {q} = bytearray(b'abc{n}')
q:thing -> v:view | {v} = memoryview({q})
q:thing -> | {q}[0] = {n} % 200
a:list -> w:thing | import weakref;;class Holds_{w}(list):;;    pass;;kept_{w} = Holds_{w}({a});;{w} = weakref.ref(kept_{w})
w:thing -> | print({w}() if callable({w}) else {w})
-> e:class | import enum;;class {e}(enum.Enum):;;    k = {n};;    other = {m};;    def show(self):;;        return self.name
e:class -> o:thing | {o} = [{e}.k, getattr({e}, 'k')];;print({o}[0] is {e}.k)
-> x:thing | try:;;    1 / ({n} - {n});;except ZeroDivisionError as fault:;;    {x} = fault
x:thing -> | print(repr({x}), getattr({x}, '__notes__', None))
a:list -> | print(len({a}));;{a}.missing_{n}
-> a:list | import io;;{a} = io.StringIO('{n}').readlines()
"""
_WIDE = r"""
a:list -> | print([n for n in globals() if n in {names}])
-> | print(list((globals() | {'zz': {n}}))[-1])
-> | print(sorted({*globals()} & {*{names}}))
-> | print(len([n for n in {names} if n in vars()]))
-> | import csv;;csv.register_dialect('worn', delimiter='{n}'[0])
-> | import csv, io;;out = io.StringIO();;csv.writer(out, 'worn' if 'worn' in csv.list_dialects() else 'excel').writerow([1, 2]);;print(out.getvalue())
-> | import codecs;;codecs.register_error('worn', lambda e: ('{n}', e.end))
-> | try:;;    print('ü'.encode('ascii', 'worn'));;except LookupError as fault:;;    print(fault)
-> | import codecs;;codecs.register(lambda name: codecs.lookup('rot13') if name == 'worn_{n}' else None)
-> | import codecs;;try:;;    print(codecs.lookup('worn_{n}').name);;except LookupError as fault:;;    print(fault)
-> | import sys;;sys.excepthook = lambda *parts: print('hooked {n}')
-> | import sys;;print(sys.excepthook is sys.__excepthook__);;sys.excepthook(ValueError, ValueError({n}), None)
-> | import sys;;sys.displayhook = lambda v: print('shown {n}', v)
-> | import sys;;sys.displayhook({n})
-> | import sys, io;;sys.stdout = io.StringIO()
-> | import sys;;if hasattr(sys.stdout, 'getvalue'):;;    held = sys.stdout.getvalue();;    sys.stdout = sys.__stdout__;;    print('held', repr(held))
-> | import warnings;;warnings.simplefilter('once')
-> | import warnings;;warnings.warn('careful {n}')
-> | import warnings;;warnings.filterwarnings('error', message='careful')
-> | import decimal;;decimal.getcontext().prec = {n} + 5
-> | import decimal;;print(decimal.Decimal(1) / 7)
-> | import os;;os.environ['WORN_LAW'] = '{n}'
-> | import os;;print(os.environ.get('WORN_LAW', 'none'))
-> | import os, subprocess, sys;;print(subprocess.run([sys.executable, '-c', 'import os; print(os.environ.get("WORN_LAW"))'], capture_output=True, text=True).stdout)
-> | import os;;os.makedirs('sub', exist_ok=True);;os.chdir('sub')
-> | import os;;print(os.path.basename(os.getcwd()))
-> | import logging;;logging.getLogger('worn').setLevel({n} + 10)
-> | import logging;;print(logging.getLogger('worn').getEffectiveLevel());;logging.getLogger('worn').warning('logged')
-> | import builtins;;builtins.worn_extra = [{n}]
-> | print(worn_extra)
-> | import builtins;;builtins.worn_extra.append({n})
-> | import math;;math.worn_extra = {n}
-> | import math;;print(hasattr(math, 'worn_extra'))
-> | import json;;json.JSONEncoder.default = lambda self, v: 'coded {n}'
-> | import json;;try:;;    print(json.dumps({1j: 1, 'a': 1j}, skipkeys=True));;except TypeError as fault:;;    print(fault)
-> | import copyreg;;copyreg.pickle(complex, lambda v: (complex, (v.real + {n}, v.imag)))
-> | import copy, copyreg;;print(copy.copy(1j), complex in copyreg.dispatch_table)
-> | import sys, types;;made = types.ModuleType('worn_made');;made.k = {n};;sys.modules['worn_made'] = made
-> | try:;;    import worn_made;;    print(worn_made.k);;except ImportError as fault:;;    print(fault)
-> | import calendar;;calendar.setfirstweekday({n} % 7)
-> | import calendar;;print(calendar.month(2026, 11).splitlines()[1])
-> | import mimetypes;;mimetypes.add_type('text/worn{n}', '.worn')
-> | import mimetypes;;print(mimetypes.guess_type('a.worn'))
-> | import random;;random.seed({n})
-> | import sqlite3;;sqlite3.register_adapter(complex, lambda v: {n})
-> | import sqlite3;;try:;;    print(sqlite3.connect(':memory:').execute('select ?', (1j,)).fetchone());;except sqlite3.Error as fault:;;    print(type(fault).__name__)
-> | import contextvars;;worn_var = globals().get('worn_var') or contextvars.ContextVar('worn', default=0);;worn_var.set(worn_var.get() + {n})
-> | print(worn_var.get())
-> | import gc;;gc.set_threshold(700 + {n})
-> | import gc;;print(gc.get_threshold()[0], gc.isenabled())
-> | import shutil;;shutil.register_archive_format('worn{n}', print)
-> | import shutil;;print([name for name, _ in shutil.get_archive_formats() if 'worn' in name])
-> | import threading;;threading.excepthook = lambda told: print('thread {n}', told.exc_type.__name__)
-> | import threading;;t = threading.Thread(target=lambda: 1 / 0);;t.start();;t.join();;print('joined', threading.excepthook.__name__)
-> | import xml.etree.ElementTree as ET;;ET.register_namespace('w{n}', 'urn:worn')
-> | import xml.etree.ElementTree as ET;;print(ET.tostring(ET.Element('{urn:worn}a')))
-> | import sys;;sys.setrecursionlimit(2000 + {n})
-> | import sys;;print(sys.getrecursionlimit())
-> | import sys;;sys.path.append('place{n}')
-> | import sys;;print(sys.path[-1][-6:])
-> | import locale;;print(locale.setlocale(locale.LC_ALL))
-> | import lib;;print(lib.k, lib.items)
-> | import lib;;lib.items.append({n})
-> | import lib;;lib.k = {n}
-> | import lib;;print(lib.count())
a:list -> | import lib;;lib.items = {a}
a:list -> | import atexit;;atexit.register({a}.append, {n})
a:list -> | import sys;;sys.worn_kept = {a}
-> | import sys;;getattr(sys, 'worn_kept', []).append({n})
-> | import sys;;print(getattr(sys, 'worn_kept', None))
-> | import os;;print(sorted(n for n in os.listdir('.') if n.endswith('.txt')))
-> | import os;;print([n for p, ds, fs in os.walk('.') for n in sorted(fs) if n.endswith('.txt')])
-> | import glob;;print(sorted(glob.glob('*.txt')))
-> | import lawpkg;;print(lawpkg.k, lawpkg.twice({n}))
-> a:list | import lawpkg;;{a} = [lawpkg.k, {n}]
-> a:word | from lawpkg import name;;{a} = name.title() + '{n}'
a:list -> o:object | import lawpkg;;{o} = lawpkg.Thing({a})
-> f:call | from lawpkg import twice as {f}
-> | import lawpkg;;lawpkg.items.append({n});;print(lawpkg.items)
-> | import lawpkg;;lawpkg.k = {n}
-> | from importlib.metadata import version;;print(version('lawpkg'))
-> | import socket;;socket.setdefaulttimeout({n} + 1)
-> | import socket;;print(socket.getdefaulttimeout())
-> | import string;;string.worn = {n}
-> | import fractions;;fractions.Fraction.worn = {n}
-> | import fractions;;print(getattr(fractions.Fraction(1, 3), 'worn', 'none'))
-> | import urllib.request as u;;u.install_opener(u.build_opener());;print('opener')
-> | import urllib.request as u;;print(u._opener is None)
a:number -> | import fractions;;fractions.Fraction.worn = {a}
a:word -> | import json;;json.dumps.worn = {a}
a:list -> | import json;;json.dumps.worn = {a}
-> | import json;;print(getattr(json.dumps, 'worn', 'none'))
-> | import json;;if isinstance(getattr(json.dumps, 'worn', None), list):;;    json.dumps.worn.append({n})
-> | import json;;json.dumps.__dict__.pop('worn', None)
a:list -> | import logging;;logging.getLogger('worn.law').worn = {a}
-> | import logging;;print(getattr(logging.getLogger('worn.law'), 'worn', 'none'))
a:word -> | import csv;;csv.register_dialect('worn', delimiter={a}[:1])
a:number -> | import sys;;sys.worn_number = {a}
-> | import sys;;print(getattr(sys, 'worn_number', 'none'))
a:word -> | import math;;setattr(math, 'worn_word', {a})
-> | import math;;print(getattr(math, 'worn_word', 'none'))
-> | import lawpkg;;lawpkg.Thing.worn = {n}
-> | import lawpkg;;print(getattr(lawpkg.Thing, 'worn', 'none'))
a:list -> | import lawpkg;;lawpkg.set_shelf('a', {a})
a:word -> | import lawpkg;;lawpkg.shelves[{a}[:3]] = {n}
-> | import lawpkg;;@lawpkg.register_shelf('made');;def shelf(): return {n}
-> | import lawpkg;;print({k: v() if callable(v) else v for k, v in sorted(lawpkg.shelves.items())})
-> t:dict | from lawpkg import shelves as {t}
-> | from functools import wraps;;import json;;@wraps(json.dumps);;def worn_wrapped(x):;;    worn_wrapped.calls = getattr(worn_wrapped, 'calls', 0) + {n};;    return x
-> | print(worn_wrapped(2), worn_wrapped.calls, worn_wrapped.__module__)
"""
_ARRAYS = r"""
-> a:array | import numpy as np;;{a} = np.arange({n} + 6.0)
-> a:array | import numpy as np;;{a} = np.ones((3, 4)) * {n}
-> a:array | import numpy as np;;{a} = np.array([[{n}, 2, 3], [4, 5, {m}]], order='F')
-> a:array | import numpy as np;;{a} = np.array([None, [{n}], 'x'], dtype=object)
-> a:array | import numpy as np;;{a} = np.zeros(4, dtype=[('x', 'f8'), ('y', 'i4')])
-> a:array | import numpy as np;;{a} = np.ma.array([{n}, 2, 3], mask=[0, 1, 0])
a:array -> b:array | {b} = {a}
a:array -> b:array | {b} = {a}[1:]
a:array -> b:array | {b} = {a}[::2]
a:array -> b:array | {b} = {a}.T
a:array -> b:array | {b} = {a}.copy()
a:array -> b:array | {b} = {a}.reshape(-1)
a:array -> b:array | {b} = {a}['x'] if {a}.dtype.names else {a}.view()
a:array -> b:list | {b} = [{a}, {n}]
a:array -> v:view | {v} = memoryview({a})
a:array -> i:iter | {i} = iter({a})
a:array -> i:iter | {i} = {a}.flat
a:array -> f:call | {f} = {a}.put
a:array -> | {a}[0] = {n}
a:array -> | {a} += {n}
a:array -> a:array | {a} = {a} * 2
a:array -> | {a}[-1:] = 0
a:array -> | print({a})
a:array -> | print({a}.sum() if {a}.dtype.kind in 'fi' else {a}.shape, {a}.flags.c_contiguous, {a}.base is None)
a:array b:array -> | import numpy as np;;print(np.shares_memory({a}, {b}))
a:array -> | {a}.flags.writeable = False
-> r:random | import numpy as np;;{r} = np.random.default_rng({n})
-> a:number | import numpy as np;;{a} = float(np.random.rand())
-> a:number | import numpy as np;;{a} = np.nan
-> a:number | import numpy as np;;{a} = np.float64({n}) / 3
"""
_FRAMES = r"""
-> d:frame | import pandas as pd;;{d} = pd.DataFrame({'x': [{n}, 2, 3], 'y': ['a', 'b', None]})
-> d:frame | import pandas as pd;;{d} = pd.DataFrame({'x': [1.5, {n}, None], 't': pd.date_range('2026-01-01', periods=3), 'c': pd.Categorical(['u', 'v', 'u'])})
d:frame -> e:frame | {e} = {d}
d:frame -> e:frame | {e} = {d}.copy()
d:frame -> e:frame | {e} = {d}[['x']]
d:frame -> e:frame | {e} = {d}.iloc[::2]
d:frame -> e:frame | {e} = {d}.set_index('x')
d:frame -> s:series | {s} = {d}['x']
d:frame -> a:array | {a} = {d}['x'].to_numpy()
d:frame -> a:array | {a} = {d}['x'].to_numpy(copy=True)
d:frame -> g:grouped | {g} = {d}.groupby({d}.columns[-1])
d:frame -> i:iter | {i} = {d}.itertuples()
d:frame -> f:call | {f} = {d}['x'].add
d:frame -> b:list | {b} = [{d}, {n}]
d:frame -> | {d}['z'] = {n}
d:frame -> | {d}.loc[0, 'x'] = {n}
d:frame -> | {d}.insert(0, 'first{n}', {m})
d:frame -> | {d}.attrs['from'] = {n}
d:frame -> | {d}.index.name = 'i{n}'
d:frame -> | {d}.columns = [c + '_' for c in {d}.columns]
d:frame -> | print({d}.to_csv())
d:frame -> | print({d}.attrs, {d}.index.name, list({d}.columns))
d:frame -> | {d}
d:frame -> | print({d}.query('x > @given.g').shape)
g:grouped -> | print({g}.size().to_dict())
s:series -> | {s}.iloc[0] = {n}
s:series -> | print({s}.tolist(), {s}.name)
s:series -> t:series | {t} = {s}.rename('s{n}')
-> | import pandas as pd;;pd.set_option('display.precision', {n} % 5 + 1)
-> | import pandas as pd;;print(pd.Series([1 / 3]))
"""


def _read(text: str, wide: bool = False) -> tuple[Piece, ...]:
    return tuple(_piece(line, wide) for line in text.strip().splitlines())


PLAIN = _read(_OWN)
WIDE = _read(_WIDE, wide=True)
ARRAYS = _read(_ARRAYS)
FRAMES = _read(_FRAMES)
MARKS = (
    "{= str(globals().get('{a}'))[:30].split(' at ')[0]}", "{= '{a}' in globals()}", "{= __import__('random').random()}", "{= len(str(globals().get('{a}')).split(' at 0x')[0])}",
    "{= __import__('os').environ.get('WORN_LAW')}", "{= __import__('decimal').Decimal(1) / 3}", "{= type(globals().get('{a}')).__name__}",
    "{= __import__('logging').getLogger('worn').getEffectiveLevel()}", "{= given.g}", "{= __import__('os').path.exists('data.json')}",
)  # fmt: skip
"""Value marks; `{a}` is any name."""
