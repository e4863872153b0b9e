// The looks of slides on sheets. The measures are those of `slides.css` and of `output/deck/measuring.py`.
#import "sheet.typ": *

#let sans = ("Worn Sans", "Libertinus Serif")
#let u(points) = points * 0.75pt // points of a screen, 96 to the inch
#let light = rgb("#fbfaf7")
#let section-ground = rgb("#1c5a63")

// What a slide has said of itself: its letters' scale, and whether its ground is dark.
#let now = state("slide", (scale: 1.0, dark: false))
#let sized(points, body) = context text(size: u(points * now.get().scale), body)
#let faint(body) = context text(fill: if now.get().dark { rgb("#d3dcd9") } else { soft }, body)

#let deck(title: "", authors: (), keywords: (), language: "en", fonts: (), body) = {
  set document(title: title, author: authors, keywords: keywords, date: none)
  set text(font: sans + fonts, size: u(29), fill: ink, lang: language, number-type: "lining", top-edge: 0.8em, bottom-edge: -0.2em)
  set par(justify: false, leading: 0.4em, spacing: 0.88em)
  set block(spacing: 0.88em)
  set heading(numbering: none)
  show heading: set block(above: 0pt, below: 0pt, sticky: false)
  set list(indent: 0.3em, body-indent: 0.6em, spacing: 0.62em, marker: ([•], [–], [·]))
  set enum(indent: 0.3em, body-indent: 0.6em, spacing: 0.62em)
  show link: it => context text(fill: if now.get().dark { rgb("#c9ece8") } else { mark-ink }, it)
  show math.equation.where(block: true): set text(size: 1.12em)
  show math.equation: set text(font: "New Computer Modern Math")
  set table(stroke: none)
  set figure(gap: 0.25em)
  show figure: set block(above: 0pt, below: 0pt, breakable: false)
  show figure.where(kind: table): set figure.caption(position: top)
  body
}

#let title-of(number, words, part: "", own-line: false) = {
  set text(weight: "bold")
  if number != "" { faint(text(weight: "regular", size: if own-line { 0.5em } else { 1em }, number)); if own-line { linebreak() } else { h(0.5em) } }
  words
  if part != "" { h(0.5em); faint(text(size: 0.55em, weight: "regular", part)) }
}
#let numbered(number, words) = if number == "" { words } else { faint(text(weight: "regular", number)) + h(0.5em) + words }

// One slide, of a fixed size wherever it stands. `title` is a heading already, or none.
#let slide(
  size: (0pt, 0pt), side: 64, kind: "plain", vertical: "top", ground: none, dark: false, behind: none, title: none,
  foot: none, count: "", notes: none, over: none, scale: 1.0, body,
) = block(width: size.at(0), height: size.at(1), clip: true, breakable: false, fill: if ground != none { ground } else if kind == "section" { section-ground } else { white }, {
  now.update((scale: scale, dark: dark))
  set text(fill: if dark { light } else { ink })
  set par(justify: false)
  if behind != none { pdf.artifact(place(behind)); pdf.artifact(place(rect(width: 100%, height: 100%, fill: rgb("#0b1416a4")))) }
  if kind == "title" {
    block(width: 100%, height: 100%, inset: (x: u(side * 1.5)), align(horizon, block(stroke: before(u(6) + mark-ink), inset: before(u(36)), body)))
  } else if kind == "section" {
    block(width: 100%, height: 100%, inset: (x: u(side * 1.5)), align(horizon, { set text(size: u(52)); show heading: set text(size: u(52)); set par(leading: 0.15em); title }))
  } else {
    let whole(natural) = {
      if title != none {
        block(below: u(20), { set text(size: u(42)); show heading: set text(size: u(42)); set par(leading: 0.15em); title })
      }
      set text(size: u(29 * scale))
      show heading: set text(size: u(31.3 * scale))
      if natural or vertical == "top" { body } else { block(width: 100%, height: 1fr, align(if vertical == "centre" { horizon } else { bottom }, block(width: 100%, body))) }
      if notes != none { if not natural { v(1fr) }; line(length: 100%, stroke: 0.75pt + hair); sized(18, faint(notes)) }
    }
    pad(x: u(side), top: u(44), bottom: u(46), layout(room => {
      // what is too tall keeps its lines, and runs out of the slide
      let needed = measure(width: room.width, whole(true)).height
      block(width: 100%, height: calc.max(needed, room.height), whole(false))
    }))
  }
  if notes != none and kind in ("title", "section") {
    place(bottom + start, pad(x: u(side), bottom: u(46), block(width: size.at(0) - 2 * u(side), { set text(size: u(29)); line(length: 100%, stroke: 0.75pt + hair); sized(18, faint(notes)) })))
  }
  if foot != none and kind != "title" {
    pdf.artifact(place(bottom, pad(x: u(side), bottom: u(14), block(width: 100%, { set text(size: u(15)); faint(foot); h(1fr); faint(count) }))))
  }
  if over != none { pdf.artifact(place(top + left, over)) }
})

// Three to a sheet of A4, with lines beside to write on.
#let handout(size, slides, running) = {
  set page(paper: "a4", margin: (x: 16mm, y: 16mm), fill: white)
  for at in range(0, slides.len(), step: 3) {
    if at > 0 { pagebreak() }
    grid(columns: (96mm, 1fr), column-gutter: 9mm, row-gutter: 9mm, rows: (81mm,) * 3,
      ..slides.slice(at, calc.min(at + 3, slides.len())).map(one => (
        { std.scale(96mm / size.at(0) * 100%, origin: top + left, reflow: true, one); pdf.artifact(place(top + left, rect(width: 96mm, height: 96mm * (size.at(1) / size.at(0)), stroke: 0.5pt + hair))) },
        pdf.artifact({ for row in range(8) { v(8.2mm); line(length: 100%, stroke: 0.4pt + hair) } }),
      )).flatten())
    pdf.artifact(place(bottom, text(size: 8pt, fill: soft, running)))
  }
}

#let head-of-deck(title, subtitle, authors, date) = {
  { set par(leading: 0.15em); std.title(text(size: u(58), weight: "bold", title)) }
  if subtitle != none { v(u(16), weak: true); text(size: u(29), fill: soft, subtitle) }
  if authors.len() > 0 {
    v(u(38), weak: true)
    set text(size: u(21))
    grid(columns: calc.min(authors.len(), 3) * (auto,), column-gutter: 2em, row-gutter: 0.8em, align: top + start, ..authors.map(a => {
      strong(a.name)
      for place in a.places { linebreak(); text(fill: soft, place) }
    }))
  }
  if date != none { v(u(18), weak: true); text(size: u(20), fill: soft, date) }
}

// --- blocks, larger than on a page ---------------------------------------------------------------

#let caption-of(word, number, words) = {
  if number != "" { text(weight: "bold", word + sym.space.nobreak + number) + h(0.5em) }
  faint(words)
}
#let captioned(kind, word, number, words, side: center, breaks: false, wide: false, body) = {
  set align(side)
  show figure: set align(side)
  figure(body, kind: kind, supplement: none, numbering: none, outlined: false,
    caption: if words == none { none } else { figure.caption(sized(18, align(side, caption-of(word, number, words)))) })
}
#let listing(word, number, words, breaks: true, body) = block(width: 100%, breakable: false, { block(below: 0.3em, sized(18, caption-of(word, number, words))); body })
#let shown-parts(..pictures) = grid(columns: (1fr,) * pictures.pos().len(), column-gutter: u(24), align: center + top, ..pictures.pos())
#let part(letter, body) = if letter == "" { body } else { stack(dir: ttb, spacing: 0.2em, body, sized(18, faint("(" + letter + ")"))) }
#let code-line(number: none, look: "plain", body) = {
  let shown = if number == none { body } else { grid(columns: (2.2em, 1fr), column-gutter: 0.9em, align(right, text(fill: roles.comment, number)), body) }
  let shown = if look == "dim" { text(fill: rgb("#1d202466"), shown) } else { shown }
  block(width: 100%, spacing: 0pt, outset: (x: u(12)), inset: (y: 0.225em), fill: if look == "picked" { rgb("#e9e2cb") }, stroke: if look == "picked" { (left: 3pt + mark-ink) }, shown)
}
#let role(name, body) = context text(fill: roles.at(name, default: ink), body)
#let code(breaks: true, body) = context block(width: 100%, fill: if now.get().dark { light } else { tint }, radius: 4pt, inset: u(12), breakable: false,
  { set text(fill: ink); as-code(u(20 * now.get().scale), 0.45em, { set par(spacing: 0pt, hanging-indent: 2em); body }) })
#let asides(..notes) = block(width: 100%, above: 0.4em, { set align(start); sized(18, faint(enum(..notes))) })
#let output(kind, cut: none, body) = context {
  let dark = now.get().dark
  let (line, fill, paint) = if kind == "error" { (alarm, rgb("#f8e9e4"), alarm) } else if kind == "notice" { (notice-ink, rgb("#f6efd9"), notice-ink) } else { (hair, none, if dark { light } else { ink }) }
  block(width: 100%, inset: (x: u(12), y: u(6)), stroke: (left: 3pt + line), fill: fill, breakable: false,
    { as-code(u(20 * now.get().scale), 0.45em, text(fill: paint, body)); if cut != none { linebreak(); sized(18, faint(cut)) } })
}
#let side-by-side(widths, gutter, ..cells) = block(width: 100%, grid(columns: widths, column-gutter: u(32), ..cells))
#let box-of(kind, title: none, body) = context block(
  width: 100%, inset: (x: u(20), y: u(12)), breakable: false, stroke: before(3.5pt + if kind in ("caution", "warning") { alarm } else { mark-ink }),
  fill: if now.get().dark { rgb("#ffffff1c") } else if kind in ("caution", "warning") { rgb("#f8e9e4") } else { tint },
  { if title != none { block(below: 0.3em, sized(18, strong(title))) }; body },
)
#let quoted(body) = block(inset: before(1em), stroke: before(3.5pt + hair), faint(body))
#let ruled = align(center, line(length: 30%, stroke: 1.5pt + hair))
#let tabled(size: 9pt, columns: (), aligns: (), head: (), head-rows: 1, repeats: true, rules: (), note: none, ..cells) = context {
  set text(size: size, number-width: "tabular")
  set par(justify: false, leading: 0.3em)
  let paint = if now.get().dark { light } else { ink }
  table(
    columns: columns, align: aligns, inset: (x: u(10), y: u(4.5)), stroke: (x, y) => if y > head-rows { (top: 0.5pt + hair) },
    table.hline(stroke: 1.5pt + paint),
    ..if head-rows > 0 { (table.header(repeat: false, ..head, ..rules, table.hline(stroke: 1.5pt + paint)),) } else { () },
    ..cells,
    table.hline(stroke: 1.5pt + paint),
  )
}
#let references(labelled: false, ..entries) = {
  set par(justify: false)
  for entry in entries.pos() {
    let body = if labelled { grid(columns: (2.6em, 1fr), faint(entry.label), entry.words) } else { par(hanging-indent: 1.8em, entry.words) }
    [#block(below: 0.35em, sized(18, body))#if entry.id != "" { label(entry.id) }]
  }
}
#let contents-list(title, ..entries) = for entry in entries.pos() {
  block(spacing: 0.4em, inset: before((entry.level - 1) * 1.3em), link(label(entry.label), { if entry.number != "" { faint(entry.number) + h(0.6em) }; entry.words }))
}
