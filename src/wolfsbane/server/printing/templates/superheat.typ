// Target total superheat of a fixed orifice over outdoor air and return wet bulb.
#import "house.typ": *

#show: house.with(
  "Target superheat", margin: (x: 12mm, top: 10mm, bottom: 12mm), landscape: true, footer: foot(training),
)

#let heading-cell(body) = text(font: "B612", weight: 700, body)

#head(
  "Target total superheat of a fixed orifice",
  [#if data.by == "formula" [(3 × wet bulb − 80 − outdoors) / 2 in °F] else [as manufacturers' charts show it: 0 to 1.5 °F below the formula] · in #data.difference_unit],
)
#set text(size: 9pt)
#table(
  columns: (auto, ..(1fr,) * data.wet_bulb.len()), inset: (x: .6mm, y: 1.5mm), align: center + horizon,
  stroke: .4pt + rgb("#b9b4c6"), fill: (x, y) => if x == 0 or y == 0 { tint },
  table.header([outdoors #data.unit ↓ \ return wet bulb →], ..data.wet_bulb.map(heading-cell)),
  ..data.rows.map(row => (heading-cell(row.outdoor), ..row.cells.map(figure-text))).flatten(),
)
#small[Dash: the target is too small to charge by; weigh the charge in. Airflow and coils first, charge last. Common practice; the manufacturer's own chart comes first.]
