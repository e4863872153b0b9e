"""Words of citations in the languages pages are written in: CSL's terms, and how dates are put together."""

from __future__ import annotations


def _table(text: str) -> dict[str, tuple[str, str]]:
    """Lines `name = singular | plural`."""
    made = {}
    for line in text.strip().splitlines():
        name, _, words = line.partition("=")
        one, _, many = words.strip().partition("|")
        made[name.strip()] = (one.strip(), (many or one).strip())
    return made


_ENGLISH = _table("""
and = and
and others = and others
et-al = et al.
anonymous = anonymous
at = at
available at = available at
by = by
circa = circa
circa short = c.
cited = cited
edition = edition | editions
edition short = ed.
forthcoming = forthcoming
from = from
ibid = ibid.
in = in
in press = in press
internet = internet
interview = interview
letter = letter
no date = no date
no date short = n.d.
online = online
presented at = presented at the
reference = reference | references
retrieved = retrieved
accessed = accessed
scale = scale
version = version
ad = AD
bc = BC
open-quote = “
close-quote = ”
open-inner-quote = ‘
close-inner-quote = ’
page-range-delimiter = –
book = book | books
book short = bk. | bks.
chapter = chapter | chapters
chapter short = chap. | chaps.
column = column | columns
column short = col. | cols.
figure = figure | figures
figure short = fig. | figs.
folio = folio | folios
folio short = fol. | fols.
issue = number | numbers
issue short = no. | nos.
line = line | lines
line short = l. | ll.
note = note | notes
note short = n. | nn.
number = number | numbers
number short = no. | nos.
page = page | pages
page short = p. | pp.
number-of-pages = page | pages
number-of-pages short = p. | pp.
paragraph = paragraph | paragraphs
paragraph short = para. | paras.
part = part | parts
part short = pt. | pts.
section = section | sections
section short = sec. | secs.
table = table | tables
equation = equation | equations
sub-verbo = sub verbo | sub verbis
verse = verse | verses
volume = volume | volumes
volume short = vol. | vols.
number-of-volumes = volume | volumes
number-of-volumes short = vol. | vols.
editor = editor | editors
editor short = ed. | eds.
editor verb = edited by
editor verb-short = ed. by
translator = translator | translators
translator short = trans.
translator verb = translated by
translator verb-short = trans. by
editortranslator = editor & translator | editors & translators
editortranslator short = ed. & trans. | eds. & trans.
editortranslator verb = edited & translated by
editortranslator verb-short = ed. & trans. by
collection-editor = editor | editors
collection-editor short = ed. | eds.
container-author verb = by
director = director | directors
interviewer verb = interview by
illustrator verb = illustrated by
recipient verb = to
season-01 = Spring
season-02 = Summer
season-03 = Autumn
season-04 = Winter
""")
_GERMAN = _table("""
and = und
and others = und andere
et-al = u. a.
at = auf
available at = verfügbar unter
by = von
circa = circa
circa short = ca.
cited = zitiert
edition = Auflage | Auflagen
edition short = Aufl.
from = von
ibid = ebd.
in = in
in press = im Druck
forthcoming = i. E.
no date = ohne Datum
no date short = o. J.
online = online
presented at = gehalten auf der
reference = Referenz | Referenzen
retrieved = abgerufen
accessed = zugegriffen
version = Version
open-quote = „
close-quote = “
open-inner-quote = ‚
close-inner-quote = ‘
page-range-delimiter = –
chapter = Kapitel
chapter short = Kap.
figure = Abbildung | Abbildungen
figure short = Abb.
issue = Nummer | Nummern
issue short = Nr.
line = Zeile | Zeilen
line short = Z.
note = Note | Noten
note short = N.
number = Nummer | Nummern
number short = Nr.
page = Seite | Seiten
page short = S.
number-of-pages = Seite | Seiten
number-of-pages short = S.
paragraph = Absatz | Absätze
paragraph short = Abs.
part = Teil | Teile
section = Abschnitt | Abschnitte
section short = Abschn.
table = Tabelle | Tabellen
equation = Gleichung | Gleichungen
volume = Band | Bände
volume short = Bd. | Bde.
number-of-volumes = Band | Bände
number-of-volumes short = Bd. | Bde.
editor = Herausgeber
editor short = Hrsg.
editor verb = herausgegeben von
editor verb-short = hg. von
translator = Übersetzer
translator short = Übers.
translator verb = übersetzt von
translator verb-short = übers. von
collection-editor = Herausgeber
collection-editor short = Hrsg.
season-01 = Frühjahr
season-02 = Sommer
season-03 = Herbst
season-04 = Winter
""")
_FRENCH = _table("""
and = et
and others = et autres
et-al = et al.
at = à
available at = disponible à l’adresse
by = par
circa = vers
circa short = v.
cited = cité
edition = édition | éditions
edition short = éd.
from = à l’adresse
ibid = ibid.
in = in
in press = sous presse
forthcoming = à paraître
no date = sans date
no date short = s. d.
online = en ligne
presented at = présenté à
reference = référence | références
retrieved = consulté
accessed = consulté le
version = version
open-quote = «\u202f
close-quote = \u202f»
open-inner-quote = “
close-inner-quote = ”
page-range-delimiter = –
chapter = chapitre | chapitres
chapter short = chap.
figure = figure | figures
figure short = fig.
issue = numéro | numéros
issue short = nᵒ | nᵒˢ
line = ligne | lignes
line short = l.
note = note | notes
note short = n.
number = numéro | numéros
number short = nᵒ | nᵒˢ
page = page | pages
page short = p.
number-of-pages = page | pages
number-of-pages short = p.
paragraph = paragraphe | paragraphes
paragraph short = paragr.
part = partie | parties
section = section | sections
section short = sect.
table = tableau | tableaux
equation = équation | équations
volume = volume | volumes
volume short = vol.
number-of-volumes = volume | volumes
number-of-volumes short = vol.
editor = éditeur | éditeurs
editor short = éd.
editor verb = édité par
editor verb-short = éd. par
translator = traducteur | traducteurs
translator short = trad.
translator verb = traduit par
translator verb-short = trad. par
collection-editor = directeur | directeurs
collection-editor short = dir.
season-01 = printemps
season-02 = été
season-03 = automne
season-04 = hiver
""")
_SPANISH = _table("""
and = y
and others = y otros
et-al = et al.
at = en
available at = disponible en
by = de
circa = circa
circa short = c.
cited = citado
edition = edición | ediciones
edition short = ed.
from = de
ibid = ibid.
in = en
in press = en imprenta
forthcoming = en preparación
no date = sin fecha
no date short = s. f.
online = en línea
presented at = presentado en
reference = referencia | referencias
retrieved = recuperado
accessed = accedido
version = versión
open-quote = «
close-quote = »
open-inner-quote = “
close-inner-quote = ”
page-range-delimiter = –
chapter = capítulo | capítulos
chapter short = cap. | caps.
figure = figura | figuras
figure short = fig.
issue = número | números
issue short = n.º | n.ᵒˢ
line = línea | líneas
line short = l.
note = nota | notas
note short = n.
number = número | números
number short = n.º | n.ᵒˢ
page = página | páginas
page short = p. | pp.
number-of-pages = página | páginas
number-of-pages short = p. | pp.
paragraph = párrafo | párrafos
paragraph short = párr.
part = parte | partes
section = sección | secciones
section short = sec.
table = tabla | tablas
equation = ecuación | ecuaciones
volume = volumen | volúmenes
volume short = vol.
number-of-volumes = volumen | volúmenes
number-of-volumes short = vol.
editor = editor | editores
editor short = ed. | eds.
editor verb = editado por
editor verb-short = ed.
translator = traductor | traductores
translator short = trad.
translator verb = traducido por
translator verb-short = trad.
collection-editor = editor | editores
collection-editor short = ed. | eds.
season-01 = primavera
season-02 = verano
season-03 = otoño
season-04 = invierno
""")
TERMS = {"en": _ENGLISH, "de": _GERMAN, "fr": _FRENCH, "es": _SPANISH}
MONTHS = {
    "en": "January February March April May June July August September October November December",
    "de": "Januar Februar März April Mai Juni Juli August September Oktober November Dezember",
    "fr": "janvier février mars avril mai juin juillet août septembre octobre novembre décembre",
    "es": "enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
}
SHORT_MONTHS = {
    "en": "Jan. Feb. Mar. Apr. May Jun. Jul. Aug. Sep. Oct. Nov. Dec.", "de": "Jan. Feb. März Apr. Mai Juni Juli Aug. Sep. Okt. Nov. Dez.",
    "fr": "janv. févr. mars avr. mai juin juill. août sept. oct. nov. déc.", "es": "ene. feb. mar. abr. may jun. jul. ago. sep. oct. nov. dic.",
}  # fmt: skip
DATES = {
    ("en-US", "text"): (("month", "", " "), ("day", "", ", "), ("year", "", "")),
    ("en", "text"): (("day", "", " "), ("month", "", " "), ("year", "", "")),
    ("en-US", "numeric"): (("month", "", "/"), ("day", "", "/"), ("year", "", "")),
    ("en", "numeric"): (("day", "", "/"), ("month", "", "/"), ("year", "", "")),
    ("de", "text"): (("day", "", ". "), ("month", "", " "), ("year", "", "")),
    ("de", "numeric"): (("day", "", "."), ("month", "", "."), ("year", "", "")),
    ("fr", "text"): (("day", "", " "), ("month", "", " "), ("year", "", "")),
    ("fr", "numeric"): (("day", "", "/"), ("month", "", "/"), ("year", "", "")),
    ("es", "text"): (("day", "", " de "), ("month", "", " de "), ("year", "", "")),
    ("es", "numeric"): (("day", "", "/"), ("month", "", "/"), ("year", "", "")),
}
"""By language and form: part, prefix and suffix, in order."""


def ordinal(number: int, language: str, of_a_day: bool = False) -> str:
    """`1st`, `2.`, `3ᵉ`, `4.ª`: of an edition, or of a day, which differ where a language has genders."""
    match language:
        case "en":
            ending = "th" if 10 <= number % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
        case "fr":
            ending = ("ᵉʳ" if of_a_day else "ʳᵉ") if number == 1 else "ᵉ"
        case "es":
            ending = ".º" if of_a_day else ".ª"
        case _:
            ending = "."
    return f"{number}{ending}"


LONG_ORDINALS = {
    "en": "first second third fourth fifth sixth seventh eighth ninth tenth",
    "de": "erste zweite dritte vierte fünfte sechste siebte achte neunte zehnte",
    "fr": "première deuxième troisième quatrième cinquième sixième septième huitième neuvième dixième",
    "es": "primera segunda tercera cuarta quinta sexta séptima octava novena décima",
}
"""First to tenth; for editions, so where a language has genders, in that of its word for them."""
