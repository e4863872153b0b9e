// A manuscript for reviewers: a title sheet of its own, double spacing, lines numbered along the margin.
#import "base.typ": *

#let sheets(title: "", authors: (), keywords: (), language: "en", paper: "a4", fonts: (), running: none, body) = {
  set document(title: title, author: authors, keywords: keywords, date: none)
  set text(font: body-font + fonts, size: 11.5pt, fill: ink, lang: language, number-type: "lining")
  set page(
    paper: if paper == "letter" { "us-letter" } else { "a4" },
    margin: if paper == "letter" { (x: 28.45mm, top: 27mm, bottom: 27mm) } else { (x: 25.5mm, top: 28mm, bottom: 28mm) },
    header: context { if here().page() > 1 and not is-empty-sheet() { set text(size: 9pt, fill: soft); grid(columns: (1fr, auto), running, counter(page).display()) } },
  )
  set par(justify: false, leading: 1.35em, spacing: 1.35em, first-line-indent: (amount: 1.6em, all: false), linebreaks: "optimized")
  set par.line(numbering: number => text(size: 7.5pt, fill: soft, str(number)), number-clearance: 1.4em)
  set heading(numbering: none)
  show heading: set block(above: 1.6em, below: 1em, sticky: true)
  show heading.where(level: 1): set text(size: 13pt, weight: "semibold")
  show heading.where(level: 2): set text(size: 11.5pt, weight: "semibold")
  show heading.where(level: 3): set text(size: 11.5pt, weight: "regular", style: "italic")
  show link: set text(fill: mark-ink)
  show figure: set par.line(numbering: none)
  show figure: set par(leading: 0.66em, first-line-indent: 0pt)
  show figure: set block(above: 2em, below: 2em)
  set figure(gap: 0.9em)
  show figure.caption: set text(size: 10pt)
  show figure.where(kind: table): set figure.caption(position: top)
  set footnote.entry(separator: line(length: 22mm, stroke: 0.4pt + soft), gap: 0.6em)
  show footnote.entry: set text(size: 9.5pt)
  show footnote.entry: set par(leading: 0.66em)
  show math.equation.where(block: true): set block(above: 1.6em, below: 1.6em)
  set table(stroke: none)
  body
}

#let title-block(title: none, subtitle: none, authors: (), date: none, abstract: none, abstract-word: "", keywords: none, keywords-word: "", running: none, running-word: "", words: "", corresponding-word: "", ..more) = {
  set par.line(numbering: none)
  set par(justify: false, leading: 0.8em, first-line-indent: 0pt)
  let places = authors.map(a => a.places).flatten().dedup()
  v(18mm)
  block(below: 1.2em, std.title(text(size: 18pt, weight: "semibold", hyphenate: false, title)))
  if subtitle != none { block(below: 1.4em, text(size: 13pt, style: "italic", subtitle)) }
  if authors.len() > 0 {
    block(above: 2em, text(size: 12pt, authors.map(a => {
      a.name
      if places.len() > 1 { super(a.places.map(p => str(places.position(other => other == p) + 1)).join(",")) }
      if a.corresponding { super([\*]) }
    }).join(", ")))
    block(above: 1.2em, { set text(size: 10pt); for (n, place) in places.enumerate() { if places.len() > 1 { super(str(n + 1)) }; place; linebreak() } })
    for a in authors.filter(a => a.corresponding and a.email != "") {
      block(above: 1em, text(size: 10pt, [\* #corresponding-word: #a.name, #link("mailto:" + a.email, a.email)]))
    }
  }
  if running != none { block(above: 1.6em, text(size: 10pt, [#strong(running-word) #h(0.5em) #running])) }
  if words != "" { block(text(size: 10pt, words)) }
  if date != none { block(text(size: 10pt, date)) }
  pagebreak()
  if abstract != none {
    set par(leading: 1.35em)
    block(below: 1em, text(size: 13pt, weight: "semibold", abstract-word))
    abstract
  }
  if keywords != none { block(above: 1.6em, [#strong(keywords-word) #h(0.5em) #keywords]) }
  pagebreak()
}

#let code(breaks: true, body) = block(
  width: 100%, fill: tint, radius: 2pt, inset: (x: 0.8em, y: 0.65em), above: 1.4em, below: 1.4em, breakable: breaks,
  { set par.line(numbering: none); as-code(8.5pt, 0.55em, { set par(spacing: 0pt, hanging-indent: 2em, first-line-indent: 0pt); body }) },
)

#let references(labelled: false, ..entries) = {
  set par.line(numbering: none)
  set par(justify: false, leading: 0.9em, first-line-indent: 0pt)
  for entry in entries.pos() {
    let body = if labelled { grid(columns: (2.2em, 1fr), entry.label, entry.words) } else { par(hanging-indent: 1.8em, entry.words) }
    [#block(above: 1.1em, below: 1.1em, body)#label(entry.id)]
  }
}
