"""What a source begins with: the packages that its text asks for, its language, its fonts, its names for figures and tables."""

from __future__ import annotations

import re
from importlib.resources import files

from wornpage.output.kind import Job
from wornpage.output.tex import letters
from wornpage.output.tex.citing import Cites
from wornpage.output.tex.options import TexPress
from wornpage.tree import nodes as n
from wornpage.tree.walk import walk

_LANGUAGES = {
    "en": "english", "de": "german", "fr": "french", "es": "spanish", "it": "italian", "pt": "portuguese", "nl": "dutch", "da": "danish", "sv": "swedish",
    "nb": "norsk", "no": "norsk", "fi": "finnish", "pl": "polish", "cs": "czech", "ru": "russian", "uk": "ukrainian", "el": "greek", "tr": "turkish",
    "hu": "hungarian", "ro": "romanian", "ar": "arabic", "he": "hebrew", "ja": "japanese", "zh": "chinese", "ca": "catalan",
}  # fmt: skip
_CHEMISTRY = r"""\IfFileExists{mhchem.sty}{\usepackage[version=4]{mhchem}}{\PackageWarning{worn}{there is no package mhchem here: formulas of chemistry are without their looks}}
\providecommand{\ce}[1]{\text{\detokenize{#1}}}"""
_UNFIT = re.compile(r"[\\{}%#~^$&]")


def is_numbered(page: n.Composed) -> bool:
    """Whether any of its headings has a number."""
    return any(isinstance(node, n.Heading) and node.number for node in walk(page.blocks))


def listed_works(cites: Cites, folder: str, has_heading: bool) -> str:
    """The list of works as a package writes it; `has_heading` says that the page has put one above it."""
    if cites.package == "biblatex":
        return rf"\printbibliography{'[heading=none]' if has_heading else ''}"
    made = f"\\bibliographystyle{{plainnat}}\n\\bibliography{{{folder}/references}}"
    return f"{{\\renewcommand{{\\bibsection}}{{}}\n{made}}}" if has_heading else made


class Opening:
    """For one page; `folder` is that of what lies beside its source."""

    def __init__(
        self, page: n.Composed, job: Job, cites: Cites | None, folder: str, fallbacks: tuple[str, ...] = ()
    ) -> None:
        self.page, self.job, self.cites, self.folder, self.fallbacks = page, job, cites, folder, fallbacks

    def preamble(self, options: TexPress) -> str:
        """What the text asks for, whatever the class; hyperlinks come last."""
        people = ", ".join(person.name for person in self.page.head.authors)
        lines = [
            (files(__package__) / "preamble.tex").read_text(encoding="utf-8").strip(),
            self._babel(),
            *self._fonts(options),
            _CHEMISTRY if any(r"\ce{" in getattr(node, "latex", "") for node in walk(self.page.blocks)) else "",
            self._loading(),
            r"\usepackage[hidelinks,unicode]{hyperref}",
            rf"\hypersetup{{pdftitle={{{letters.text(self.page.plain_title)}}},pdfauthor={{{letters.text(people)}}},pdflang={{{self.page.language}}}}}",
            "" if is_numbered(self.page) else r"\setcounter{secnumdepth}{-2}",
            r"\setcounter{secnumdepth}{5}" if is_numbered(self.page) else "",
            self._macros(),
        ]
        return "\n".join(filter(None, lines))

    def _babel(self) -> str:
        """What knows the words and the ways of the page's language."""
        tag = self.page.language.split("-")[0]
        name = _LANGUAGES.get(tag, "")
        if name in {"", "english"}:
            return r"\usepackage[english,shorthands=off]{babel}"
        options = "shorthands=off"
        before = ""
        if self.page.terms.right_to_left:
            options, before = "shorthands=off,bidi=basic", "\\RequireLuaTeX % for what runs from right to left\n"
        return f"{before}\\usepackage[{options}]{{babel}}\n\\babelprovide[import={tag},main]{{{name}}}"

    def _fonts(self, options: TexPress) -> list[str]:
        """Fonts beside those that LaTeX has of its own."""
        if options.font:
            return [rf"\setmainfont{{{_UNFIT.sub('', options.font)}}}"]
        if not self.fallbacks:
            return []
        listed = ",".join(f'"file:{name}:mode=harf;"' for name in self.fallbacks)
        faces = "Extension=.otf,UprightFont=*-regular,BoldFont=*-bold,ItalicFont=*-italic,BoldItalicFont=*-bolditalic"
        return [
            rf"\directlua{{luaotfload.add_fallback('wornletters', {{{listed}}})}}",
            rf"\setmainfont{{lmroman10}}[{faces},RawFeature={{fallback=wornletters}}]",
            r"\setmonofont{lmmono10-regular.otf}[RawFeature={fallback=wornletters}]",
        ]

    def _macros(self) -> str:
        """The commands of mathematics that the page declares."""
        made = []
        for name, body in self.job.settings.macros.items():
            count = max((int(digit) for digit in re.findall(r"#([1-9])", body)), default=0)
            arguments = f"[{count}]" if count else ""
            command = name if name.startswith("\\") else f"\\{name}"
            made.append(rf"\providecommand{{{command}}}{{}}\renewcommand{{{command}}}{arguments}{{{body}}}")
        return "\n".join(made)

    def names(self) -> str:
        """What figures and tables are called, in the words of the page."""
        kinds = (("figure", n.Figure), ("table", n.TableBlock), ("listing", n.CodeBlock))
        made = []
        for name, kind in kinds:
            word = next(
                (node.word for node in walk(self.page.blocks) if isinstance(node, kind) and node.number and node.word),
                "",
            )
            made += [rf"\renewcommand{{\{name}name}}{{{letters.text(word)}}}"] if word else []
        return "\n".join(made)

    def _loading(self) -> str:
        """The package that cites."""
        if self.cites is None:
            return ""
        if self.cites.package == "natbib":
            return r"\usepackage[round]{natbib}"
        return f"\\usepackage[style=authoryear,useprefix=true]{{biblatex}}\n\\addbibresource{{{self.folder}/references.bib}}"

    def bibliography(self) -> str:
        """The list of works at the end, if a package writes it and the page has no place of its own for it."""
        is_placed = any(isinstance(node, n.ReferenceList) for node in walk(self.page.blocks))
        return "" if self.cites is None or is_placed else listed_works(self.cites, self.folder, has_heading=False)
