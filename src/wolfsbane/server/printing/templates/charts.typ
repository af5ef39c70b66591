// Pressure-temperature charts, one page for each refrigerant.
#import "house.typ": *

#show: house.with(
  data.charts.map(chart => chart.refrigerant).join(", "), margin: (x: 12mm, top: 10mm, bottom: 12mm), footer: foot(training),
)

#let rows-of(chart, rows) = {
  let columns = if chart.blend { 3 } else { 2 }
  table(
    columns: (1fr,) * columns, inset: (x: 1.6mm, y: 1.15mm), align: right,
    stroke: (x, y) => if y == 0 { (bottom: .8pt + accent) },
    fill: (x, y) => if y > 0 and rows.at(y - 1).whole { tint },
    table.header(
      column-head(chart.temperature),
      ..if chart.blend {
        (
          text(size: 7.6pt, fill: side-colors.low)[dew],
          text(size: 7.6pt, fill: side-colors.high)[bubble],
        )
      } else { (column-head(chart.pressure),) },
    ),
    ..rows.map(row => (text(weight: 700, number-width: "tabular", row.temperature), ..row.pressures.map(figure-text))).flatten(),
  )
}

#for (index, chart) in data.charts.enumerate() {
  if index > 0 { pagebreak() }
  head(
    chart.refrigerant,
    [Pressure and saturation temperature · gauge pressure at sea level · class #chart.safety_class],
    right-side: small[#chart.temperature → #chart.pressure],
  )
  set text(size: 9.2pt)
  grid(columns: (1fr,) * chart.columns.len(), column-gutter: 5mm, ..chart.columns.map(rows => rows-of(chart, rows)))
  small[#if chart.blend [Use the dew point for superheat, the bubble point for subcooling. ]Pressures below zero are vacuum on a compound gauge. At altitude a gauge reads higher for the same temperature; the PT scales on Wolfsbane's sheets are corrected for altitude.]
}
