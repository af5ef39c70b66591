// A label for every cylinder, eight to a page: name, refrigerant, tare, what it may weigh at most, QR code.
#import "house.typ": *

#show: house.with("Cylinder labels", margin: (x: 10mm, top: 10mm, bottom: 12mm), footer: foot[Cut along the lines. The label on the cylinder by its manufacturer stays readable.])

#grid(
  columns: (1fr, 1fr), gutter: 4mm,
  ..data.cylinders.map(c => block(
    width: 100%, height: 58mm, stroke: .7pt + ink, radius: 1mm, inset: 4mm, breakable: false,
    grid(
      columns: (1fr, 24mm), column-gutter: 3mm,
      {
        text(size: 15pt, weight: 700, c.name)
        linebreak()
        text(size: 12pt, weight: 700, if c.refrigerant == "" { "Refrigerant: ________" } else { c.refrigerant })
        [ · #if c.kind == "recovery" [RECOVERY] else [NEW, never refill]]
        v(1mm)
        set text(size: 9pt)
        grid(
          columns: (auto, 1fr), column-gutter: 3mm, row-gutter: 1.6mm,
          [Tare], figure-text(c.tare), [Water capacity], figure-text(c.water),
          [Net at most], figure-text(if c.limit == "" { "–" } else { c.limit }),
          [Owner], [#c.owner], [Test by], [#if c.retest_on == "" [–] else [#c.retest_on]],
        )
        if c.kind == "recovery" { v(1mm); text(size: 8pt)[Never more than 80 % full. Never mix refrigerants.] }
      },
      image(bytes(c.qr), format: "svg", width: 24mm, alt: "Code of cylinder " + c.name),
    ),
  )),
)
