// What every paper shares: page, type, and the parts that are drawn again and again.
// A paper is a template fed with data; whatever comes from there is text, never markup.

#let data = json(bytes(sys.inputs.data))
// What stands on a page in the language of whoever gets it; English where there is nothing else.
#let say(of, english) = data.at("words", default: (:)).at(of.at("lang", default: "en"), default: (:)).at(english, default: english)

#let ink = rgb("#1d1b26")
#let soft = rgb("#4a4756")
#let accent = rgb("#4b3a8c")
#let hair = rgb("#cfccd8")
#let edge = rgb("#8d889c")
#let tint = rgb("#edeaf5")
#let amber = rgb("#c77700")
#let side-colors = (low: rgb("#1f5fae"), high: rgb("#b3261e"))

#let large = data.sheet.at("large", default: false) == true
#let size = if large {
  (
    base: 14pt, h1: 16pt, h2: 11pt, turn: 15pt, small: 12.5pt, plate: 12.5pt, cell: 12.5pt, choice: 12.5pt,
    step: 12.5pt, pill: 11pt, key: 9mm, blank: 9mm, row: 11mm, dial: 84mm, drill-dial: 66mm,
  )
} else {
  (
    base: 9.6pt, h1: 13pt, h2: 8pt, turn: 12pt, small: 7.8pt, plate: 8.2pt, cell: 8.7pt, choice: 8.1pt,
    step: 9.2pt, pill: 8pt, key: 6mm, blank: 5.4mm, row: 6.5mm, dial: 64mm, drill-dial: 50mm,
  )
}
#let training = "Wolfsbane is for training, not a service instruction for a live machine. Local codes and licensed practice come first."

// Page, type and headings of a document; `footer` is content or none.
#let house(title, margin: (x: 12mm, top: 9mm, bottom: 12mm), footer: none, landscape: false, body) = {
  set document(title: title)
  set page(
    paper: if data.paper_size == "A4" { "a4" } else { "us-letter" },
    flipped: landscape, margin: margin, footer: footer, footer-descent: 3.2mm,
  )
  set text(font: ("Archivo", "DejaVu Sans"), size: size.base, fill: ink, lang: "en", region: "US", hyphenate: false)
  set par(leading: 0.56em, spacing: 2.4mm)
  set list(indent: 1.5mm, body-indent: 1.3mm, spacing: 1.45mm)
  set grid(align: left)
  set table(align: left, stroke: none)
  show heading.where(level: 1): set text(size: size.h1, weight: 700)
  show heading.where(level: 1): set block(above: 0mm, below: 1.6mm)
  show heading.where(level: 2): it => block(above: 3.2mm, below: 2.5mm, text(
    size: size.h2, weight: 700, fill: accent, tracking: .06em, upper(it.body),
  ))
  show emph: set text(fill: accent, style: "normal")
  show heading.where(level: 2): set heading(bookmarked: false)
  body
}

#let foot(..parts) = {
  set text(size: 6.8pt, fill: soft)
  grid(columns: (1fr, auto), column-gutter: 4mm, align: (left, right), ..parts)
}
#let small(body) = text(size: size.small, fill: soft, body)
#let strong-figure(body) = box(text(weight: 600, number-width: "tabular", body))
#let figure-text(body) = text(weight: 600, number-width: "tabular", body)
#let minus(value) = str(value).replace("-", "−")
#let code(body) = text(font: "B612", weight: 700, size: 16pt, body)
#let numbered(n) = text(weight: 700, fill: accent, str(n))
#let caution(body, above: 2.6mm) = block(
  above: above, inset: (left: 2mm, y: .6mm), stroke: (left: 1mm + amber), text(size: size.small, fill: ink, body),
)
#let framed(body) = block(width: 100%, stroke: .6pt + edge, radius: 1.2mm, inset: (x: 2.4mm, y: 2mm), body)
#let blank(width: 21mm, height: size.blank) = box(
  width: width, height: height, stroke: .7pt + ink, radius: .8mm, baseline: 1.2mm,
)
#let pill(word) = box(
  stroke: .7pt + ink, radius: 3mm, inset: (x: 2mm, y: .9mm), baseline: .9mm, text(size: size.pill, word),
)
#let pills(words) = words.map(pill).join(h(1mm))
// Lines between the rows of a list of things to fill in or to read.
#let ruled(..given) = grid(stroke: (bottom: .4pt + hair), ..given)

#let column-head(body) = text(size: 7.6pt, fill: soft, body)

// The head of a page: who, of what, and the code with its square. Only the first of several has a bookmark.
#let head(title, below, right-side: none, bookmarked: true) = block(
  width: 100%, below: 2.8mm, inset: (bottom: 1.6mm), stroke: (bottom: 1.2pt + accent),
  grid(
    columns: (1fr, auto), align: (left + bottom, right + bottom), column-gutter: 3mm,
    [#heading(level: 1, bookmarked: bookmarked, title)
      #small(below)],
    right-side,
  ),
)

// A gauge: the face is one picture for every reading, the needle one picture turned to its angle.
#let dial(drawn, width) = box(width: width, height: width, {
  place(top + left, image(bytes(data.faces.at(drawn.face)), format: "svg", width: width, alt: drawn.alt))
  place(top + left, rotate(drawn.needle_deg * 1deg, pdf.artifact(image(
    bytes(data.needle), format: "svg", width: width,
  ))))
})

// Right, half and wrong in black and white.
#let tick = text(font: "DejaVu Sans", "✓")
#let cross = text(font: "DejaVu Sans", "✗")

// Two parts beside one another, their widths as `a` to `b`. A grid would lay out either part twice, and what stands in
// grids of its own four times; but what is taller than a page goes on to the next in a grid alone: large print.
#let beside(a, b, gutter, first, second) = if large {
  grid(columns: (a * 1fr, b * 1fr), column-gutter: gutter, first, second)
} else {
  stack(
    dir: ltr, spacing: gutter,
    block(width: (100% - gutter) * (a / (a + b)), first), block(width: (100% - gutter) * (b / (a + b)), second),
  )
}

// A table to read down, with a hairline under each row.
#let listing(..given) = table(stroke: (bottom: .4pt + hair), inset: (x: 1.4mm, y: 1.1mm), align: left + top, ..given)
