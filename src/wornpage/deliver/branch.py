"""A branch of the repository's own remote: one commit more on it, and nothing else touched, neither there nor here."""

from __future__ import annotations

import os
import subprocess
import tempfile
from functools import cached_property
from pathlib import Path

from wornpage.deliver.places import LIST, Change, changes, listed, listing
from wornpage.tree.problem import UsageError


class Branch:
    """A branch of the remote `remote` of the repository around `folder`; `words` say what is delivered."""

    def __init__(self, folder: Path, remote: str, name: str, words: str) -> None:
        self.folder, self.remote, self.name, self.words = folder, remote, name, words
        self._place = tempfile.TemporaryDirectory(prefix="worn-")
        if name.startswith("-") or remote.startswith("-"):
            raise UsageError(f"there is no branch {name!r} of {remote!r}.")

    def change(self, files: dict[str, bytes]) -> Change:
        """As `Place` has it."""
        before = listed(self._content(LIST))
        found = {name: data for name in {*files, *before} if (data := self._content(name)) is not None}
        return changes(files, found, before)

    def put(self, files: dict[str, bytes]) -> None:
        """Commit onto what the branch has, and push; where somebody was faster the push fails, and nothing has changed."""
        change = self.change(files)
        whole = {**files, LIST: listing(files)}
        if self._tip:
            self._git("read-tree", self._tip)
        for name, data in whole.items():
            blob = self._git("hash-object", "-w", "--stdin", given=data).strip()
            self._git("update-index", "--add", "--cacheinfo", f"100644,{blob},{name}")
        for name in change.went:
            self._git("update-index", "--force-remove", "--", name)
        tree = self._git("write-tree").strip()
        parents = ["-p", self._tip] if self._tip else []
        commit = self._git("commit-tree", tree, *parents, "-m", self.words).strip()
        self._git("push", "--quiet", self._address, f"{commit}:refs/heads/{self.name}")

    # --- the repository -----------------------------------------------------------------------

    @cached_property
    def _address(self) -> str:
        address = self._run(["git", "-C", str(self.folder), "remote", "get-url", "--", self.remote]).strip()
        top = self._run(["git", "-C", str(self.folder), "rev-parse", "--show-toplevel"]).rstrip("\n")
        return str((Path(top) / address).resolve()) if address.startswith(".") else address

    @cached_property
    def _tip(self) -> str:
        """The commit that the branch is at; empty where it is not there yet."""
        self._run(["git", "init", "--quiet", "--bare", self._place.name])
        heads = self._git("ls-remote", "--heads", self._address, f"refs/heads/{self.name}")
        if not heads.strip():
            return ""
        self._git("fetch", "--quiet", "--no-tags", self._address, f"refs/heads/{self.name}")
        return self._git("rev-parse", "FETCH_HEAD").strip()

    @cached_property
    def _names(self) -> set[str]:
        """Of all files of the branch."""
        return set(self._git("ls-tree", "-r", "-z", "--name-only", self._tip).split("\0")) if self._tip else set()

    def _content(self, name: str) -> bytes | None:
        """A file of the branch; None if it has none of this name."""
        return self._raw("cat-file", "blob", f"{self._tip}:{name}") if name in self._names else None

    def _git(self, *arguments: str, given: bytes = b"") -> str:
        return self._raw(*arguments, given=given).decode("utf-8", "surrogateescape")

    def _raw(self, *arguments: str, given: bytes = b"") -> bytes:
        return self._done(["git", *arguments], given, self._surroundings)

    @cached_property
    def _surroundings(self) -> dict[str, str]:
        """An own repository and an own index, in which whoever commits is the user."""
        env = dict(os.environ) | {"GIT_DIR": self._place.name, "GIT_INDEX_FILE": f"{self._place.name}/index", "GIT_TERMINAL_PROMPT": "0"}  # fmt: skip
        for role in ("AUTHOR", "COMMITTER"):
            env.setdefault(f"GIT_{role}_NAME", self._of_user("user.name", "Worn Page"))
            env.setdefault(f"GIT_{role}_EMAIL", self._of_user("user.email", "worn@localhost"))
        return env

    def _of_user(self, key: str, usual: str) -> str:
        done = subprocess.run(["git", "-C", str(self.folder), "config", key], capture_output=True, text=True, check=False)  # fmt: skip
        return done.stdout.strip() or usual

    def _run(self, command: list[str]) -> str:
        return self._done(command, b"", None).decode("utf-8", "surrogateescape")

    def _done(self, command: list[str], given: bytes, env: dict[str, str] | None) -> bytes:
        try:
            done = subprocess.run(command, input=given, capture_output=True, check=False, env=env)
        except OSError as error:
            raise UsageError(f"git cannot be run: {error.strerror}.") from None
        if done.returncode:
            said = done.stderr.decode("utf-8", "replace").strip().splitlines()
            raise UsageError(f"the branch {self.name!r} of {self.remote!r}: {said[-1] if said else 'git failed'}")
        return done.stdout
