// The looks of a report on paper. The writer calls these functions; it decides nothing about looks.
#import "script.typ": right-to-left

// What lies on the side where lines begin: a rule, a margin.
#let before(amount) = if right-to-left { (right: amount) } else { (left: amount) }

#let ink = rgb("#1d2024")
#let soft = rgb("#5b5f66")
#let hair = rgb("#d8d4ca")
#let tint = rgb("#f5f3ed")
#let mark-ink = rgb("#1c5a63")
#let alarm = rgb("#98321f")
#let notice-ink = rgb("#6a5312")
#let roles = (
  keyword: rgb("#7a2e5d"), string: rgb("#3c6019"), number: rgb("#9a4a10"), constant: rgb("#9a4a10"),
  comment: rgb("#686b62"), name: rgb("#1b4f8a"), builtin: rgb("#28606a"),
)
#let body-font = ("Libertinus Serif", "New Computer Modern")
#let code-font = "DejaVu Sans Mono"

// A sheet left empty so that what follows stands on the right-hand side: nothing is printed on it.
#let right-hand() = {
  [#metadata(none)<left-off>]
  pagebreak(weak: true, to: "odd")
  [#metadata(none)<gone-on>]
}
#let is-empty-sheet() = {
  let at = here().page()
  let off = none
  for one in query(selector(<left-off>).or(<gone-on>)) {
    let sheet = one.location().page()
    if one.label == <left-off> { if off == none { off = sheet } }
    else if off != none and off < at and at < sheet { return true }
    else { off = none }
  }
  false
}

#let sheets(title: "", authors: (), keywords: (), language: "en", paper: "a4", fonts: (), running: none, body) = {
  set document(title: title, author: authors, keywords: keywords, date: none)
  set text(font: body-font + fonts, size: 10.5pt, fill: ink, lang: language, number-type: "lining")
  set page(
    paper: if paper == "letter" { "us-letter" } else { "a4" },
    margin: if paper == "letter" { (x: 27.95mm, top: 26mm, bottom: 28mm) } else { (x: 25mm, top: 28mm, bottom: 30mm) },
    header: context {
      if here().page() > 1 and running != none and not is-empty-sheet() {
        set text(size: 8.5pt, fill: soft)
        grid(columns: (1fr, auto), running, counter(page).display())
        v(-0.55em)
        line(length: 100%, stroke: 0.4pt + hair)
      }
    },
    footer: context {
      if here().page() == 1 { align(center, text(size: 8.5pt, fill: soft, counter(page).display())) }
    },
  )
  set par(justify: true, leading: 0.66em, spacing: 0.95em, linebreaks: "optimized")
  set heading(numbering: none)
  show heading: set block(above: 1.5em, below: 0.75em, sticky: true)
  show heading: set par(justify: false)
  show heading.where(level: 1): set text(size: 15pt, weight: "semibold")
  show heading.where(level: 1): set block(above: 2em, below: 0.85em)
  show heading.where(level: 2): set text(size: 12pt, weight: "semibold")
  show heading.where(level: 3): set text(size: 10.5pt, weight: "semibold")
  show link: set text(fill: mark-ink)
  set list(indent: 0.4em, body-indent: 0.6em, marker: ([•], [–], [·]))
  set enum(indent: 0.4em, body-indent: 0.6em)
  show figure: set block(above: 1.5em, below: 1.6em)
  set figure(gap: 0.75em)
  show figure.caption: set text(size: 9pt)
  show figure.where(kind: table): set figure.caption(position: top)
  set footnote.entry(separator: line(length: 22mm, stroke: 0.4pt + soft), gap: 0.5em)
  show footnote.entry: set text(size: 8.5pt)
  show math.equation.where(block: true): set block(above: 1.15em, below: 1.15em)
  set table(stroke: none)
  body
}

#let about-here(words) = align(center, block(above: 1.4em, below: 1.4em, text(fill: soft, emph(words))))
#let numbered(number, words) = if number == "" { words } else { text(fill: soft, weight: "regular", number) + h(0.7em) + words }

#let title-block(title: none, subtitle: none, authors: (), date: none, abstract: none, abstract-word: "", keywords: none, keywords-word: "", ..more) = {
  set par(justify: false)
  v(4mm)
  block(below: 0.8em, std.title(text(size: 22pt, weight: "semibold", hyphenate: false, title)))
  if subtitle != none { block(below: 1.2em, text(size: 13pt, fill: soft, style: "italic", subtitle)) }
  if authors.len() > 0 {
    block(above: 1.4em, below: 0.9em, grid(
      columns: calc.min(authors.len(), 3) * (auto,), column-gutter: 2.4em, row-gutter: 1em,
      ..authors.map(a => {
        text(weight: "semibold", a.name)
        for place in a.places { linebreak(); text(size: 9pt, fill: soft, place) }
        if a.email != "" { linebreak(); text(size: 9pt, link("mailto:" + a.email, a.email)) }
      })
    ))
  }
  if date != none { block(text(size: 9pt, fill: soft, date)) }
  if abstract != none {
    block(above: 1.5em, inset: before(1.1em), stroke: before(2pt + hair), width: 100%, {
      block(below: 0.6em, text(size: 8.5pt, fill: soft, tracking: 0.06em, weight: "semibold", upper(abstract-word)))
      set text(size: 9.8pt)
      set par(justify: true)
      abstract
    })
  }
  if keywords != none { block(above: 1.1em, text(size: 9pt, fill: soft, strong(keywords-word) + h(0.6em) + keywords)) }
  v(0.4em)
  line(length: 100%, stroke: 0.5pt + soft)
  v(0.6em)
}

// Where a part of a volume begins: a sheet of its own.
#let part-title(number, words, place) = {
  pagebreak(weak: true)
  set page(header: none)
  v(30%)
  show heading: set text(size: 24pt)
  [#heading(level: 1, { if number != "" { block(below: 0.8em, text(size: 13pt, fill: soft, weight: "regular", number)) }; words })#place]
  [#metadata(none)<left-off>]
  pagebreak(weak: true)
}

#let caption-of(word, number, words) = {
  if number != "" { text(weight: "semibold", word + sym.space.nobreak + number) + h(0.6em) }
  text(fill: soft, words)
}

// A listing is text and no figure: readers' aids read it line by line.
#let listing(word, number, words, breaks: true, body) = block(above: 1.5em, below: 1.6em, width: 100%, breakable: breaks, {
  block(below: 0.75em, sticky: true, text(size: 9pt, caption-of(word, number, words)))
  body
})

#let captioned(kind, word, number, words, side: center, breaks: false, wide: false, body) = {
  set align(side)
  show figure: set block(breakable: breaks)
  show figure: set align(side)
  figure(
    body, kind: kind, supplement: none, numbering: none, outlined: false,
    caption: if words == none { none } else {
      figure.caption(layout(room => {
        let whole = { set par(justify: false); caption-of(word, number, words) }
        let most = if kind == image { 0.88 } else { 1.0 } * room.width
        block(width: calc.min(measure(whole).width + 0.1pt, most), align(start, whole))
      }))
    },
  )
}

#let parts(..pictures) = {
  let all = pictures.pos()
  if calc.even(all.len()) {
    grid(columns: 2, column-gutter: 1em, row-gutter: 1em, align: center + bottom, ..all)
  } else {
    // the last one stands in the middle of its row
    grid(columns: 2, column-gutter: 1em, row-gutter: 1em, align: center + bottom, ..all.slice(0, -1))
    v(1em, weak: true)
    align(center, all.last())
  }
}
#let part(letter, body) = if letter == "" { body } else { stack(dir: ttb, spacing: 0.6em, body, text(size: 9pt, fill: soft, "(" + letter + ")")) }

// Code, and what it prints, runs from left to right, whatever the page's words do.
#let as-code(size, leading, body) = {
  set align(left)
  set text(font: code-font, size: size, dir: ltr)
  set par(justify: false, leading: leading)
  body
}
#let code-line(number: none, picked: false, body) = {
  let shown = if number == none { body } else {
    grid(columns: (2.2em, 1fr), column-gutter: 0.9em, align(right, text(fill: roles.comment, number)), body)
  }
  if picked { block(width: 100%, spacing: 0pt, outset: (x: 0.7em), inset: (y: 0.16em), fill: rgb("#ece5cf"), stroke: (left: 1.5pt + mark-ink), shown) }
  else { block(width: 100%, spacing: 0pt, inset: (y: 0.16em), shown) }
}
#let role(name, body) = text(fill: roles.at(name, default: ink), body)
#let aside(number) = h(0.6em) + box(stroke: 0.5pt + mark-ink, radius: 0.6em, inset: (x: 0.35em), outset: (y: 0.15em), text(size: 6.5pt, fill: mark-ink, number))
#let code(breaks: true, body) = block(
  width: 100%, fill: tint, radius: 2pt, inset: (x: 0.8em, y: 0.65em), above: 1em, below: 1em, breakable: breaks,
  as-code(8pt, 0.5em, { set par(spacing: 0pt, hanging-indent: 2em); body }),
)
#let asides(..notes) = block(above: 0.8em, below: 1.3em, width: 100%, { set align(start); set text(size: 9pt, fill: soft); enum(..notes) })
#let output(kind, cut: none, body) = {
  let (line, fill, paint) = if kind == "error" { (alarm, rgb("#faeeea"), alarm) } else if kind == "notice" { (notice-ink, rgb("#f8f3e2"), notice-ink) } else { (hair, none, ink) }
  block(
    width: 100%, above: 0.7em, below: 1.1em, inset: (left: 0.8em, y: if fill == none { 0.1em } else { 0.5em }, right: 0.4em),
    stroke: (left: 2pt + line), fill: fill, breakable: true,
    { as-code(8pt, 0.55em, text(fill: paint, body))
      if cut != none { linebreak(); text(font: body-font, size: 8.5pt, fill: soft, cut) } },
  )
}

#let side-by-side(widths, gutter, ..cells) = block(above: 1.3em, below: 1.3em, width: 100%, grid(columns: widths, column-gutter: gutter, ..cells))
#let box-of(kind, title: none, body) = block(
  width: 100%, fill: if kind == "caution" { rgb("#faeeea") } else { tint }, inset: (x: 1em, y: 0.8em), above: 1.2em, below: 1.2em,
  stroke: before(2pt + if kind == "caution" { alarm } else { mark-ink }),
  { if title != none { block(below: 0.7em, sticky: true, strong(title)) }; body },
)
#let quoted(body) = block(inset: before(1.2em), stroke: before(2pt + hair), above: 1.1em, below: 1.1em, text(fill: soft, body))
#let ruled = align(center, block(above: 1.5em, below: 1.5em, line(length: 35%, stroke: 0.5pt + hair)))

#let tabled(size: 9pt, columns: (), aligns: (), head: (), head-rows: 1, repeats: true, rules: (), note: none, ..cells) = {
  set text(size: size, number-width: "tabular")
  set par(justify: false, leading: 0.5em)
  table(
    columns: columns, align: aligns, inset: (x: 0.55em, y: 0.38em),
    table.hline(stroke: 0.9pt + ink),
    ..if head-rows > 0 { (table.header(repeat: repeats, ..head, ..rules, table.hline(stroke: 0.5pt + soft)),) } else { () },
    ..cells,
    table.hline(stroke: 0.9pt + ink),
  )
  if note != none { block(above: 0.5em, text(size: 8pt, fill: soft, note)) }
}

#let group-words(words) = emph(words)
#let hung(marks) = context { let body = super(marks); body; h(-measure(body).width) } // numbers stay in line
#let table-notes(above, words) = v(-0.5em) + layout(room => {
  let width = calc.min(measure(above, width: room.width).width, room.width)
  block(above: 0.3em, below: 0pt, width: calc.max(width, 5cm), { set align(start); set par(justify: false, leading: 0.45em); text(size: 8pt, fill: soft, words) })
})

#let references(labelled: false, ..entries) = {
  set par(justify: false, leading: 0.55em)
  set text(size: 9.5pt)
  for entry in entries.pos() {
    let words = { entry.words; if entry.back != "" { h(0.4em); link(label(entry.back), text(size: 0.8em, fill: hair.darken(25%), "↑")) } }
    let body = if labelled { grid(columns: (2.2em, 1fr), text(fill: soft, entry.label), words) } else { par(hanging-indent: 1.6em, words) }
    [#block(above: 0.75em, below: 0.75em, body)#label(entry.id)]
  }
}

// Terms in two columns, with the sheets that each is named on.
#let index-list(..entries) = columns(2, gutter: 2em, {
  set par(justify: false, leading: 0.5em, spacing: 0.5em, hanging-indent: 1.2em)
  set text(size: 9.5pt)
  let last = ""
  for entry in entries.pos() {
    if entry.letter != "" and entry.letter != last { block(above: 1.1em, below: 0.5em, sticky: true, text(fill: soft, weight: "semibold", entry.letter)) }
    if entry.letter != "" { last = entry.letter }
    par({
      if entry.letter == "" { h(1.2em) }
      entry.words
      context {
        let sheets = ()
        for place in entry.places {
          let number = counter(page).at(label(place)).first()
          if number not in sheets { sheets.push(number); [, #link(label(place), str(number))] }
        }
      }
      if entry.further != [] { [, ]; entry.further }
    })
  }
})

#let contents-list(title, ..entries) = {
  if title != none { block(below: 0.8em, text(size: 12pt, weight: "semibold", title)) }
  for entry in entries.pos() {
    block(above: if entry.part { 1.2em } else { 0.55em }, below: 0.55em, inset: before((entry.level - 1) * 1.3em), link(label(entry.label), {
      set text(fill: ink, weight: if entry.part { "semibold" } else { "regular" })
      if entry.number != "" { text(fill: soft, entry.number) + h(0.7em) }
      entry.words
      box(width: 1fr, inset: (x: 0.5em), repeat(gap: 0.35em, text(fill: hair, ".")))
      context counter(page).at(label(entry.label)).first()
    }))
  }
  v(1em)
}
