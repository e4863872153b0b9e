"""The commands that mathematics may use. What is not here is a positioned error, never a guess."""

from __future__ import annotations

from wornpage.tree.formula import Accent, BigOperator, Formula, Function, Identifier, Operator, Space


def _table(text: str) -> dict[str, str]:
    words = text.split()
    return dict(zip(words[::2], words[1::2], strict=True))


_GREEK = _table(
    "alpha α beta β gamma γ delta δ epsilon ϵ varepsilon ε zeta ζ eta η theta θ vartheta ϑ iota ι kappa κ "
    "varkappa ϰ lambda λ mu μ nu ν xi ξ omicron ο pi π varpi ϖ rho ρ varrho ϱ sigma σ varsigma ς tau τ upsilon υ "
    "phi ϕ varphi φ chi χ psi ψ omega ω digamma ϝ"
)
_GREEK_CAPITALS = _table("Gamma Γ Delta Δ Theta Θ Lambda Λ Xi Ξ Pi Π Sigma Σ Upsilon Υ Phi Φ Psi Ψ Omega Ω")
_UPRIGHT = _table(
    "infty ∞ partial ∂ nabla ∇ emptyset ∅ varnothing ∅ forall ∀ exists ∃ nexists ∄ top ⊤ bot ⊥ angle ∠ hbar ℏ ell ℓ "
    "Re ℜ Im ℑ wp ℘ aleph ℵ beth ℶ complement ∁ square □ Box □ blacksquare ■ triangle △ diamondsuit ♢ clubsuit ♣ "
    "heartsuit ♡ spadesuit ♠ degree ° circ_ ∘ prime ′ checkmark ✓ dagger_ † ddagger_ ‡ S § P ¶ copyright © pounds £ "
    "euro € yen ¥ ldots … dots … cdots ⋯ vdots ⋮ ddots ⋱ dotsc … dotsb ⋯ dotsm ⋯ dotsi ⋯ dotso … imath ı jmath ȷ "
    "lnot ¬ neg ¬ surd √ flat ♭ natural ♮ sharp ♯ star_ ⋆ eth ð mho ℧ Finv Ⅎ measuredangle ∡ sphericalangle ∢ "
    "bigstar ★ lozenge ◊ blacktriangle ▲ backprime ‵"
)
_BINARY = _table(
    "pm ± mp ∓ times × div ÷ cdot ⋅ ast ∗ star ⋆ circ ∘ bullet ∙ cap ∩ cup ∪ uplus ⊎ sqcap ⊓ sqcup ⊔ vee ∨ lor ∨ "
    "wedge ∧ land ∧ setminus ∖ smallsetminus ∖ wr ≀ oplus ⊕ ominus ⊖ otimes ⊗ oslash ⊘ odot ⊙ dagger † ddagger ‡ amalg ⨿ "
    "diamond ⋄ bigtriangleup △ bigtriangledown ▽ triangleleft ◁ triangleright ▷ ltimes ⋉ rtimes ⋊ dotplus ∔ "
    "bigcirc ◯ barwedge ⊼ veebar ⊻ boxplus ⊞ boxminus ⊟ boxtimes ⊠ boxdot ⊡ intercal ⊺ Cap ⋒ Cup ⋓"
)
_RELATIONS = _table(
    "le ≤ leq ≤ leqslant ⩽ ge ≥ geq ≥ geqslant ⩾ ne ≠ neq ≠ equiv ≡ sim ∼ simeq ≃ approx ≈ approxeq ≊ cong ≅ propto ∝ "
    "ll ≪ gg ≫ lll ⋘ ggg ⋙ prec ≺ succ ≻ preceq ⪯ succeq ⪰ subset ⊂ supset ⊃ subseteq ⊆ supseteq ⊇ subsetneq ⊊ "
    "supsetneq ⊋ sqsubseteq ⊑ sqsupseteq ⊒ in ∈ ni ∋ notin ∉ mid ∣ nmid ∤ parallel ∥ nparallel ∦ perp ⟂ vdash ⊢ dashv ⊣ "
    "models ⊨ vDash ⊨ asymp ≍ doteq ≐ coloneqq ≔ eqqcolon ≕ triangleq ≜ bowtie ⋈ smile ⌣ frown ⌢ lesssim ≲ gtrsim ≳ "
    "lessgtr ≶ nless ≮ ngtr ≯ nleq ≰ ngeq ≱ nsubseteq ⊈ nsupseteq ⊉ nsim ≁ ncong ≇ Vdash ⊩ Subset ⋐ Supset ⋑ "
    "trianglelefteq ⊴ trianglerighteq ⊵ thickapprox ≈ thicksim ∼ lessapprox ⪅ gtrapprox ⪆ risingdotseq ≓ owns ∋ "
    "therefore ∴ because ∵ eqcirc ≖ circeq ≗ between ≬ pitchfork ⋔ varpropto ∝ backsim ∽ Doteq ≑"
)
_ARROWS = _table(
    "to → rightarrow → gets ← leftarrow ← leftrightarrow ↔ Rightarrow ⇒ Leftarrow ⇐ Leftrightarrow ⇔ implies ⟹ "
    "impliedby ⟸ iff ⟺ longrightarrow ⟶ longleftarrow ⟵ longleftrightarrow ⟷ Longrightarrow ⟹ Longleftarrow ⟸ "
    "Longleftrightarrow ⟺ mapsto ↦ longmapsto ⟼ uparrow ↑ downarrow ↓ updownarrow ↕ Uparrow ⇑ Downarrow ⇓ Updownarrow ⇕ "
    "nearrow ↗ searrow ↘ swarrow ↙ nwarrow ↖ hookrightarrow ↪ hookleftarrow ↩ rightharpoonup ⇀ rightharpoondown ⇁ "
    "leftharpoonup ↼ leftharpoondown ↽ rightleftharpoons ⇌ leftrightharpoons ⇋ rightleftarrows ⇄ rightrightarrows ⇉ "
    "rightsquigarrow ⇝ leadsto ⇝ nrightarrow ↛ nleftarrow ↚ nRightarrow ⇏ twoheadrightarrow ↠ rightarrowtail ↣ "
    "curvearrowright ↷ circlearrowright ↻ multimap ⊸ upharpoonright ↾ restriction ↾"
)
_OPENING = _table("lbrace { langle ⟨ lfloor ⌊ lceil ⌈ lvert | lVert ‖ lbrack [ ulcorner ⌜ llcorner ⌞ lgroup ⟮")
_CLOSING = _table("rbrace } rangle ⟩ rfloor ⌋ rceil ⌉ rvert | rVert ‖ rbrack ] urcorner ⌝ lrcorner ⌟ rgroup ⟯")
_PUNCTUATION = _table("colon : cdotp · ldotp .")

_BIG = {
    "sum": ("∑", "the sum", True), "prod": ("∏", "the product", True), "coprod": ("∐", "the coproduct", True),
    "int": ("∫", "the integral", False), "iint": ("∬", "the double integral", False),
    "iiint": ("∭", "the triple integral", False), "oint": ("∮", "the contour integral", False),
    "oiint": ("∯", "the surface integral", False), "bigcup": ("⋃", "the union", True),
    "bigcap": ("⋂", "the intersection", True), "bigsqcup": ("⨆", "the square union", True),
    "bigvee": ("⋁", "the disjunction", True), "bigwedge": ("⋀", "the conjunction", True),
    "bigoplus": ("⨁", "the direct sum", True), "bigotimes": ("⨂", "the tensor product", True),
    "bigodot": ("⨀", "the circled dot product", True), "biguplus": ("⨄", "the multiset union", True),
}  # fmt: skip

_FUNCTIONS = (
    "arccos arcsin arctan arg cos cosh cot coth csc deg dim exp hom ker lg ln log sec sin sinh tan tanh "
    "arccosh arcsinh arctanh sgn"
).split()
_FUNCTIONS_WITH_LIMITS = "det gcd inf lim max min Pr sup lcm argmax argmin".split()

_ACCENTS = {
    "hat": ("^", "hat", False, False), "widehat": ("^", "hat", False, True), "tilde": ("~", "tilde", False, False),
    "widetilde": ("~", "tilde", False, True), "bar": ("¯", "bar", False, False),
    "overline": ("¯", "overline", False, True), "underline": ("_", "underline", True, True),
    "vec": ("→", "vector", False, False), "overrightarrow": ("→", "arrow", False, True),
    "overleftarrow": ("←", "left arrow", False, True), "dot": ("˙", "dot", False, False),
    "ddot": ("¨", "two dots", False, False), "dddot": ("⃛", "three dots", False, False), "check": ("ˇ", "check", False, False),
    "breve": ("˘", "breve", False, False), "acute": ("´", "acute", False, False), "grave": ("`", "grave", False, False),
    "mathring": ("˚", "ring", False, False), "underbar": ("_", "underline", True, True),
}  # fmt: skip

_SPACES = {
    ",": 3 / 18, ":": 4 / 18, ">": 4 / 18, ";": 5 / 18, "!": -3 / 18, " ": 0.25, "quad": 1.0, "qquad": 2.0,
    "thinspace": 3 / 18, "medspace": 4 / 18, "thickspace": 5 / 18, "negthinspace": -3 / 18, "enspace": 0.5, "~": 0.25,
}  # fmt: skip

STYLES = {
    "mathrm": "upright", "mathit": "italic", "mathbf": "bold", "boldsymbol": "bold-italic", "bm": "bold-italic",
    "mathbb": "double-struck", "mathcal": "script", "mathscr": "script", "mathfrak": "fraktur", "mathsf": "sans",
    "mathtt": "mono", "mathnormal": "italic", "symbf": "bold", "symup": "upright",
}  # fmt: skip
"""Commands that set the letters of their argument in another style."""

TEXTS = {
    "text": "upright", "textrm": "upright", "textnormal": "upright", "mbox": "upright", "textit": "italic",
    "textbf": "bold", "textsf": "sans", "texttt": "mono", "emph": "italic",
}  # fmt: skip
"""Commands whose argument is running text."""

SIZES = {
    f"{name}{side}": (size, form)
    for name, size in (("big", 1.2), ("Big", 1.8), ("bigg", 2.4), ("Bigg", 3.0))
    for side, form in (("", "ordinary"), ("l", "open"), ("r", "close"), ("m", "relation"))
}
"""Commands that set the delimiter after them at a size: ems of height, and its role."""

MATRICES = {
    "matrix": ("", ""), "pmatrix": ("(", ")"), "bmatrix": ("[", "]"), "Bmatrix": ("{", "}"), "vmatrix": ("|", "|"),
    "Vmatrix": ("‖", "‖"), "smallmatrix": ("", ""),
}  # fmt: skip

ALIGNED = ("aligned", "align", "align*", "split", "eqnarray", "eqnarray*", "alignat", "alignat*", "alignedat")
GATHERED = ("gathered", "gather", "gather*", "multline", "multline*", "equation", "equation*")
ENVIRONMENTS = (*MATRICES, *ALIGNED, *GATHERED, "cases", "rcases", "dcases", "array", "substack", "subarray")

NEGATED = {
    "=": "≠", "∈": "∉", "∋": "∌", "⊂": "⊄", "⊃": "⊅", "⊆": "⊈", "⊇": "⊉", "<": "≮", ">": "≯", "≤": "≰", "≥": "≱",
    "∼": "≁", "≃": "≄", "≅": "≇", "≈": "≉", "≡": "≢", "∣": "∤", "∥": "∦", "∃": "∄", "⊢": "⊬", "⊨": "⊭", "→": "↛",
    "⇒": "⇏", "≺": "⊀", "≻": "⊁", "⟂": "⟂̸",
}  # fmt: skip
"""What `\\not` makes of a relation."""

DELIMITERS = {
    "(": "(", ")": ")", "[": "[", "]": "]", "|": "|", "/": "/", ".": "", "<": "⟨", ">": "⟩", "\\{": "{", "\\}": "}",
    "\\|": "‖", "\\backslash": "\\", "\\vert": "|", "\\Vert": "‖", "\\uparrow": "↑", "\\downarrow": "↓",
    "\\updownarrow": "↕", **{f"\\{k}": v for k, v in (_OPENING | _CLOSING).items()},
}  # fmt: skip
"""What may stand after `\\left`, `\\right`, `\\middle` and the sizes."""

ARGUMENT_COMMANDS = (
    "frac dfrac tfrac cfrac binom dbinom tbinom sqrt overbrace underbrace stackrel overset underset operatorname "
    "operatorname* phantom hphantom vphantom boxed cancel textcolor color tag substack limits nolimits left right middle "
    "not begin end displaystyle textstyle scriptstyle scriptscriptstyle mathop mathrel mathbin mathord mathopen mathclose "
    "ce mathpunct mathstrut smash xrightarrow xleftarrow pmod bmod mod pod notag nonumber hspace label"
).split()


def _signs() -> dict[str, Formula]:
    found: dict[str, Formula] = {}
    found |= {name: Identifier(text) for name, text in _GREEK.items()}
    found |= {name: Identifier(text, "upright") for name, text in _GREEK_CAPITALS.items()}
    found |= {
        name.rstrip("_"): Identifier(text, "upright") for name, text in _UPRIGHT.items() if not name.endswith("_")
    }
    for form, table in (
        ("binary", _BINARY), ("relation", _RELATIONS), ("arrow", _ARROWS), ("open", _OPENING), ("close", _CLOSING),
        ("punctuation", _PUNCTUATION),
    ):  # fmt: skip
        found |= {name: Operator(text, form) for name, text in table.items()}
    found |= {name: BigOperator(*parts) for name, parts in _BIG.items()}
    found |= {name: Function(name) for name in _FUNCTIONS}
    found |= {name: Function(name, limits=True) for name in _FUNCTIONS_WITH_LIMITS}
    found |= {"limsup": Function("lim sup", True), "liminf": Function("lim inf", True)}
    found |= {name: Space(width) for name, width in _SPACES.items()}
    found |= {sign: Operator(sign, "ordinary") for sign in "%$#&_"}
    found |= {"{": Operator("{", "open"), "}": Operator("}", "close"), "|": Operator("‖", "ordinary")}
    found |= {
        "backslash": Operator("\\", "ordinary"),
        "vert": Operator("|", "ordinary"),
        "Vert": Operator("‖", "ordinary"),
    }
    return found


SIGNS: dict[str, Formula] = _signs()
"""Commands without arguments: what each stands for."""

ACCENTS: dict[str, tuple[str, str, bool, bool]] = _ACCENTS
"""Accent commands: sign, name read aloud, whether under, whether it stretches."""

ALL_COMMANDS = sorted({*SIGNS, *ACCENTS, *STYLES, *TEXTS, *SIZES, *ARGUMENT_COMMANDS})


def accent(name: str, base: Formula) -> Accent:
    """The accent `name` on `base`."""
    sign, said, under, stretchy = ACCENTS[name]
    return Accent(base, sign, said, under, stretchy)
