// A journal's sheets: two columns, the head and the abstract over both, floats at the heads of columns.
#import "base.typ": *

#let sheets(title: "", authors: (), keywords: (), language: "en", paper: "a4", fonts: (), running: none, body) = {
  set document(title: title, author: authors, keywords: keywords, date: none)
  set text(font: body-font + fonts, size: 9.4pt, fill: ink, lang: language, number-type: "lining", hyphenate: true)
  set page(
    paper: if paper == "letter" { "us-letter" } else { "a4" }, columns: 2,
    margin: if paper == "letter" { (x: 19.95mm, top: 22mm, bottom: 22mm) } else { (x: 17mm, top: 22mm, bottom: 24mm) },
    header: context {
      if here().page() > 1 and not is-empty-sheet() {
        set text(size: 8pt, fill: soft)
        if calc.even(here().page()) { grid(columns: (auto, 1fr), column-gutter: 1.5em, counter(page).display(), align(right, running)) }
        else { grid(columns: (1fr, auto), running, counter(page).display()) }
        v(-0.5em)
        line(length: 100%, stroke: 0.4pt + hair)
      }
    },
    footer: context { if here().page() == 1 { align(center, text(size: 8pt, fill: soft, counter(page).display())) } },
  )
  set columns(gutter: 7mm)
  set par(justify: true, leading: 0.58em, spacing: 0.58em, first-line-indent: (amount: 1.1em, all: false), linebreaks: "optimized")
  set heading(numbering: none)
  show heading: set block(above: 1.5em, below: 0.75em, sticky: true)
  show heading: set par(justify: false)
  show heading: set text(hyphenate: false)
  show heading.where(level: 1): set text(size: 11pt, weight: "semibold")
  show heading.where(level: 2): set text(size: 9.6pt, weight: "semibold")
  show heading.where(level: 3): set text(size: 9.4pt, weight: "regular", style: "italic")
  show link: set text(fill: mark-ink)
  set list(indent: 0.3em, body-indent: 0.5em, marker: ([•], [–], [·]), spacing: 0.5em)
  set enum(indent: 0.3em, body-indent: 0.5em, spacing: 0.5em)
  show figure: set par(first-line-indent: 0pt)
  show figure: set block(above: 1.4em, below: 1.4em)
  set figure(gap: 0.6em)
  show figure.caption: set text(size: 8.2pt)
  show figure.where(kind: table): set figure.caption(position: top)
  set footnote.entry(separator: line(length: 18mm, stroke: 0.4pt + soft), gap: 0.4em)
  show footnote.entry: set text(size: 8pt)
  show math.equation.where(block: true): set block(above: 1em, below: 1em)
  set table(stroke: none)
  body
}

#let title-block(title: none, subtitle: none, authors: (), date: none, abstract: none, abstract-word: "", keywords: none, keywords-word: "", corresponding-word: "", ..more) = place(
  top, scope: "parent", float: true, clearance: 2em,
  {
    set par(justify: false, first-line-indent: 0pt)
    let places = authors.map(a => a.places).flatten().dedup()
    line(length: 100%, stroke: 1.2pt + ink)
    v(0.4em)
    block(below: 0.9em, std.title(text(size: 19pt, weight: "regular", hyphenate: false, title)))
    if subtitle != none { block(below: 1em, text(size: 12pt, fill: soft, style: "italic", subtitle)) }
    if authors.len() > 0 {
      block(above: 1.1em, below: 0.7em, text(size: 10.5pt, authors.map(a => {
        a.name
        if places.len() > 1 { super(a.places.map(p => str(places.position(other => other == p) + 1)).join(",")) }
        if a.corresponding { super([\*]) }
      }).join(", ")))
      block(below: 0.7em, text(size: 8.2pt, fill: soft, {
        for (n, place) in places.enumerate() { if n > 0 { [; ] }; if places.len() > 1 { super(str(n + 1)) }; place }
        for a in authors.filter(a => a.email != "") { [. ]; if a.corresponding { [\*] }; link("mailto:" + a.email, a.email) }
      }))
    }
    if date != none { block(below: 0.8em, text(size: 8.2pt, fill: soft, date)) }
    if abstract != none or keywords != none {
      block(above: 1em, width: 100%, fill: tint, inset: (x: 1.2em, y: 0.9em), stroke: (top: 0.8pt + ink, bottom: 0.4pt + soft), {
        set text(size: 9pt)
        set par(justify: true, leading: 0.55em)
        if abstract != none { strong(abstract-word) + h(0.7em) + abstract }
        if keywords != none { block(above: 0.9em, text(size: 8.4pt, [#strong(keywords-word)#h(0.7em)#keywords])) }
      })
    }
  },
)

#let captioned(kind, word, number, words, side: center, breaks: false, wide: false, body) = {
  let made = figure(
    { set text(size: 8.4pt); body }, kind: kind, supplement: none, numbering: none, outlined: false,
    caption: if words == none { none } else { figure.caption(block(width: 100%, align(start, { set par(justify: false); caption-of(word, number, words) }))) },
  )
  if words == none { made } else if breaks { show figure: set block(breakable: true); made } else if wide { place(auto, scope: "parent", float: true, clearance: 1.6em, made) } else { place(auto, float: true, clearance: 1.6em, made) }
}

#let references(labelled: false, ..entries) = {
  set par(justify: false, leading: 0.5em, first-line-indent: 0pt)
  set text(size: 8.3pt)
  for entry in entries.pos() {
    let body = if labelled { grid(columns: (2em, 1fr), text(fill: soft, entry.label), entry.words) } else { par(hanging-indent: 1.2em, entry.words) }
    [#block(above: 0.6em, below: 0.6em, body)#label(entry.id)]
  }
}
