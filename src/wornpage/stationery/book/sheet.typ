// A book: sheets for both sides, the chapter along the head, chapters that begin low on their sheet.
#import "base.typ": *

// What is said along the head of a sheet: nothing where a chapter or a part begins.
#let chapter-of() = {
  let here-on = here().page()
  let begun = query(heading.where(level: 1)).filter(one => one.location().page() <= here-on)
  if begun.len() == 0 or begun.last().location().page() == here-on { none } else { begun.last().body }
}

#let sheets(title: "", authors: (), keywords: (), language: "en", paper: "a4", fonts: (), running: none, body) = {
  set document(title: title, author: authors, keywords: keywords, date: none)
  set text(font: body-font + fonts, size: 10.5pt, fill: ink, lang: language, number-type: "lining")
  set page(
    paper: if paper == "letter" { "us-letter" } else { "a4" },
    margin: if paper == "letter" { (inside: 33mm, outside: 36.9mm, top: 30mm, bottom: 30mm) } else { (inside: 30mm, outside: 34mm, top: 32mm, bottom: 34mm) },
    header: context {
      let words = chapter-of()
      if words != none and here().page() > 1 and not is-empty-sheet() {
        set text(size: 8.5pt, fill: soft)
        show linebreak: h(0.8em)
        if calc.even(here().page()) { grid(columns: (auto, 1fr), column-gutter: 1.2em, counter(page).display(), align(right, running)) }
        else { grid(columns: (1fr, auto), column-gutter: 1.2em, words, counter(page).display()) }
      }
    },
    footer: context {
      if chapter-of() == none and here().page() > 1 and not is-empty-sheet() { align(center, text(size: 8.5pt, fill: soft, counter(page).display())) }
    },
  )
  set par(justify: true, leading: 0.68em, spacing: 0.68em, first-line-indent: (amount: 1.4em, all: false), linebreaks: "optimized")
  set heading(numbering: none)
  show heading: set block(above: 1.7em, below: 0.8em, sticky: true)
  show heading: set par(justify: false, first-line-indent: 0pt)
  show heading.where(level: 1): it => block(above: 0pt, below: 2.4em, width: 100%, { v(14mm); set text(size: 21pt, weight: "semibold", hyphenate: false); it.body })
  show heading.where(level: 2): set text(size: 13pt, weight: "semibold")
  show heading.where(level: 3): set text(size: 11pt, weight: "semibold")
  show heading.where(level: 4): set text(size: 10.5pt, weight: "semibold", style: "italic")
  show link: set text(fill: mark-ink)
  set list(indent: 0.4em, body-indent: 0.6em, marker: ([•], [–], [·]))
  set enum(indent: 0.4em, body-indent: 0.6em)
  show figure: set block(above: 1.6em, below: 1.7em)
  show figure: set par(first-line-indent: 0pt)
  set figure(gap: 0.75em)
  show figure.caption: set text(size: 9pt)
  show figure.where(kind: table): set figure.caption(position: top)
  set footnote.entry(separator: line(length: 22mm, stroke: 0.4pt + soft), gap: 0.5em)
  show footnote.entry: set text(size: 8.5pt)
  show footnote.entry: set par(first-line-indent: 0pt)
  show math.equation.where(block: true): set block(above: 1.15em, below: 1.15em)
  set table(stroke: none)
  body
}

// The number of a chapter stands on a line of its own.
#let numbered(number, words) = if number == "" { words } else if number.contains(".") { text(fill: soft, weight: "regular", number) + h(0.7em) + words } else {
  text(size: 0.62em, fill: soft, weight: "regular", number) + linebreak() + words
}

#let title-block(title: none, subtitle: none, authors: (), date: none, abstract: none, abstract-word: "", keywords: none, keywords-word: "", ..more) = {
  set par(justify: false, first-line-indent: 0pt)
  v(1fr)
  block(below: 1em, std.title(text(size: 28pt, weight: "semibold", hyphenate: false, title)))
  if subtitle != none { block(below: 1.6em, text(size: 15pt, fill: soft, style: "italic", subtitle)) }
  v(0.6fr)
  for a in authors { block(below: 0.7em, { text(size: 11.5pt, weight: "semibold", a.name); for place in a.places { linebreak(); text(size: 9.5pt, fill: soft, place) } }) }
  if date != none { block(above: 1.6em, text(size: 9.5pt, fill: soft, date)) }
  v(2fr)
  if abstract != none {
    set text(size: 9.8pt)
    block(width: 82%, inset: before(1.1em), stroke: before(2pt + hair), abstract)
    v(0.6fr)
  }
  pagebreak(weak: true)
}
